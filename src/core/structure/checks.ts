import { fieldLine, statusLine } from '../changes/lines.ts';
import { probabilityOver } from '../evidence/verdict.ts';
import { clicksToJudge } from '../kits/budget.ts';
import { freeName } from '../kits/names.ts';
import { seasonSaid } from '../metrics/season.ts';
import { addDays } from '../metrics/days.ts';
import { count, counted, money, percent } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { wordsOf } from '../text/normalise.ts';
import { namesShown, spendOf, sum, sure, type Check, type Found } from './check.ts';
import type { StructureAdGroup, StructureCampaign, StructureGround, StructureTarget } from './ground.ts';
import { moveLines, upToCents, type Move } from './moves.ts';
import { collection, unlikeProducts } from './products.ts';
import type { StructureFinding, StructureKind } from './types.ts';

/** A campaign shows for less than this share of the time: its budget binds. */
const binds = 0.95;
/** Fewer keywords without an impression are chance. */
const leastUnseen = 5;
const unseenShare = 0.25;
/** Shorter windows tell too little of what is never shown. */
const leastDays = 14;
/** The best keyword brings this share of its campaign's orders at least, and stands among so many. */
const bestShare = 0.25;
const manyKeywords = 5;
/** A campaign ends so many days from now after its season: time to think again. */
const daysToEnd = 14;

/** What targets spend a week beyond their goals, micros; never below 0. */
const beyondGoal = (targets: readonly StructureTarget[]): Micros =>
  Math.max(
    0,
    sum(targets, ({ spend, clicks, earns, targetAcos }) => spend - targetAcos * clicks * earns),
  );
/** Chance that its ACOS lies over its goal; null without a CPC. */
const overOf = ({ belief, targetAcos }: StructureTarget): number | null =>
  probabilityOver(belief, targetAcos);
const isSurelyOver = (target: StructureTarget): boolean => (overOf(target) ?? 0) >= sure;
const isSurelyUnder = (target: StructureTarget): boolean => (overOf(target) ?? 1) <= 1 - sure;

/** What a week of clicks more would gain at its goal, micros. */
const gainOf = (clicks: number, { earns, cpc, targetAcos }: StructureTarget): Micros =>
  Math.max(0, clicks * (targetAcos * earns - cpc));

/** A share of the campaign's budget, the least one at least. */
const budgetFor = ({ dailyBudget }: StructureCampaign, share: number, least: Micros): Micros =>
  Math.max(least, upToCents((dailyBudget ?? 0) * share));

const named = (targets: readonly StructureTarget[]): string => {
  const names = targets.slice(0, namesShown).map(({ row }) => `“${row.expression}”`);
  const more = targets.length - names.length;
  return more > 0 ? `${names.join(', ')} and ${count(more)} more` : names.join(', ');
};

const movingLoses = (targets: readonly StructureTarget[], of: string): string =>
  `${counted(targets.length, 'target')} ${targets.length === 1 ? 'begins' : 'begin'} anew: ${targets.length === 1 ? 'its' : 'their'} history and the rank of the ad stay with ${of}, where ` +
  `${targets.length === 1 ? 'it is' : 'they are'} paused and can be woken.`;

/** Match types mixed in one campaign: bids and budget of one decide what the others are shown for. */
const mixedMatchTypes: Check = (campaign, ground, taken) => {
  if (campaign.dailyBudget === null) return [];
  const byType = new Map<string, { from: StructureAdGroup; targets: StructureTarget[] }[]>();
  for (const from of campaign.adGroups)
    for (const target of from.targets) {
      const type = target.row.matchType;
      if (target.row.kind !== 'keyword' || type === null) continue;
      const groups = byType.get(type) ?? [];
      byType.set(type, groups);
      const group = groups.find((one) => one.from === from);
      if (group) group.targets.push(target);
      else groups.push({ from, targets: [target] });
    }
  if (byType.size < 2) return [];
  const types = [...byType]
    .map(([type, groups]) => ({ type, groups, targets: groups.flatMap(({ targets }) => targets) }))
    .sort((a, b) => spendOf(b.targets) - spendOf(a.targets) || b.targets.length - a.targets.length);
  const all = spendOf(types.flatMap(({ targets }) => targets));
  const [, ...others] = types;
  const moves: Move[] = others.flatMap(({ type, groups }) =>
    groups.map(({ from, targets }) => ({
      name: freeName(`${campaign.name} ${type}`, taken),
      from,
      targets,
      budget: budgetFor(campaign, all > 0 ? spendOf(targets) / all : 1 / types.length, ground.minimumBudget),
    })),
  );
  const said = types.map(({ type, targets }) => {
    const beyond = beyondGoal(targets);
    return (
      `${counted(targets.length, `${type} keyword`)}, ${money(spendOf(targets))} a week` +
      (beyond > 0 ? `, ${money(beyond)} of it beyond the goal` : '')
    );
  });
  const losses = types.map(({ targets }) => beyondGoal(targets));
  const isSplit = losses.some((loss) => loss === 0);
  return [
    {
      sku: moves[0]!.from.sku,
      sentence: `One budget pays for ${said.join('; ')}. Which of them is shown is left to chance.`,
      worth: isSplit ? sum(losses, (loss) => loss) : 0,
      repair: `A campaign for each match type: ${moves.map(({ name }) => name).join(', ')}, with their share of the budget`,
      loses: movingLoses(
        moves.flatMap(({ targets }) => [...targets]),
        campaign.name,
      ),
      ...moveLines(campaign, moves, ground.minimumBudget),
    },
  ];
};

/** Sales per unit of spend of an ad group, and how surely that is known (variance of its log). */
function returnOf({ targets }: StructureAdGroup): { ratio: number; variance: number } | null {
  const spend = spendOf(targets);
  const orders = sum(targets, ({ row }) => row.y);
  if (spend <= 0) return null;
  return { ratio: sum(targets, ({ clicks, earns }) => clicks * earns) / spend, variance: 1 / (orders + 1) };
}

/** Several ad groups under one budget that runs out, of which the better one gets the lesser part. */
const starvedAdGroup: Check = (campaign, ground, taken) => {
  const { adGroups, shown, dailyBudget } = campaign;
  if (dailyBudget === null || shown >= binds) return [];
  const known = adGroups.flatMap((adGroup) => {
    const told = returnOf(adGroup);
    return told ? [{ adGroup, ...told, spend: spendOf(adGroup.targets) }] : [];
  });
  if (known.length < 2) return [];
  const [best, ...others] = known.sort((a, b) => b.ratio - a.ratio) as [
    (typeof known)[number],
    ...(typeof known)[number][],
  ];
  const worse = others
    .filter(
      ({ ratio, variance }) => Math.log(best.ratio / ratio) > 1.2816 * Math.sqrt(best.variance + variance),
    )
    .sort((a, b) => b.spend - a.spend)[0];
  if (!worse || worse.spend <= best.spend) return [];
  const missed = 1 / Math.max(0.1, shown) - 1;
  const all = sum(known, ({ spend }) => spend);
  const name = freeName(`${campaign.name} ${best.adGroup.name}`, taken);
  const budget = budgetFor(campaign, (best.spend * (1 + missed)) / all, ground.minimumBudget);
  return [
    {
      at: best.adGroup.adGroupId,
      sku: best.adGroup.sku,
      sentence:
        `Its budget lasts for ${percent(shown)} of the time. ${worse.adGroup.name} takes ${money(worse.spend)} a week and sells ` +
        `${worse.ratio.toFixed(1)} times that; ${best.adGroup.name} gets ${money(best.spend)} and sells ${best.ratio.toFixed(1)} times that.`,
      worth: sum(best.adGroup.targets, (target) => gainOf(target.clicks * missed, target)),
      repair: `A campaign of its own for ${best.adGroup.name} at ${money(budget)} a day, taken from this one`,
      loses: movingLoses(best.adGroup.targets, campaign.name),
      ...moveLines(
        campaign,
        [{ name, from: best.adGroup, targets: best.adGroup.targets, budget }],
        ground.minimumBudget,
      ),
    },
  ];
};

/** More keywords than get shown: those at the end of the list had no impression in the whole window. */
const unseenKeywords: Check = (campaign, ground, taken) => {
  if (ground.days < leastDays) return [];
  return campaign.adGroups.flatMap((from): Found[] => {
    const keywords = from.targets.filter(({ row }) => row.kind === 'keyword');
    const fresh = addDays(ground.today, -ground.days);
    const unseen = keywords.filter(
      ({ row }) => row.impressions === 0 && (row.changedOn === null || row.changedOn < fresh),
    );
    // An ad group that is not shown at all, or has nothing to sell, lacks something else.
    if (unseen.length === keywords.length || from.skus.every((sku) => ground.soldOut.has(sku))) return [];
    if (unseen.length < leastUnseen || unseen.length < unseenShare * keywords.length) return [];
    const isTight = campaign.shown < binds && campaign.dailyBudget !== null;
    const sentence =
      `${count(unseen.length)} of ${counted(keywords.length, 'keyword')} in ${from.name} had no impression in ` +
      `${counted(ground.days, 'day')}: ${named(unseen)}. ` +
      (isTight
        ? `Its budget lasts for ${percent(campaign.shown)} of the time: those before them take it.`
        : 'Its budget lasts: they are hardly searched, or bid too low to be seen.');
    const common = { at: from.adGroupId, sku: from.sku, sentence, worth: 0 };
    if (!isTight)
      return [
        {
          ...common,
          repair: `Pause these ${counted(unseen.length, 'keyword')}, so that the list shows what runs`,
          loses: 'Nothing that was seen; they can be woken.',
          campaigns: [],
          drafts: unseen.map(({ row }) =>
            statusLine(
              'target',
              { campaignId: campaign.campaignId, adGroupId: from.adGroupId },
              row.targetId,
              { from: 'enabled', to: 'paused' },
              { reason: '' },
              { targetKind: row.kind, matchType: row.matchType, expression: row.expression },
            ),
          ),
        },
      ];
    const cpc = sum(unseen, (one) => one.cpc) / unseen.length;
    const budget = Math.max(ground.minimumBudget, upToCents(clicksToJudge * cpc));
    const name = freeName(`${campaign.name} unseen`, taken);
    return [
      {
        ...common,
        repair: `A campaign of their own, ${name}, at ${money(budget)} a day: ${clicksToJudge} clicks`,
        loses: 'Nothing: they were never shown.',
        ...moveLines(campaign, [{ name, from, targets: unseen, budget }], ground.minimumBudget),
      },
    ];
  });
};

/** Automatic modes in one ad group of which one is surely over its goal and another surely under. */
const modesTogether: Check = (campaign, ground, taken) =>
  campaign.adGroups.flatMap((from): Found[] => {
    const modes = from.targets.filter(({ row }) => row.kind === 'automatic');
    const over = modes.filter(isSurelyOver);
    const under = modes.filter(isSurelyUnder);
    if (over.length === 0 || under.length === 0 || campaign.dailyBudget === null) return [];
    const all = spendOf(modes);
    const share = all > 0 ? spendOf(over) / all : over.length / modes.length;
    const budget = budgetFor(campaign, share, ground.minimumBudget);
    const name = freeName(`${campaign.name} ${over.length === 1 ? over[0]!.row.expression : 'apart'}`, taken);
    const verb = (list: readonly unknown[]) => (list.length === 1 ? 'is' : 'are');
    return [
      {
        at: from.adGroupId,
        sku: from.sku,
        sentence:
          `${named(over)} ${verb(over)} surely over the goal and ${verb(over) === 'is' ? 'takes' : 'take'} ${money(spendOf(over))} a week, ` +
          `${named(under)} ${verb(under)} surely under it and ${verb(under) === 'is' ? 'gets' : 'get'} ${money(spendOf(under))}, out of one budget.`,
        worth: beyondGoal(over),
        repair: `${name} for what is over, with ${money(budget)} of the budget`,
        loses: movingLoses(over, campaign.name),
        ...moveLines(campaign, [{ name, from, targets: over, budget }], ground.minimumBudget),
      },
    ];
  });

/** One best keyword among many, in a campaign whose budget runs out before it is shown all day. */
const starvedBest: Check = (campaign, ground, taken) => {
  const { shown, dailyBudget } = campaign;
  if (dailyBudget === null || shown >= binds) return [];
  const keywords = campaign.adGroups.flatMap((from) =>
    from.targets.filter(({ row }) => row.kind === 'keyword').map((target) => ({ from, target })),
  );
  if (keywords.length < manyKeywords) return [];
  const orders = sum(keywords, ({ target }) => target.row.seenOrders);
  const missed = 1 / Math.max(0.1, shown) - 1;
  const [best] = keywords
    .map((one) => ({ ...one, gain: gainOf(one.target.clicks * missed, one.target) }))
    .sort((a, b) => b.gain - a.gain);
  const { from, target, gain } = best!;
  if (gain <= 0 || !isSurelyUnder(target) || target.row.seenOrders < bestShare * orders) return [];
  const budget = Math.min(
    Math.max(ground.minimumBudget, upToCents((target.spend * (1 + missed)) / 7)),
    Math.max(ground.minimumBudget, dailyBudget),
  );
  const name = freeName(`${campaign.name} ${target.row.expression}`, taken);
  return [
    {
      at: target.row.targetId,
      sku: from.sku,
      sentence:
        `“${target.row.expression}” brings ${count(target.row.seenOrders)} of ${count(orders)} orders among ${counted(keywords.length, 'keyword')}, ` +
        `surely under its goal; its campaign’s budget lasts for ${percent(shown)} of the time, so that it misses about ` +
        `${count(target.clicks * missed)} clicks a week.`,
      worth: gain,
      repair: `A campaign for it alone at ${money(budget)} a day, taken from this one`,
      loses: movingLoses([target], campaign.name),
      ...moveLines(campaign, [{ name, from, targets: [target], budget }], ground.minimumBudget),
    },
  ];
};

/** The product of a campaign that advertises no other. */
function onlyProduct({ adGroups }: StructureCampaign): string | null {
  const skus = new Set(adGroups.flatMap((one) => one.skus));
  return skus.size === 1 ? [...skus][0]! : null;
}

/** A campaign that runs on after the season of its product. */
const noEndDate: Check = (campaign, ground) => {
  const targets = campaign.adGroups.flatMap((one) => one.targets);
  const sku = onlyProduct(campaign);
  const season = sku === null ? undefined : ground.seasons.get(sku);
  if (campaign.endDate !== null || !season?.isOver || spendOf(targets) <= 0) return [];
  const end = addDays(ground.today, daysToEnd);
  const values = { oldValue: null, newValue: end };
  const place = { campaignId: campaign.campaignId, adGroupId: null };
  return [
    {
      sku,
      sentence: `Its product’s season is over and it has no end date. ${seasonSaid(season)}. It spends ${money(spendOf(targets))} a week.`,
      worth: beyondGoal(targets),
      repair: `Let it end on ${end}`,
      loses: 'Nothing until then: the end date can be taken away as long as it runs.',
      campaigns: [],
      drafts: [fieldLine('campaign', 'end_date', place, campaign.campaignId, values, { reason: '' })],
    },
  ];
};

/** A budget that is spent and buys fewer clicks a day than judging within a month takes. */
const smallBudget: Check = (campaign, ground) => {
  const targets = campaign.adGroups.flatMap((one) => one.targets);
  const clicks = sum(targets, (one) => one.clicks);
  const { dailyBudget, shown, campaignId } = campaign;
  if (dailyBudget === null || shown >= binds || clicks <= 0) return [];
  const cpc = spendOf(targets) / clicks;
  const wanted = upToCents(clicksToJudge * cpc);
  if (dailyBudget >= wanted) return [];
  const missed = Math.min(1 / Math.max(0.1, shown), wanted / dailyBudget) - 1;
  const values = { oldValue: String(dailyBudget), newValue: String(Math.max(wanted, ground.minimumBudget)) };
  return [
    {
      sku: campaign.adGroups[0]?.sku ?? null,
      sentence:
        `${money(dailyBudget)} a day buys ${(dailyBudget / cpc).toFixed(1)} clicks at ${money(cpc)} and is spent in ${percent(shown)} of the day; ` +
        `${clicksToJudge} a day would judge it within a month.`,
      worth: sum(targets, (target) => gainOf(target.clicks * missed, target)),
      repair: `Raise it to ${money(Number(values.newValue))}`,
      loses: `Up to ${money(Number(values.newValue) - dailyBudget)} more a day.`,
      campaigns: [],
      drafts: [
        fieldLine('campaign', 'daily_budget', { campaignId, adGroupId: null }, campaignId, values, {
          reason: '',
        }),
      ],
    },
  ];
};

/** A name that does not begin as those of its product do: it does not sort beside them. */
const offPattern: Check = (campaign, ground, taken) => {
  const sku = onlyProduct(campaign);
  const code = sku === null ? undefined : ground.codes.get(sku);
  if (code === undefined) return [];
  const begins = wordsOf(code);
  const words = wordsOf(campaign.name);
  if (begins.every((word, at) => words[at] === word)) return [];
  const name = freeName(`${code} ${campaign.name}`, taken);
  const { campaignId } = campaign;
  const values = { oldValue: campaign.name, newValue: name };
  return [
    {
      sku,
      sentence: `The names of this product’s campaigns begin with “${code}”; this one does not sort beside them.`,
      worth: 0,
      repair: `Call it “${name}”`,
      loses: 'Nothing: it keeps its history under the new name.',
      campaigns: [],
      drafts: [
        fieldLine('campaign', 'name', { campaignId, adGroupId: null }, campaignId, values, { reason: '' }),
      ],
    },
  ];
};

const checks: Readonly<Record<StructureKind, Check>> = {
  mixed_match_types: mixedMatchTypes,
  starved_ad_group: starvedAdGroup,
  unseen_keywords: unseenKeywords,
  modes_together: modesTogether,
  starved_best: starvedBest,
  no_end_date: noEndDate,
  small_budget: smallBudget,
  off_pattern: offPattern,
  unlike_products: unlikeProducts,
  collection,
};

/** Everything that is found about how campaigns are built, worth most first. */
export function findStructure(ground: StructureGround): StructureFinding[] {
  const taken = new Set(ground.taken);
  return Object.entries(checks)
    .flatMap(([kind, check]) =>
      ground.campaigns.flatMap((campaign) =>
        check(campaign, ground, taken).map(({ at, ...found }): StructureFinding => ({
          ...found,
          key: `structure:${kind}:${campaign.campaignId}${at === undefined ? '' : `:${at}`}`,
          kind: kind as StructureKind,
          campaignId: campaign.campaignId,
          subject: campaign.name,
        })),
      ),
    )
    .sort((a, b) => b.worth - a.worth || (a.key < b.key ? -1 : 1));
}
