import fc from 'fast-check';
import { linesOf, type Adjustment } from './lines.ts';
import { describe, expect, test } from 'vitest';
import { conflictKey } from '../changes/lines.ts';
import { elasticityOver } from '../effect/response.ts';
import { micros } from '../metrics/money.ts';
import type { Lane } from '../lanes/lanes.ts';
import { sentenceOf, workingOf } from './explain.ts';
import { judgeAccount, lanesOf } from './judge.ts';
import { account, target, term, usualTerms, type TermRow } from './small-account.fixture.ts';
import type { Finding, JudgeInput } from './types.ts';

const judge = (input: JudgeInput): Finding[] => judgeAccount(input, 1000).findings;

const find = (findings: Finding[], subject: string, queue: Finding['queue'] = 'terms') =>
  findings.find((finding) => finding.subject === subject && finding.queue === queue);

const names = { adGroup: (id: string) => account().adGroups.get(id)!.name };

describe('lanes', () => {
  test('one per research ad group, read from the names and what the ad groups hold', () => {
    expect(
      lanesOf(account()).map(({ source, destination, kind, matchType, leastOrders }) => [
        source,
        destination,
        kind,
        matchType,
        leastOrders,
      ]),
    ).toEqual([
      ['1', '3', 'keyword', 'exact', 1],
      ['1', '4', 'item', null, 1],
      ['2', '3', 'keyword', 'exact', 2],
    ]);
  });
});

describe('one term from several ad groups', () => {
  const both = account({
    terms: [term('b', 'lids for jars', 40, 5), term('a', 'lids for jars', 20, 3), term('b', 'filler', 60, 0)],
  });

  test('is one finding with their evidence together, where most of its clicks were', () => {
    const found = judge(both).filter(({ subject }) => subject === 'lids for jars');
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({
      adGroupId: '2',
      sums: { clicks: 60, orders: 8 },
      seen: { clicks: 60, orders: 8 },
      proposal: { kind: 'harvest', alsoFrom: ['1'] },
    });
    expect(sentenceOf(found[0]!, names)).toContain('Summed over 2 ad groups');
  });

  test('so that all findings together never make one keyword or one negative twice', () => {
    const lines = judge(both).flatMap((finding) =>
      finding.proposal.kind === 'wait'
        ? []
        : linesOf(finding, {}, '', {
            campaignOf: (id) => `c${id}`,
            campaignsOf: () => ['c1', 'c2', 'c3', 'c4'],
          }),
    );
    const keys = lines.map(conflictKey);
    expect(new Set(keys).size).toBe(keys.length);
  });
});

test('the same rows in another order are judged the same, also where two targets caught as much of a term', () => {
  const exact = target('x', '2', 'exact', 'jar lids', 50, 4);
  const rows = [
    term('b', 'wide jar lids', 12, 2),
    term('x', 'wide jar lids', 12, 2),
    term('b', 'filler', 60, 0),
    // Two ad groups that would send it to the same place, with as many clicks.
    term('b', 'lids for jars', 20, 4),
    term('a', 'lids for jars', 20, 4),
  ];
  const targets = [...account().targets, exact];
  const told = (terms: TermRow[]) =>
    judge(account({ targets, terms })).map(({ key, target: by, proposal }) => [key, by, proposal.kind]);
  expect(told([...rows].reverse())).toEqual(told(rows));
});

describe('a large account', () => {
  const caught = fc.record({
    by: fc.constantFrom('a', 'b', 'e'),
    text: fc.constantFrom('airlock lids', 'lids for jars', 'wide lids', 'blue lids', 'glass lids'),
    clicks: fc.integer({ min: 0, max: 80 }),
    orders: fc.integer({ min: 0, max: 12 }),
  });

  test('keeps the findings worth most, and counts all, also those that it does not make', () => {
    fc.assert(
      fc.property(fc.array(caught, { maxLength: 14 }), fc.integer({ min: 1, max: 3 }), (rows, most) => {
        const terms = rows.map(({ by, text, clicks, orders }) =>
          term(by, text, clicks, Math.min(orders, clicks)),
        );
        const input = account({ terms: [...usualTerms, ...terms] });
        const all = judgeAccount(input, 1000);
        const some = judgeAccount(input, most);
        expect(some.counts).toEqual(all.counts);
        for (const queue of ['terms', 'targets'] as const) {
          const worths = (from: typeof all) =>
            from.findings.filter((finding) => finding.queue === queue).map(({ worth }) => worth);
          expect(worths(some)).toEqual(worths(all).slice(0, most));
        }
      }),
    );
  });
});

describe('terms', () => {
  const findings = judge(account());

  test('a proven term is harvested down its lane, and blocked in both research ad groups', () => {
    const finding = find(findings, 'airlock lids wide mouth')!;
    expect(finding.verdict).toBe('under');
    expect(finding.proposal).toMatchObject({
      kind: 'harvest',
      adGroupId: '3',
      targetKind: 'keyword',
      matchType: 'exact',
      isolateIn: ['1', '2'],
      // A click may cost 2 x 0.40; at 0.8 paid per bid that is a bid of 1.00.
      bid: micros(1),
      held: ['highest CPC'],
    });
    expect(finding.worth).toBeGreaterThan(0);
    const lines = linesOf(finding, {}, 'because', {
      campaignOf: (id) => `c${id}`,
      campaignsOf: () => ['c1', 'c2', 'c3', 'c4'],
    });
    expect(lines.map(({ entity, adGroupId, matchType }) => [entity, adGroupId, matchType])).toEqual([
      ['target', '3', 'exact'],
      ['negative', '1', 'negative_exact'],
      ['negative', '2', 'negative_exact'],
    ]);
    expect(lines.filter(({ effect }) => effect !== null)).toHaveLength(1);
  });

  test('the first bid by hand: theta x RPC / modifiers', () => {
    const { working, proposal } = find(findings, 'airlock lids 4 pack')!;
    const rpc = (working.gamma.shape / working.gamma.rate) * working.value;
    // The exact campaign pays 0.40 for a bid of 0.50.
    expect(working.rho).toBeCloseTo(0.8);
    expect(proposal.kind === 'harvest' && proposal.wanted).toBeCloseTo(0.5 * rpc, 3);
  });

  test('an item code goes down the item lane as a target, in the marketplace’s case', () => {
    expect(find(findings, 'qy3n8p4c')!.proposal).toMatchObject({
      adGroupId: '4',
      targetKind: 'item',
      matchType: null,
      expression: 'QY3N8P4C',
    });
  });

  test('a term that its destination serves already is not proposed', () => {
    expect(find(findings, 'fermenting lids')).toBeUndefined();
  });

  test('no order in the clicks for one: a negative exact here, worth the spend it saves', () => {
    const finding = find(findings, 'canning airlock lids')!;
    expect(finding.proposal).toEqual({
      kind: 'negative',
      adGroupId: '2',
      matchType: 'negative_exact',
      expression: 'canning airlock lids',
      milder: { from: micros(0.5), to: micros(0.38) },
    });
    expect(finding.effect.spend).toBeCloseTo(-micros((40 * 0.4 * 7) / 30), 0);
    expect(sentenceOf(finding, names)).toMatch(
      /^Stop paying for it here\. 40 clicks, no order, 16\.00 spent; an average term/,
    );
  });

  test('too few clicks: it waits and says how many more would tell', () => {
    const terms = [...usualTerms, term('b', 'airlock lids eu', 8, 0)];
    const { proposal } = find(judge(account({ terms })), 'airlock lids eu')!;
    expect(proposal.kind).toBe('wait');
    expect(proposal.kind === 'wait' && proposal.moreClicks).toBeGreaterThan(0);
  });

  test('what a negative blocks already is not proposed, in its ad group or its campaign', () => {
    for (const place of [
      { campaignId: 'c2', adGroupId: '2' },
      { campaignId: 'c2', adGroupId: null },
    ]) {
      const negatives = [{ id: 'n', ...place, matchType: 'negative_phrase' as const, expression: 'canning' }];
      expect(find(judge(account({ negatives })), 'canning airlock lids')).toBeUndefined();
    }
  });

  test('a term that can be no keyword says why', () => {
    const long = `airlock lids ${'x'.repeat(100)}`;
    const { proposal } = find(judge(account({ terms: [...usualTerms, term('b', long, 60, 11)] })), long)!;
    expect(proposal).toMatchObject({
      kind: 'wait',
      obstacle: expect.stringContaining('113 characters') as string,
    });
  });

  test('a product without an exact ad group says where the lane ends', () => {
    const adGroups = new Map([...account().adGroups].filter(([id]) => id !== '3'));
    const { proposal } = find(judge(account({ adGroups })), 'airlock lids wide mouth')!;
    expect(proposal).toMatchObject({
      obstacle: expect.stringContaining('no lane for keywords leads out of') as string,
    });
  });

  test('a close variant in the destination is a warning', () => {
    const finding = find(
      judge(account({ terms: [...usualTerms, term('b', 'fermenting lid', 30, 6)] })),
      'fermenting lid',
    )!;
    expect(finding.proposal.kind === 'harvest' && finding.proposal.warnings).toEqual([
      '“fermenting lids” there is a close variant.',
    ]);
  });
});

describe('targets', () => {
  test('the bid is theta x RPC / M within the guards, every number in the working', () => {
    const input = account({ targets: [...account().targets, target('w', '2', 'broad', 'jar lids', 500, 4)] });
    const finding = find(judge(input), 'jar lids', 'targets')!;
    const { working, proposal } = finding;
    const rpc = (working.gamma.shape / working.gamma.rate) * working.value;
    expect(proposal).toMatchObject({ kind: 'bid', from: micros(0.5) });
    expect(proposal.kind === 'bid' && proposal.wanted).toBeCloseTo(0.5 * rpc, 3);
    expect(finding.verdict).toBe('over');
    expect(finding.worth).toBeGreaterThan(0);
    expect(workingOf(finding).map(({ name }) => name)).toEqual(
      expect.arrayContaining([
        'Orders per click',
        'Value per order',
        'Revenue per click',
        'Chance over goal',
        'Bid',
      ]),
    );
  });

  test('accepted and judged again on the same day, nothing more is proposed for it', () => {
    const input = account({ targets: [...account().targets, target('w', '2', 'broad', 'jar lids', 500, 4)] });
    const { proposal } = find(judge(input), 'jar lids', 'targets')!;
    const bid = proposal.kind === 'bid' ? proposal.to : 0;
    const after = account({
      targets: [
        ...account().targets,
        target('w', '2', 'broad', 'jar lids', 500, 4, { bid, changedOn: '2026-11-21' }),
      ],
    });
    const again = find(judge(after), 'jar lids', 'targets')!;
    expect(again.proposal).toMatchObject({ kind: 'wait', held: { from: bid, by: 'cooldown' } });
    const places = { campaignOf: (id: string) => `c${id}`, campaignsOf: () => [] };
    expect(linesOf(again, {}, '', places)).toEqual([]);
    // Confirmed beyond its guard it goes where it is wanted.
    const [line] = linesOf(again, { beyond: true }, '', places);
    const { held } = again.proposal as { held: { wanted: number } };
    expect([line!.oldValue, line!.newValue]).toEqual([String(bid), String(held.wanted)]);
    expect(sentenceOf(again, names)).toMatch(/^Wants 0\.\d\d, held at 0\.\d\d by its cooldown/);
  });

  test('adjusted or confirmed beyond its guard, a line says what its own bid does', () => {
    const strong = target('w', '2', 'broad', 'jar lids', 500, 150);
    const finding = find(judge(account({ targets: [...account().targets, strong] })), 'jar lids', 'targets')!;
    const places = { campaignOf: (id: string) => `c${id}`, campaignsOf: () => [] };
    const effectOf = (adjustment: Adjustment) => linesOf(finding, adjustment, '', places)[0]!.effect!;
    const { to, beyond } = finding.proposal as { to: number; beyond: number };
    expect(beyond).toBeGreaterThan(to);
    expect(effectOf({})).toEqual(finding.effect);
    expect(effectOf({ beyond: true }).clicks).toBeGreaterThan(finding.effect.clicks);
    expect(effectOf({ beyond: true }).salesHigh).toBeGreaterThan(finding.effect.salesHigh);
    // Left where it is, nothing changes; lowered, clicks are lost.
    expect(effectOf({ bid: micros(0.5) }).clicks).toBeCloseTo(0, 9);
    expect(effectOf({ bid: micros(0.25) }).clicks).toBeLessThan(0);
    // By hand: a week's clicks x (r^e - 1) at the response of the working.
    const { response, weekClicks } = finding.working;
    const ratio = beyond / micros(0.5);
    expect(effectOf({ beyond: true }).clicks).toBeCloseTo(
      weekClicks * (ratio ** elasticityOver(response, ratio) - 1),
      6,
    );
  });

  test('a quiet target is raised toward what its siblings earn, not above', () => {
    const quiet = target('q', '3', 'exact', 'airlock lid set', 0, 0, { impressions: 12, bid: micros(0.05) });
    const finding = find(
      judge(account({ targets: [...account().targets, quiet] })),
      'airlock lid set',
      'targets',
    )!;
    expect(finding.working.quiet).toBe(true);
    expect(finding.proposal).toMatchObject({ kind: 'bid', to: micros(0.1), held: ['largest step up'] });
  });

  test('a narrower goal rules: the same target under 15 % gets less than under 30 %', () => {
    const override = {
      scope: 'campaign' as const,
      key: 'c2',
      targetAcos: 0.15,
      bidFloor: null,
      bidCeiling: null,
      theta: 0.2,
    };
    const strict = find(
      judge(account({ goals: [...account().goals, override] })),
      'airlock lids',
      'targets',
    )!;
    const wide = find(judge(account()), 'airlock lids', 'targets');
    const to = (finding: Finding | undefined) =>
      finding?.proposal.kind === 'bid' ? finding.proposal.to : micros(0.5);
    expect(to(strict)).toBeLessThan(to(wide));
    expect(strict.working.goalScope).toBe('campaign');
  });

  test('a paused target is left alone', () => {
    const targets = account().targets.map((row) => ({ ...row, enabled: false }));
    expect(judge(account({ targets })).filter(({ queue }) => queue === 'targets')).toEqual([]);
  });

  test('findings stand by money, those that wait last', () => {
    const worth = judge(account()).map((finding) => finding.worth);
    expect([...worth].sort((a, b) => b - a)).toEqual(worth);
  });
});

describe('saved lanes', () => {
  const to = (source: string, destination: string, more: Partial<Lane> = {}): Lane => ({
    source,
    destination,
    kind: 'keyword',
    matchType: 'exact',
    leastOrders: 2,
    leastClicks: 0,
    goalShare: 1,
    days: 90,
    firstBid: 'evidence',
    fixedBid: null,
    isolate: 'product',
    ...more,
  });
  const proposalOf = (
    lanes: Lane[],
    subject = 'airlock lids wide mouth',
    more: Parameters<typeof account>[0] = {},
  ) => find(judge(account({ lanes, ...more })), subject)?.proposal;

  test('without a lane what sells has nowhere to go, and says so', () => {
    expect(proposalOf([])).toMatchObject({
      kind: 'wait',
      obstacle: 'It sells, and no lane for keywords leads out of Lids broad research.',
    });
  });

  test('match type, first bid and isolation are the lane’s', () => {
    expect(
      proposalOf([
        to('2', '3', { matchType: 'phrase', firstBid: 'fixed', fixedBid: 330_000, isolate: 'source' }),
      ]),
    ).toMatchObject({ kind: 'harvest', matchType: 'phrase', bid: 330_000, isolateIn: ['2'] });
    // 60 clicks cost 24.00: 0.40 a click.
    expect(proposalOf([to('2', '3', { firstBid: 'source_cpc' })])).toMatchObject({
      bid: 400_000,
      wanted: 400_000,
    });
  });

  test('conditions: orders, clicks and the share of the goal', () => {
    expect(proposalOf([to('2', '3', { leastOrders: 12 })])?.kind).not.toBe('harvest');
    expect(proposalOf([to('2', '3', { leastClicks: 61 })])?.kind).not.toBe('harvest');
    expect(proposalOf([to('2', '3', { leastOrders: 11, leastClicks: 60 })])?.kind).toBe('harvest');
    // It sells at about 12 % against 30 %: at most a third of the goal is too much to ask.
    expect(proposalOf([to('2', '3', { goalShare: 0.33 })])?.kind).not.toBe('harvest');
  });

  test('a lane over fewer days counts only what these show', () => {
    const counts = { keywordClicks: 20, keywordOrders: 1, itemClicks: 0, itemOrders: 0 };
    const terms = usualTerms.map((row) => ({ ...row, laneCounts: counts }));
    expect(proposalOf([to('2', '3', { days: 14 })], undefined, { terms })?.kind).not.toBe('harvest');
    expect(proposalOf([to('2', '3', { days: 14, leastOrders: 1 })], undefined, { terms })?.kind).toBe(
      'harvest',
    );
    expect(proposalOf([to('2', '3')], undefined, { terms })?.kind).toBe('harvest');
  });

  test('a chain: automatic to broad, not blocked in broad, and from there to exact', () => {
    const chain = [to('1', '2', { matchType: 'broad', leastOrders: 1 }), to('2', '3')];
    const terms = [term('a', 'lids for pickling', 40, 6), term('b', 'airlock lids wide mouth', 60, 11)];
    expect(proposalOf(chain, 'lids for pickling', { terms })).toMatchObject({
      adGroupId: '2',
      matchType: 'broad',
      isolateIn: ['1'],
    });
    expect(proposalOf(chain, 'airlock lids wide mouth', { terms })).toMatchObject({
      adGroupId: '3',
      isolateIn: ['1', '2'],
    });
  });

  test('a destination that does not run is an obstacle', () => {
    const groups = new Map(account().adGroups);
    groups.set('3', { ...groups.get('3')!, enabled: false });
    expect(proposalOf([to('2', '3')], undefined, { adGroups: groups })).toMatchObject({
      obstacle: 'It sells, and Lids exact does not run: nothing added there would show.',
    });
  });

  test('two orders out of two ad groups are evidence together that neither has alone', () => {
    const terms = [
      term('b', 'lids for jars', 12, 1),
      term('a', 'lids for jars', 12, 1),
      term('b', 'airlock lids', 100, 14),
    ];
    const lanes = [to('1', '3'), to('2', '3')];
    expect(proposalOf(lanes, 'lids for jars', { terms })).toMatchObject({ kind: 'harvest', alsoFrom: ['2'] });
    expect(proposalOf(lanes, 'lids for jars', { terms: terms.slice(0, 1) })?.kind).not.toBe('harvest');
  });
});

describe('where a negative stands', () => {
  const finding = find(judge(account()), 'canning airlock lids')!;
  const places = { campaignOf: (id: string) => `c${id}`, campaignsOf: () => ['c1', 'c2', 'c3'] };
  const lines = (adjustment: Adjustment) => linesOf(finding, adjustment, 'why', places);

  test('its ad group, its campaign, or every campaign of the product; the effect is counted once', () => {
    expect(lines({}).map(({ adGroupId, campaignId }) => [adGroupId, campaignId])).toEqual([['2', 'c2']]);
    expect(lines({ scope: 'campaign' }).map(({ adGroupId, campaignId }) => [adGroupId, campaignId])).toEqual([
      [null, 'c2'],
    ]);
    const all = lines({ scope: 'product' });
    expect(all.map(({ campaignId }) => campaignId)).toEqual(['c2', 'c1', 'c3']);
    expect(all.filter(({ effect }) => effect !== null)).toHaveLength(1);
  });

  test('milder: the bid of what caught it goes down by a quarter instead', () => {
    expect(lines({ milder: true })).toMatchObject([
      {
        action: 'update',
        entity: 'target',
        objectId: 'b',
        field: 'bid',
        oldValue: '500000',
        newValue: '380000',
      },
    ]);
  });
});
