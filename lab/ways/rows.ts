import type { TargetRow } from '../../src/core/account/rows.ts';
import { daysBetween, type Day, type Window } from '../../src/core/metrics/days.ts';
import { maturity } from '../../src/core/metrics/maturity.ts';
import { dayWeights, evidenceDays, presentDays, presentWeight } from '../../src/core/metrics/weights.ts';
import { micros } from '../../src/core/metrics/money.ts';
import { elasticityOver, type Response } from '../../src/core/effect/response.ts';
import type { View } from '../crowd/view.ts';

/** What the product's queries would sum from the same reports: one row a target. */
export function targetRows(
  view: View,
  changedOn: (Day | null)[],
  response: Response,
  out: Set<string>,
  to = view.settledTo,
): TargetRow[] {
  const { market, today } = view;
  const span = (days: number): Window => ({
    from: view.dayOf(Math.max(0, to - days + 1)),
    to: view.dayOf(to),
  });
  const weights = dayWeights(span(evidenceDays), span(30), view.dayOf(today), view.curve);
  const first = daysBetween(view.dayOf(0), weights[0]!.day);
  return market.targets.map(({ id, adGroup, product, bid }): TargetRow => {
    const row = emptyRow(String(id), String(adGroup), bid > 0 ? micros(bid) : null, changedOn[id]!);
    weights.forEach(({ n, y, inside }, i) => {
      const day = first + i;
      if (out.has(`${product}:${day}`)) return;
      const facts = market.days[day]!;
      const [clicks, spend] = [facts.clicks[id]!, micros(facts.spend[id]!)];
      const [orders, sales] = [view.orders[day]![id]!, micros(view.sales[day]![id]!)];
      if (inside) {
        row.impressions += facts.impressions[id]!;
        row.clicks += clicks;
        row.spend += spend;
        row.orders += orders;
        row.units += orders;
        row.sales += sales;
        if (clicks > 0) row.highestCpc = Math.max(row.highestCpc, spend / clicks);
      }
      row.n += clicks * n;
      row.y += orders * y;
      row.seenClicks += clicks;
      row.seenOrders += orders;
      row.seenSpend += spend;
      row.seenSales += sales;
    });
    for (let day = Math.max(0, today - presentDays + 1); day <= today; day++) {
      const facts = market.days[day]!;
      const weight = presentWeight(today - day);
      const ratio = bid > 0 && facts.bids[id]! > 0 ? facts.bids[id]! / bid : 1;
      row.present.days += weight * ratio ** elasticityOver(response, 1 / ratio);
      row.present.clicks += weight * facts.clicks[id]!;
      row.present.spend += weight * micros(facts.spend[id]!);
      row.present.priced += weight * facts.clicks[id]! * ratio ** response.cpc;
    }
    const changed = changedOn[id];
    if (changed) {
      for (let day = Math.max(0, daysBetween(view.dayOf(0), changed) + 1); day <= today; day++) {
        if (today - day > 8) continue;
        row.freshClicks += market.days[day]!.clicks[id]!;
        row.freshSpend += micros(market.days[day]!.spend[id]!);
        row.freshN += market.days[day]!.clicks[id]! * maturity(view.curve, today - day);
        row.freshY += view.orders[day]![id]!;
      }
    }
    return row;
  });
}

const emptyRow = (
  targetId: string,
  adGroupId: string,
  bid: number | null,
  changedOn: Day | null,
): TargetRow => ({
  targetId,
  adGroupId,
  kind: 'keyword',
  matchType: 'exact',
  expression: `term ${targetId}`,
  bid,
  enabled: bid !== null,
  changedOn,
  present: { days: 0, clicks: 0, spend: 0, priced: 0 },
  freshN: 0,
  freshY: 0,
  freshClicks: 0,
  freshSpend: 0,
  impressions: 0,
  clicks: 0,
  spend: 0,
  orders: 0,
  units: 0,
  sales: 0,
  n: 0,
  y: 0,
  seenClicks: 0,
  seenOrders: 0,
  seenSpend: 0,
  seenSales: 0,
  highestCpc: 0,
});
