import type { Day } from './days.ts';

/** A product on a day: page visits and all orders, organic ones included; stock where it was fetched. */
export interface ProductDay {
  day: Day;
  sessions: number;
  orders: number;
  stock: number | null;
}

/** A run without an order is no chance below this (domain, section 4). */
const improbable = 0.001;

/**
 * Days on which a product could not be sold: stock 0 as fetched; or a run of days with no order at all that its
 * sessions make improbable below 0.1 %: exp(-sessions of the run x orders per session of its other days). `days` in
 * their order.
 */
export function daysOutOfStock(days: readonly ProductDay[]): Day[] {
  const out = new Set(days.filter(({ stock }) => stock !== null && stock <= 0).map(({ day }) => day));
  const selling = days.filter(({ day, orders }) => orders > 0 && !out.has(day));
  const sessions = selling.reduce((sum, one) => sum + one.sessions, 0);
  if (sessions === 0) return [...out].sort();
  const rate = selling.reduce((sum, one) => sum + one.orders, 0) / sessions;
  let run: ProductDay[] = [];
  const close = () => {
    const seen = run.reduce((sum, one) => sum + one.sessions, 0);
    if (Math.exp(-seen * rate) < improbable) for (const { day } of run) out.add(day);
    run = [];
  };
  for (const one of days) {
    if (one.orders === 0) run.push(one);
    else close();
  }
  close();
  return [...out].sort();
}
