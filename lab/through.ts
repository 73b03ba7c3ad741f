import { callApi, demoAccount, startApplication, waitForJob } from '../scripts/lib/processes.ts';
import type { Finding } from '../src/core/round/types.ts';
import { expectedWeek } from './crowd/best.ts';
import type { Family } from './crowd/families.ts';
import { Market } from './crowd/market.ts';
import { serveMarket } from './crowd/server.ts';
import { rounds, type Played } from './play.ts';

/** Plays Mowing on a market as anybody would run it: the built application over HTTP, everything accepted each week. */
export async function playThrough(
  family: Family,
  seed: number,
  databaseUrl: string,
  files: string,
): Promise<Played> {
  const market = new Market(family, seed);
  const served = await serveMarket(market);
  const application = await startApplication({
    MOWING_DATABASE_URL: databaseUrl,
    MOWING_DATA_DIR: files,
    QUAYSIDE_URL: served.url,
  });
  const call = <T>(method: string, path: string, body?: unknown) =>
    callApi<T>(application.url, method, path, body);
  const fetched = async () => {
    const { jobId } = await call<{ jobId: string }>('POST', '/api/1/fetch', {});
    await waitForJob(application.url, jobId);
  };
  const weeks: Played['weeks'] = [];
  try {
    await demoAccount(application.url);
    await call('PUT', '/api/1/goals', { scope: 'account', key: '', targetAcos: market.targetAcos });
    await fetched();
    for (let week = 0; week < rounds; week++) {
      const round = await call<{
        window: { from: string; to: string };
        findings: Finding[];
        goals: { theta: number }[];
      }>('GET', '/api/1/round');
      const keys = round.findings.filter(({ proposal }) => proposal.kind === 'bid').map(({ key }) => key);
      if (keys.length > 0) {
        await call('POST', '/api/1/round/accept', { ...round.window, keys });
        const { jobId } = await call<{ jobId: string }>('POST', '/api/1/sheet/send', { clicksMeant: true });
        await waitForJob(application.url, jobId);
      }
      let [spend, sales] = [0, 0];
      for (let day = 0; day < 7; day++) {
        const expected = expectedWeek(market);
        spend += expected.spend / 7;
        sales += expected.sales / 7;
        served.live(1);
      }
      weeks.push({ spend, sales, changes: keys.length, theta: round.goals[0]?.theta ?? null });
      await fetched();
    }
  } finally {
    await application.stop();
    await served.stop();
  }
  return { way: 'Mowing, through the product', targetAcos: market.targetAcos, weeks };
}
