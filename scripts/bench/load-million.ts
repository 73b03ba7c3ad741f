import { createReadStream, createWriteStream, openAsBlob, statSync } from 'node:fs';
import { once } from 'node:events';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import postgres from 'postgres';
import { loadFile } from './load-file.ts';
import { memoryOf, type Measure } from './measure.ts';
import { waitForJob, type Running } from '../lib/processes.ts';

const rows = 1_000_000;

async function writeFile(path: string): Promise<void> {
  const file = createWriteStream(path);
  file.write(
    'date,campaign,campaign_id,ad_group,ad_group_id,target,target_id,match_type,term,impressions,clicks,spend,orders,units,sales\n',
  );
  for (let i = 0; i < rows; i += 1000) {
    let text = '';
    for (let j = i; j < i + 1000; j++) {
      const target = j % 20_000;
      const campaign = target % 400;
      const day = new Date(Date.UTC(2026, 7, 24 + Math.floor((j * 90) / rows))).toISOString().slice(0, 10);
      text += `${day},Campaign ${campaign},c${campaign},Group ${campaign},g${campaign},keyword ${target},t${target},broad,some term ${(j * 7919) % 200_000} here,40,3,1.27,1,1,18.90\n`;
    }
    if (!file.write(text)) await once(file, 'drain');
  }
  await new Promise((done) => file.end(done));
}

/** A file of a million rows through the real importer, against a bare COPY of it into an unindexed table. */
export async function loadMillion(
  app: Running & { databaseUrl: string },
  folder: string,
): Promise<Measure[]> {
  const path = join(folder, 'million.csv');
  await writeFile(path);
  const sql = postgres(app.databaseUrl, { max: 1, onnotice: () => undefined });
  const bare = async (): Promise<number> => {
    await sql`drop table if exists bare`;
    await sql`create table bare (date date, campaign text, campaign_id text, ad_group text, ad_group_id text, target text,
      target_id text, match_type text, term text, impressions int, clicks int, spend numeric, orders int, units int, sales numeric)`;
    const start = performance.now();
    const writable = await sql`copy bare from stdin (format csv, header)`.writable();
    await pipeline(createReadStream(path), writable);
    return (performance.now() - start) / 1000;
  };
  const first = await bare();
  const idle = memoryOf(app.child.pid!);
  let most = idle;
  let mostLoading = idle;
  const jobId = await loadFile(app, 'million.csv', await openAsBlob(path), 'terms-daily');
  let begun = performance.now();
  let waiting = true;
  let rowsIn: number | null = null;
  const watch = setInterval(() => {
    most = Math.max(most, memoryOf(app.child.pid!));
    if (rowsIn === null) mostLoading = most;
  }, 100);
  // The rows are in when their import is told; what the account learns from them comes after.
  const look = setInterval(() => {
    void sql`select 1 from import where state = 'loaded'`.then((found) => {
      if (found.length > 0) rowsIn ??= performance.now();
    });
  }, 200);
  await waitForJob(app.url, jobId, ({ bytes }) => {
    if (waiting && bytes === undefined) begun = performance.now();
    else waiting = false;
  });
  const seconds = (performance.now() - begun) / 1000;
  clearInterval(watch);
  clearInterval(look);
  const loaded = ((rowsIn ?? performance.now()) - begun) / 1000;
  const copy = Math.min(first, await bare());
  await sql.end();
  const megabytes = Math.round(statSync(path).size / 1e6);
  return [
    {
      name: 'load-terms-1M',
      value: loaded,
      unit: 's until the rows are in',
      reference: `bare COPY of the same ${megabytes} MB (${copy.toFixed(1)} s)`,
      ratio: loaded / copy,
      aim: 'at most 2 times',
    },
    {
      name: 'load-and-learn-1M',
      value: seconds,
      unit: 's until the account has learned from them',
      reference: `bare COPY of the same ${megabytes} MB (${copy.toFixed(1)} s)`,
      ratio: seconds / copy,
      aim: 'none',
    },
    {
      name: 'load-terms-1M-memory',
      value: mostLoading - idle,
      unit: 'MiB over idle until the rows are in',
      reference: '300 MiB',
      ratio: (mostLoading - idle) / 300,
      aim: 'under 300 MiB',
    },
    {
      name: 'load-and-learn-1M-memory',
      value: most - idle,
      unit: 'MiB over idle until the account has learned from them',
      reference: 'what the loading alone takes',
      ratio: (most - idle) / (mostLoading - idle),
      aim: 'none',
    },
  ];
}
