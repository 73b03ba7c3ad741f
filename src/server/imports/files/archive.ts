import { PassThrough, pipeline, Transform, type Readable } from 'node:stream';
import { crc32 } from 'node:zlib';
import yauzl from 'yauzl';
import yazl from 'yazl';
import { ServiceError } from '../../errors.ts';

/** Zips from outside: opened, listed and read within limits, whatever they say of themselves. */

const mega = 1024 * 1024;

/** What an honest workbook or package stays under; a million rows of terms are 0.4 GB unpacked. */
const limits = {
  entries: 5000,
  entryBytes: 1536 * mega,
  totalBytes: 3072 * mega,
  /** Unpacked bytes per packed one, beyond the first few megabytes: tables pack to a tenth, seldom to a fiftieth. */
  density: 250,
  freeBytes: 64 * mega,
  /** Parts that are kept in memory as a whole. */
  keptBytes: 256 * mega,
};

const kept = /(^|\/)(sharedStrings|styles|workbook)\.xml$|\.rels$|^\[Content_Types\]\.xml$/i;

export interface Archive {
  entries: Map<string, yauzl.Entry>;
  /** The unpacked part; fails when it holds more than it said, or is damaged. */
  open: (entry: yauzl.Entry) => Promise<Readable>;
}

const bad = (detail: string) =>
  new ServiceError(
    422,
    'bad_archive',
    `It begins as a workbook or an archive and cannot be read as one: ${detail}`,
  );

function openZip(path: string): Promise<yauzl.ZipFile> {
  return new Promise((resolve, reject) => {
    yauzl.open(path, { lazyEntries: true, autoClose: false }, (error, zip) => {
      if (error) reject(bad('is it whole?'));
      else resolve(zip);
    });
  });
}

async function entriesOf(zip: yauzl.ZipFile): Promise<Map<string, yauzl.Entry>> {
  const entries = new Map<string, yauzl.Entry>();
  let total = 0;
  await new Promise<void>((resolve, reject) => {
    zip.on('entry', (entry: yauzl.Entry) => {
      const problem = problemOf(entry, entries.size + 1, (total += entry.uncompressedSize));
      if (problem !== null) return reject(bad(problem));
      entries.set(entry.fileName, entry);
      zip.readEntry();
    });
    zip.once('end', resolve);
    zip.once('error', (error: Error) => {
      reject(bad(`${error.message}.`));
    });
    zip.readEntry();
  });
  return entries;
}

function problemOf(entry: yauzl.Entry, count: number, total: number): string | null {
  const { fileName, uncompressedSize: size, compressedSize: packed } = entry;
  if (entry.isEncrypted()) return `its part ${fileName} is encrypted. Save it without a password.`;
  if (count > limits.entries) return `it has more than ${limits.entries} parts.`;
  if (size > limits.entryBytes || total > limits.totalBytes)
    return 'unpacked it would be larger than is read. Divide it, or save it as CSV.';
  if (kept.test(fileName) && size > limits.keptBytes)
    return `its part ${fileName} is larger than is read. Save it as CSV.`;
  if (size > limits.freeBytes && size > packed * limits.density)
    return `its part ${fileName} unpacks to more than ${limits.density} times its size, as no table does.`;
  return null;
}

/** The stream fails at its end when its bytes are not those that were packed. */
function checked(stream: Readable, entry: yauzl.Entry): Readable {
  let sum = 0;
  const check = new Transform({
    transform(chunk: Buffer, _, done) {
      sum = crc32(chunk, sum);
      done(null, chunk);
    },
    flush(done) {
      done(sum === entry.crc32 ? null : bad(`its part ${entry.fileName} is damaged.`));
    },
  });
  // A failure reaches whoever reads; here it needs no one.
  pipeline(stream, check, () => undefined);
  return check;
}

const opener =
  (zip: yauzl.ZipFile): Archive['open'] =>
  (entry) =>
    new Promise((resolve, reject) => {
      zip.openReadStream(entry, (error, stream) => {
        if (error) reject(bad(`${error.message}.`));
        else resolve(checked(stream, entry));
      });
    });

/** Opens a zip. Damage shows as a `ServiceError` that names the part. */
export async function openArchive(path: string): Promise<Archive & { close: () => void }> {
  const zip = await openZip(path);
  const close = () => {
    zip.close();
  };
  try {
    return { entries: await entriesOf(zip), open: opener(zip), close };
  } catch (error) {
    close();
    throw error;
  }
}

/** Opens a zip for as long as `work` takes. */
export async function withArchive<T>(path: string, work: (archive: Archive) => Promise<T>): Promise<T> {
  const archive = await openArchive(path);
  try {
    return await work(archive);
  } finally {
    archive.close();
  }
}

/** Reads a zip to its end without keeping anything: what passes here is whole and of an honest size. */
export const checkArchive = (path: string): Promise<void> =>
  withArchive(path, async ({ entries, open }) => {
    for (const entry of entries.values()) {
      if (entry.fileName.endsWith('/')) continue;
      try {
        for await (const chunk of await open(entry)) void chunk;
      } catch (error) {
        if (error instanceof ServiceError) throw error;
        throw bad(`its part ${entry.fileName} is damaged.`);
      }
    }
  });

/** What a reader of workbooks wants to know before the sheets come. */
const firstParts = [
  /^\[Content_Types\]\.xml$/,
  /\.rels$/,
  /^xl\/workbook\.xml$/,
  /^xl\/(sharedStrings|styles)\.xml$/i,
];
const rank = (name: string): number => {
  const at = firstParts.findIndex((pattern) => pattern.test(name));
  return at < 0 ? firstParts.length : at;
};

/** Passes the first rows of a sheet on and closes it behind them; sheets with less, or of another make, whole. */
export function headOfSheet(rows: number): Transform {
  const rowEnd = '</row>';
  let left = rows;
  let tail = '';
  return new Transform({
    transform(chunk: Buffer, _, done) {
      if (left === 0) return done();
      // Bytes as signs of their own: a mark that was cut between two chunks is found all the same.
      const text = tail + chunk.toString('latin1');
      let at = 0;
      while (left > 0) {
        const found = text.indexOf(rowEnd, at);
        if (found < 0) break;
        at = found + rowEnd.length;
        left--;
      }
      const end = left === 0 ? at : Math.max(at, text.length - rowEnd.length);
      tail = text.slice(end);
      this.push(Buffer.from(text.slice(0, end), 'latin1'));
      if (left === 0) this.push('</sheetData></worksheet>');
      done();
    },
    flush(done) {
      if (left > 0) this.push(Buffer.from(tail, 'latin1'));
      done();
    },
  });
}

/**
 * The parts of an archive that passed `checkArchive`, zipped anew: whoever reads this meets no header but ours. Pictures
 * and the like are left out; of sheets the first `rows`. `onRead` hears of packed bytes of the original as they are read.
 */
export function repacked(
  { entries, open }: Archive,
  rows: number,
  onRead: (bytes: number) => void,
): Readable {
  const zip = new yazl.ZipFile();
  const out = zip.outputStream as unknown as Readable;
  const wanted = [...entries.values()]
    .filter(({ fileName }) => /\.(xml|rels)$/i.test(fileName))
    .sort((a, b) => rank(a.fileName) - rank(b.fileName));
  const counted = ({ compressedSize, uncompressedSize }: yauzl.Entry) =>
    new Transform({
      transform(chunk: Buffer, _, done) {
        onRead((chunk.length * compressedSize) / Math.max(1, uncompressedSize));
        done(null, chunk);
      },
    });
  const opened = async (entry: yauzl.Entry, done: (error: unknown, stream: Readable) => void) => {
    const isSheet = /^xl\/worksheets\/[^/]+\.xml$/i.test(entry.fileName);
    try {
      const end = isSheet && rows < Infinity ? headOfSheet(rows) : new PassThrough();
      pipeline(await open(entry), counted(entry), end, (error) => {
        if (error) out.destroy(error);
      });
      done(null, end);
    } catch (error) {
      out.destroy(error as Error);
    }
  };
  for (const entry of wanted)
    zip.addReadStreamLazy(entry.fileName, { compressionLevel: 1 }, (done) => void opened(entry, done));
  zip.end();
  return out;
}
