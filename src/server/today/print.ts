import { execFile } from 'node:child_process';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { config } from '../config.ts';
import { ServiceError } from '../errors.ts';
import { log } from '../log.ts';

/** Prints pages as PDF with the browser of this machine, one after the other. */

const run = promisify(execFile);
const patience = 60_000;

let last: Promise<unknown> = Promise.resolve();

/** A page as PDF. It loads nothing: its profile is fresh and goes with it. */
export function printed(html: string): Promise<Buffer> {
  const work = last.then(() => print(html));
  last = work.catch(() => undefined);
  return work;
}

async function print(html: string): Promise<Buffer> {
  if (config.chromium === '')
    throw new ServiceError(
      501,
      'no_browser',
      'No Chromium is installed where Mowing runs, so that it cannot make a PDF. Open the page and print it from your browser.',
    );
  const folder = await mkdtemp(join(tmpdir(), 'mowing-print-'));
  try {
    const [page, made] = [join(folder, 'page.html'), join(folder, 'page.pdf')];
    await writeFile(page, html);
    await run(
      config.chromium,
      [
        '--headless',
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--disable-dev-shm-usage',
        `--user-data-dir=${join(folder, 'profile')}`,
        '--no-pdf-header-footer',
        `--print-to-pdf=${made}`,
        `file://${page}`,
      ],
      { timeout: patience },
    );
    return await readFile(made);
  } catch (error) {
    log.warn({ error }, 'a report could not be printed');
    throw new ServiceError(
      503,
      'not_printed',
      'The browser of this machine did not print the report. Try again, or open the page and print it from your own.',
    );
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
