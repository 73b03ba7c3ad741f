import { addDays, type Day } from '../../src/core/metrics/days.ts';
import { estimateMaturity, settledAge, type Sight } from '../../src/core/metrics/maturity.ts';
import type { Market } from './market.ts';

/** What a seller's reports tell of a market, as they stood at each fetch; all that a way of working may look at. */
export class View {
  /** Orders and sales of a target on a day as known by the last fetch. */
  readonly orders: Int16Array[] = [];
  readonly sales: Float64Array[] = [];
  /** Orders by campaign and place, as the market's facts have their clicks. */
  readonly placeOrders: Int32Array[] = [];
  private readonly sights: Sight[] = [];
  private waiting = 0;
  private pending: Market['orders'] = [];
  curve: number[] = [];

  constructor(readonly market: Market) {}

  static readonly firstDay = '2026-01-05';

  dayOf(index: number): Day {
    return addDays(View.firstDay, index);
  }

  get today(): number {
    return this.market.today;
  }

  /** Reads what is known today: a later report of a day replaces it. */
  fetch(): void {
    const { market, today } = this;
    while (this.orders.length <= today) {
      this.orders.push(new Int16Array(market.targets.length));
      this.sales.push(new Float64Array(market.targets.length));
      this.placeOrders.push(new Int32Array(market.modifiers.length));
    }
    this.pending.push(...market.orders.slice(this.waiting));
    this.waiting = market.orders.length;
    this.pending = this.pending.filter((order) => {
      if (order.knownOn > today) return true;
      this.orders[order.day]![order.target]!++;
      this.sales[order.day]![order.target]! += order.value;
      const { campaign } = market.targets[order.target]!;
      this.placeOrders[order.day]![campaign * market.placeCount + order.place]!++;
      return false;
    });
    for (let day = Math.max(0, today - 30); day <= today; day++) {
      const orders = this.orders[day]!.reduce((sum, count) => sum + count, 0);
      this.sights.push({ day: this.dayOf(day), age: today - day, orders });
    }
    this.curve = estimateMaturity(this.sights);
  }

  /** The last settled day. */
  get settledTo(): number {
    return this.today - settledAge(this.curve);
  }

  /** Sums of a target over days, both ends in. */
  sums(target: number, from: number, to: number) {
    const sum = { impressions: 0, clicks: 0, spend: 0, orders: 0, sales: 0 };
    for (let day = Math.max(0, from); day <= to; day++) {
      const facts = this.market.days[day]!;
      sum.impressions += facts.impressions[target]!;
      sum.clicks += facts.clicks[target]!;
      sum.spend += facts.spend[target]!;
      sum.orders += this.orders[day]![target]!;
      sum.sales += this.sales[day]![target]!;
    }
    return sum;
  }
}
