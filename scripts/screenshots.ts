import { chromium, type Page } from '@playwright/test';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { demoGoals } from '../demo/goals.ts';
import { demoScenario } from '../demo/scenario.ts';
import { build } from './lib/build.ts';
import { startCluster } from './lib/cluster.ts';
import { chromiumFlags, chromiumPath } from './lib/packages.ts';
import { callApi, demoAccount, root, startApplication, startQuayside, waitForJob } from './lib/processes.ts';

// Takes one picture of each main view from a fresh demo account: docs/screenshots/*.png at 1280x800.

const home = join(root, '.data/screenshots');
rmSync(home, { recursive: true, force: true });
mkdirSync(join(home, 'files'), { recursive: true });
await build();
const cluster = await startCluster(home);
const scenario = join(home, 'scenario.json');
writeFileSync(scenario, JSON.stringify(demoScenario()));
const quayside = await startQuayside({ databaseUrl: await cluster.database('quayside'), scenario, days: 90 });
const application = await startApplication({
  MOWING_DATABASE_URL: await cluster.database('mowing'),
  MOWING_DATA_DIR: join(home, 'files'),
  QUAYSIDE_URL: quayside.url,
  MOWING_DEMO: '1',
});
const { url } = application;
const job = async (path: string, body: object = {}) => {
  const { jobId } = await callApi<{ jobId: string }>(url, 'POST', path, body);
  await waitForJob(url, jobId);
};
await demoAccount(url);
await job('/api/1/fetch');
for (const goal of demoGoals) await callApi(url, 'PUT', '/api/1/goals', goal);

const browser = await chromium.launch({
  executablePath: chromiumPath(),
  args: chromiumFlags,
});
const page = await browser.newPage({ viewport: { width: 1280, height: 800 }, reducedMotion: 'reduce' });
const shoot = async (name: string, on: Page = page) => {
  await on.waitForLoadState('networkidle');
  await on.screenshot({ path: join(root, 'docs/screenshots', `${name}.png`) });
};
const openRound = async (path: string) => {
  await page.goto(`${url}${path}`);
  await page.getByTestId('why-sentence').waitFor();
};

await openRound('/round');
// Words and conflicts are found a little later than terms and targets.
await page.getByRole('button', { name: /^Words [1-9]/ }).waitFor();
await page.keyboard.press('x');
await page.keyboard.press('j');
await page.keyboard.press('x');
await page.keyboard.press('k');
await page.getByRole('button', { name: 'Accept 2 marked' }).waitFor();
await page.getByTestId('why-sentence').waitFor();
await shoot('round');
await openRound('/round?queue=targets&held=the+highest+CPC');
await shoot('targets');

interface Round {
  window: object;
  findings: { key: string; proposal: { kind: string } }[];
}
const judge = () => callApi<Round>(url, 'GET', '/api/1/round');
const pick = (round: Round, kind: string, count: number) =>
  round.findings
    .filter(({ proposal }) => proposal.kind === kind)
    .slice(0, count)
    .map(({ key }) => key);
const accept = (round: Round, keys: string[]) =>
  callApi(url, 'POST', '/api/1/round/accept', { ...round.window, keys });
const first = await judge();
await accept(first, [...pick(first, 'negative', 5), ...pick(first, 'harvest', 3), ...pick(first, 'bid', 12)]);
await page.goto(`${url}/ledger`);
await page.getByRole('grid', { name: 'Lines of the open sheet' }).waitFor();
await shoot('sheet');
// Two rounds, so that forecasts have their score.
for (const days of [7, 14]) {
  const round = await judge();
  await accept(round, pick(round, 'bid', 150));
  await job('/api/1/sheet/send', { clicksMeant: true });
  await job('/api/1/advance', { days });
}
await page.goto(`${url}/ledger?sheet=forecasts`);
await page.getByRole('table', { name: 'Forecasts by kind' }).waitFor();
await shoot('ledger');
await page.goto(`${url}/goals`);
await page.getByTestId('what-if').waitFor();
await page.getByRole('slider', { name: /^What if/ }).focus();
for (let press = 0; press < 10; press++) await page.keyboard.press('ArrowLeft');
await page.locator('[data-testid=what-if][aria-busy=false]').waitFor();
await page.getByRole('columnheader', { name: 'at 18 %' }).waitFor();
await shoot('goals');
const rowsOf = (on: Page) => on.locator('[role=row][data-key]').first().waitFor();
await page.goto(`${url}/today`);
await page.getByTestId('moved-sentence').waitFor();
await page.getByTestId('next-sentence').waitFor();
await shoot('today');
await page.goto(`${url}/today?part=organic&product=TT-CRK5&keyword=sauerkraut+crock`);
await page.getByRole('table', { name: 'Keywords and their ranks' }).waitFor();
await page.getByTestId('all-rank-after-spend').waitFor();
await shoot('organic');
await page.goto(`${url}/spend?view=groups&of=product:TT-WGT6`);
await page.getByTestId('split-sales').waitFor();
await rowsOf(page);
await shoot('how-much');
await page.goto(`${url}/spend?part=where`);
await page
  .getByRole('grid', { name: 'Campaigns by placement' })
  .locator('[role=row][data-key]')
  .first()
  .waitFor();
await page.getByTestId('why-working').waitFor();
await shoot('where');
await page.goto(`${url}/spend?part=when`);
await page.getByTestId('week-picture').waitFor();
await page.getByRole('columnheader', { name: 'in all, a day' }).waitFor();
await shoot('when');
await page.goto(`${url}/routines`);
await page.getByRole('gridcell', { name: /^Weekly bids, evidence/ }).click();
await page.getByRole('button', { name: 'Play it' }).click();
await page.getByTestId('dry-run').waitFor({ timeout: 120_000 });
await page.getByRole('slider', { name: 'Night' }).scrollIntoViewIfNeeded();
await shoot('routines');
await page.goto(`${url}/data`);
await page.getByRole('heading', { name: 'What was loaded' }).waitFor();
await shoot('data');
const columns = 'name,match_type,ad_group,bid,clicks,spend,orders,acos,verdict,acos@before,acos@d14';
await page.goto(`${url}/explore?level=targets&cols=${columns}`);
await rowsOf(page);
await shoot('explore');
await page.goto(`${url}/explore?level=terms&why=1`);
await page.getByTestId('why-sentence').waitFor();
await shoot('explore-terms');
await page.goto(`${url}/explore?level=targets`);
await rowsOf(page);
await page.getByRole('button', { name: 'Add a condition' }).click();
await page.getByLabel('Type a condition').fill('acos 50..75 and campaign status = enabled');
await page.keyboard.press('Enter');
await rowsOf(page);
await page.keyboard.press('b');
await page.getByLabel('By how much').fill('-8');
await page.getByTestId('preview-sentence').waitFor();
await shoot('preview');
await page.goto(`${url}/lanes`);
await page.locator('[data-lane]').first().waitFor();
await shoot('lanes');
await page.goto(`${url}/lanes?view=words&sort=-worth`);
await page.getByTestId('collateral').waitFor();
await shoot('words');
await page.goto(`${url}/kits`);
await page.getByRole('button', { name: 'New kit' }).click();
await page.getByLabel('Add products').fill('TT-PHS2');
await page.getByLabel('Add products').press('Enter');
await page.getByRole('table', { name: 'Parts for TT-PHS2' }).waitFor();
for (const name of [/^Add \d+ that sold/, /^Add \d+ suggested/, /that are dearer or worse rated/])
  await page.getByRole('button', { name }).click();
await page.getByRole('img', { name: /exact keeps/ }).waitFor();
await page.getByText('Kept', { exact: true }).waitFor();
await shoot('kits');
await page.goto(`${url}/round?queue=structure`);
await page.locator('[role=row][data-key]').first().waitFor();
await page.locator('[role=row][data-key]').nth(1).click();
await page.getByText('What is lost').waitFor();
await shoot('structure');
await browser.close();
await application.stop();
await quayside.stop();
await cluster.stop();
rmSync(home, { recursive: true, force: true });
