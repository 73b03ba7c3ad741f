import normalQuantile from '@stdlib/stats-base-dists-normal-quantile';
import { noEnd, readRule, ruleSaid, writeRule, type Rule } from '../account/rule.ts';
import { fieldLine } from '../changes/lines.ts';
import { count, counted, money, percent } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { cent, namesShown, spendOf, sum, sure, type Check, type Found } from './check.ts';
import type { StructureAdGroup } from './ground.ts';

/** What ad groups advertise: products that do not belong together, and rules that take in what cannot earn. */

/** Profit per order of one product over that of another, from which on one bid does not fit both. */
const unlike = 1.5;
/** What sells next to nothing there does not move the bid. */
const leastShare = 0.05;

/** Products whose profit per order differs share an ad group: one affordable cost per order does not fit them. */
export const unlikeProducts: Check = (campaign) =>
  campaign.adGroups.flatMap(({ adGroupId, name, sku, sells }): Found[] => {
    const known = sells.flatMap(({ profit, share, ...one }) =>
      profit !== null && share >= leastShare ? [{ ...one, share, profit }] : [],
    );
    const most = Math.max(...known.map(({ profit }) => profit));
    const least = Math.min(...known.map(({ profit }) => profit));
    if (known.length < 2 || !(most > unlike * Math.max(least, cent))) return [];
    const shown = known.slice(0, namesShown);
    const said = shown.map(
      ({ sku: one, share, profit }) =>
        `${one} leaves ${money(profit)} an order and makes ${percent(share)} of its sales`,
    );
    const more = known.length - shown.length;
    return [
      {
        at: adGroupId,
        sku,
        sentence:
          `${name} advertises ${counted(sells.length, 'product')}: ${said.join('; ')}${more > 0 ? `; ${count(more)} more` : ''}. ` +
          'One bid stands for all of them, too high for one and too low for another. Its goal is theirs by what it sells; ' +
          'a kit for each gives it a bid of its own.',
        worth: 0,
        repair: null,
        loses: '',
        campaigns: [],
        drafts: [],
      },
    ];
  });

type Member = StructureAdGroup['sells'][number] & { price: Micros };

/** What an order costs an ad group by ads, and what it costs at least beyond doubt; null where nothing is spent or expected. */
function costOfOrder({ targets }: StructureAdGroup): { orders: number; mean: Micros; least: Micros } | null {
  const orders = sum(targets, ({ clicks, belief: { gamma } }) => (clicks * gamma.shape) / gamma.rate);
  const deviation = Math.sqrt(
    sum(targets, ({ clicks, belief: { gamma } }) => (clicks / gamma.rate) ** 2 * gamma.shape),
  );
  const spend = spendOf(targets);
  if (orders <= 0 || spend <= 0) return null;
  return { orders, mean: spend / orders, least: spend / (orders + normalQuantile(sure, 0, 1) * deviation) };
}

/** Members whose orders surely cost more than they leave, where all of them are cheaper than all the others; else none. */
function losersBelow(members: readonly Member[], least: Micros): { losers: Member[]; from: Micros } {
  const losers = members.filter(({ profit }) => profit !== null && profit < least);
  const rest = members.filter((one) => !losers.includes(one));
  const below = Math.max(...losers.map(({ price }) => price));
  const above = Math.min(...rest.map(({ price }) => price));
  if (losers.length === 0 || rest.length === 0 || below >= above) return { losers: [], from: 0 };
  // Between both: prices move a little.
  return { losers, from: Math.round((below + above) / 2 / cent) * cent };
}

const namesOf = (list: readonly { sku: string }[]): string => {
  const names = list.slice(0, namesShown).map(({ sku }) => sku);
  const more = list.length - names.length;
  return more > 0 ? `${names.join(', ')} and ${count(more)} more` : names.join(', ');
};

/**
 * A collection whose rule takes in products that lose by each order, as cheap ones do, or that are sold out: the rule can
 * leave them out. What a product's clicks cost is its part of the orders.
 */
export const collection: Check = (campaign, { soldOut }) =>
  campaign.adGroups.flatMap((adGroup): Found[] => {
    const rule = adGroup.rule === null ? null : readRule(adGroup.rule);
    if (!rule) return [];
    const gone = rule.inStock === true ? [] : adGroup.skus.filter((sku) => soldOut.has(sku));
    const members = adGroup.sells.filter((one): one is Member => one.price !== null && one.price > 0);
    const cost = costOfOrder(adGroup);
    const { losers, from } =
      cost && members.length === adGroup.sells.length
        ? losersBelow(members, cost.least)
        : { losers: [], from: 0 };
    const leaving = new Set([...gone, ...losers.map(({ sku }) => sku)]);
    if (leaving.size === 0 || leaving.size >= adGroup.skus.length) return [];
    const { name, adGroupId, sku, skus } = adGroup;
    const price: Rule = losers.length === 0 ? {} : { price: [from / 1e6, upperEnd(rule)] };
    const next: Rule = { ...rule, ...price, ...(gone.length > 0 ? { inStock: true } : {}) };
    const units = sum(members, ({ share, price: own }) => share / own);
    const shareOf = (one: Member) => one.share / one.price / units;
    const worth = cost
      ? sum(losers, (one) => cost.orders * shareOf(one) * Math.max(0, cost.mean - (one.profit ?? 0)))
      : 0;
    const stays = skus.length - leaving.size;
    const lost = sum(losers, shareOf);
    const parts = [
      ...(losers.length > 0
        ? [
            `An order there costs ${money(cost!.mean)} by ads, ${money(cost!.least)} at the least; ` +
              `${losers
                .slice(0, namesShown)
                .map((one) => `${one.sku} leaves ${money(one.profit!)}`)
                .join(
                  ', ',
                )}${losers.length > namesShown ? `, ${count(losers.length - namesShown)} others too little` : ''} before ads.`,
          ]
        : []),
      ...(gone.length > 0
        ? [
            `${namesOf(gone.map((one) => ({ sku: one })))} ${gone.length === 1 ? 'is' : 'are'} sold out and stay${gone.length === 1 ? 's' : ''} in it.`,
          ]
        : []),
    ];
    return [
      {
        at: adGroupId,
        sku,
        sentence: `${name} shows ${counted(skus.length, 'product')} by its rule “${ruleSaid(rule)}”. ${parts.join(' ')}`,
        worth,
        repair: `The rule becomes “${ruleSaid(next)}”: ${counted(leaving.size, 'product')} ${leaving.size === 1 ? 'leaves' : 'leave'}, ${count(stays)} ${stays === 1 ? 'stays' : 'stay'}`,
        loses:
          lost > 0
            ? `Orders of what leaves for its price, ${percent(lost)} of those from here, and the rank that they earn it.`
            : 'Nothing until it is in stock again: it comes back by itself.',
        campaigns: [],
        drafts: [
          fieldLine(
            'ad_group',
            'rule',
            { campaignId: campaign.campaignId, adGroupId },
            adGroupId,
            { oldValue: adGroup.rule, newValue: writeRule(next) },
            { reason: '' },
          ),
        ],
      },
    ];
  });

const upperEnd = ({ price }: Rule): number =>
  Array.isArray(price) && typeof price[1] === 'number' ? price[1] : noEnd;
