import { randomBytes } from 'node:crypto';
import { Readable } from 'node:stream';
import { setTimeout as sleep } from 'node:timers/promises';
import rateLimit from '@fastify/rate-limit';
import Fastify, { type FastifyInstance } from 'fastify';
import Joi from 'joi';
import { limits, placements } from '../world/account.ts';
import type { World } from '../world/world.ts';
import { check, page, problem } from './answers.ts';
import { catalogueRoutes } from './catalogue.ts';
import { applyBatch } from './changes.ts';
import { Faults } from './faults.ts';
import { batchSchema } from './lines.ts';
import { reportCsv, reportKinds, type ReportKind } from './reports.ts';
import { productRows, structureRows } from './structure.ts';

export interface ServerOptions {
  secret: string;
  tokenSeconds: number;
  requestsPerSecond: number;
  /** Fault switches and truth are for tests and the decision laboratory only. */
  faults: boolean;
  reveal: boolean;
}

const reportSchema = Joi.object<{ kind: ReportKind; from: string; to: string }>({
  kind: Joi.string()
    .valid(...reportKinds)
    .required(),
  from: Joi.string()
    .pattern(/^\d{4}-\d{2}-\d{2}$/)
    .required(),
  to: Joi.string()
    .pattern(/^\d{4}-\d{2}-\d{2}$/)
    .required(),
});

/** Days are 24 hours each, from whatever hour it is. */
const clockSchema = Joi.object<{ days?: number; hours?: number }>({
  days: Joi.number().integer().min(1).max(180),
  hours: Joi.number()
    .integer()
    .min(1)
    .max(180 * 24),
}).xor('days', 'hours');

const faultSchema = Joi.object({
  kind: Joi.string().valid('latency', 'error', 'cut_before_batch', 'cut_after_batch').required(),
  times: Joi.number().integer().min(0).default(1),
  milliseconds: Joi.number().integer().min(0).default(0),
});

/** The advertising API over one world. */
export async function makeServer(world: World, options: ServerOptions): Promise<FastifyInstance> {
  const app = Fastify({ bodyLimit: 4 << 20 });
  const faults = new Faults();
  const { sql } = world;
  let advancing: { done: number; hours: number } | null = null;

  await app.register(rateLimit, { max: options.requestsPerSecond, timeWindow: 1000 });

  app.setErrorHandler((error: Error & { statusCode?: number; code?: string }, _request, reply) => {
    const status = error.statusCode ?? 500;
    const message = status >= 500 ? 'Quayside could not do this.' : error.message;
    void reply.status(status).send({ code: error.code ?? 'error', message });
  });

  app.addHook('onRequest', async (request) => {
    if (request.url === '/token' || request.url === '/health' || request.url === '/faults') return;
    const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
    const [known] = await sql`select 1 from token where token = ${token} and expires_at > now()`;
    if (!known)
      throw problem(401, 'token_expired', 'The token is unknown or has expired: ask for a new one.');
    const wait = faults.take('latency');
    if (wait !== null) await sleep(wait);
    if (faults.take('error') !== null) throw problem(500, 'error', 'Quayside could not do this.');
  });

  app.get('/health', async () => ({ today: world.today, hour: world.hour, advancing }));

  app.post('/token', async (request) => {
    const { secret } = (request.body ?? {}) as { secret?: string };
    if (secret !== options.secret) throw problem(401, 'bad_secret', 'The secret is wrong.');
    const token = randomBytes(24).toString('hex');
    await sql`delete from token where expires_at < now()`;
    await sql`
      insert into token values (${token}, now() + make_interval(secs => ${options.tokenSeconds}))`;
    return { token, expires_in: options.tokenSeconds };
  });

  app.get('/account', async () => ({
    ...world.scenario.account,
    today: world.today,
    hour: world.hour,
  }));
  app.get('/limits', async () => ({ ...limits, placements }));
  app.get<{ Querystring: { cursor?: string; limit?: string } }>('/structure', async ({ query }) => ({
    version: world.structure.version,
    ...page(structureRows(world), query),
  }));
  app.get<{ Querystring: { cursor?: string; limit?: string } }>('/products', async ({ query }) =>
    page(productRows(world), query),
  );

  catalogueRoutes(app, world);

  app.post('/reports', async (request, reply) => {
    const { kind, from, to } = check(reportSchema, request.body);
    if (world.today === null || to > world.today) {
      throw problem(400, 'bad_range', `There are no days after ${world.today ?? 'none'} yet.`);
    }
    if (from > to) throw problem(400, 'bad_range', 'from lies after to.');
    const id = `r${randomBytes(8).toString('hex')}`;
    await sql`
      insert into report (id, kind, from_day, to_day, as_of, state)
      values (${id}, ${kind}, ${from}, ${to}, ${world.today}, 'pending')`;
    return reply.status(202).send({ id, state: 'pending' });
  });

  app.get<{ Params: { id: string } }>('/reports/:id', async ({ params }) => {
    // A report is ready at its second look, so that whoever asks learns to wait.
    const [report] = await sql`select id, kind, state from report where id = ${params.id}`;
    if (!report) throw problem(404, 'unknown_report', `There is no report ${params.id}.`);
    await sql`update report set state = 'ready' where id = ${params.id}`;
    return { ...report, progress: report.state === 'ready' ? 1 : 0.5 };
  });

  app.get<{ Params: { id: string } }>('/reports/:id/file', async ({ params }, reply) => {
    const [report] = await sql<
      { kind: ReportKind; from_day: string; to_day: string; as_of: string; state: string }[]
    >`
      select kind, from_day::text, to_day::text, as_of::text, state from report where id = ${params.id}`;
    if (!report) throw problem(404, 'unknown_report', `There is no report ${params.id}.`);
    if (report.state !== 'ready') throw problem(409, 'not_ready', 'The report is still being made.');
    const text = reportCsv(world, report.kind, report.from_day, report.to_day, report.as_of);
    return reply.type('text/csv; charset=utf-8').send(Readable.from(text));
  });

  app.post('/changes', async (request, reply) => {
    const { idempotency_key: key, lines } = check(batchSchema, request.body);
    if (faults.take('cut_before_batch') !== null) return reply.hijack().raw.destroy();
    const result = await applyBatch(world, key, lines);
    if (!result) throw problem(409, 'key_reused', 'This idempotency key was used for other lines.');
    if (faults.take('cut_after_batch') !== null) return reply.hijack().raw.destroy();
    return { lines: result.answers, repeated: result.repeated, version: world.structure.version };
  });

  app.post('/clock/advance', async (request) => {
    const { days, hours = (days ?? 0) * 24 } = check(clockSchema, request.body);
    if (advancing) throw problem(409, 'advancing', 'The clock is being advanced already.');
    advancing = { done: 0, hours };
    try {
      while (advancing.done < hours) {
        const stretch = Math.min(24, hours - advancing.done);
        await world.advance(stretch);
        advancing.done += stretch;
      }
    } finally {
      advancing = null;
    }
    return { today: world.today, hour: world.hour };
  });

  if (options.faults) {
    app.post('/faults', async (request) => {
      const { kind, times, milliseconds } = check(faultSchema, request.body);
      faults.set(kind, times, milliseconds);
      return { kind, times };
    });
  }
  if (options.reveal) {
    app.get<{ Querystring: { cursor?: string; limit?: string } }>('/truth', async ({ query }) => {
      const { queries, pages } = world.demand;
      return page(
        [...queries, ...pages].map((entry) => ({
          term: entry.text,
          popularity: entry.popularity,
          products: world.scenario.products.map((product, p) => ({
            sku: product.sku,
            conversion: entry.conversion[p],
            value: product.price,
          })),
        })),
        query,
      );
    });
  }
  return app;
}
