import { readFileSync } from 'node:fs';
import { parseArgs } from 'node:util';
import postgres from 'postgres';
import { makeServer } from './api/server.ts';
import { readScenario } from './scenario.ts';
import { World } from './world/world.ts';

// quayside --scenario FILE [--port N] [--days N] [--faults] [--reveal]; QUAYSIDE_DATABASE_URL, QUAYSIDE_SECRET.
const { values } = parseArgs({
  options: {
    scenario: { type: 'string' },
    port: { type: 'string', default: '0' },
    days: { type: 'string', default: '0' },
    faults: { type: 'boolean', default: false },
    reveal: { type: 'boolean', default: false },
  },
});
const url = process.env.QUAYSIDE_DATABASE_URL;
if (!url) throw new Error('Set QUAYSIDE_DATABASE_URL to the database that holds Quayside.');

const sql = postgres(url, { max: 4, onnotice: () => undefined });
const scenario = values.scenario ? readScenario(JSON.parse(readFileSync(values.scenario, 'utf8'))) : null;
const world = await World.open(sql, scenario);
const wanted = Number(values.days);
const lived = (): number => {
  if (world.today === null) return 0;
  const first = Date.parse(world.scenario.account.firstDay);
  return Math.round((Date.parse(world.today) - first) / 864e5) + 1;
};
while (lived() < wanted) {
  await world.advance();
  process.stdout.write(`${JSON.stringify({ event: 'day', day: world.today, lived: lived(), wanted })}\n`);
}

const app = await makeServer(world, {
  secret: process.env.QUAYSIDE_SECRET ?? 'quayside-demo',
  tokenSeconds: Number(process.env.QUAYSIDE_TOKEN_SECONDS ?? 3600),
  requestsPerSecond: Number(process.env.QUAYSIDE_RATE ?? 40),
  faults: values.faults,
  reveal: values.reveal,
});
const address = await app.listen({ host: '127.0.0.1', port: Number(values.port) });
process.stdout.write(`${JSON.stringify({ event: 'ready', address, today: world.today })}\n`);

for (const signal of ['SIGINT', 'SIGTERM'] as const) {
  process.once(signal, () => {
    void app
      .close()
      .then(() => sql.end({ timeout: 2 }))
      .then(() => process.exit(0));
  });
}
