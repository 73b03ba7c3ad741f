import { createServer, type IncomingMessage } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Market } from './market.ts';
import { View } from './view.ts';

/** A crowd market over HTTP, with the calls that a marketplace answers: the running product is played on it. */
export interface Served {
  url: string;
  /** Lives some days; reports then tell what is known. */
  live: (days: number) => void;
  stop: () => Promise<void>;
}

const kinds = {
  path: [
    'date',
    'campaign',
    'campaign_id',
    'campaign_kind',
    'ad_group',
    'ad_group_id',
    'target',
    'target_id',
    'target_kind',
    'match_type',
  ],
  figures: ['impressions', 'clicks', 'spend', 'orders', 'units', 'sales', 'currency'],
};

export async function serveMarket(market: Market): Promise<Served> {
  const view = new View(market);
  view.fetch();
  const reports = new Map<string, string>();
  const answered = new Map<string, object>();
  let version = 1;
  const today = () => view.dayOf(market.today);

  const structure = () => {
    const rows: object[] = [];
    const seen = new Set<string>();
    for (const { id, adGroup, campaign, product, bid } of market.targets) {
      const parent = { campaign_id: `c${campaign}`, campaign: `Campaign ${campaign}` };
      const place = { ...parent, ad_group_id: `g${adGroup}`, ad_group: `Ad group ${adGroup}` };
      if (!seen.has(parent.campaign_id)) {
        seen.add(parent.campaign_id);
        rows.push({
          entity: 'campaign',
          ...parent,
          status: 'enabled',
          kind: 'manual',
          daily_budget: 100000,
          strategy: 'fixed',
          start_date: View.firstDay,
        });
      }
      if (!seen.has(place.ad_group_id)) {
        seen.add(place.ad_group_id);
        rows.push({ entity: 'ad_group', ...place, status: 'enabled', default_bid: 0.5 });
        rows.push({ entity: 'product_ad', ...place, sku: `SKU${product}`, status: 'enabled' });
      }
      rows.push({
        entity: 'target',
        ...place,
        target_id: `t${id}`,
        target_kind: 'keyword',
        match_type: 'exact',
        expression: `term ${id}`,
        bid,
        status: 'enabled',
      });
    }
    return rows;
  };

  const csv = (kind: string, from: string, to: string): string => {
    const lines: string[] = [];
    const days = market.days
      .map((_, day) => day)
      .filter((day) => view.dayOf(day) >= from && view.dayOf(day) <= to);
    const figures = (day: number, id: number) => {
      const facts = market.days[day]!;
      const orders = view.orders[day]![id]!;
      return [
        facts.impressions[id],
        facts.clicks[id],
        facts.spend[id]!.toFixed(2),
        orders,
        orders,
        view.sales[day]![id]!.toFixed(2),
        'EUR',
      ];
    };
    if (kind === 'targets-daily' || kind === 'terms-daily') {
      const term = kind === 'terms-daily';
      lines.push([...kinds.path, ...(term ? ['term'] : []), ...kinds.figures].join(','));
      for (const day of days) {
        for (const { id, adGroup, campaign } of market.targets) {
          if (market.days[day]!.impressions[id] === 0) continue;
          if (term && market.days[day]!.clicks[id] === 0) continue;
          const path = [
            view.dayOf(day),
            `Campaign ${campaign}`,
            `c${campaign}`,
            'manual',
            `Ad group ${adGroup}`,
            `g${adGroup}`,
            `term ${id}`,
            `t${id}`,
            'keyword',
            'exact',
          ];
          lines.push([...path, ...(term ? [`term ${id}`] : []), ...figures(day, id)].join(','));
        }
      }
    } else if (kind === 'products-daily') {
      lines.push('date,sku,item_code,sessions,total_orders,total_units,total_sales');
      for (const day of days)
        market.productDays[day]!.forEach(({ sessions, orders }, product) =>
          lines.push(
            [
              view.dayOf(day),
              `SKU${product}`,
              `ITEM000${product}`,
              sessions,
              orders,
              orders,
              (orders * market.prices[product]!).toFixed(2),
            ].join(','),
          ),
        );
    } else if (kind === 'sold-daily') {
      // Its ads sell what they advertise.
      lines.push('date,campaign,campaign_id,ad_group,ad_group_id,sku,orders,units,sales');
      for (const day of days)
        for (const { id, adGroup, campaign, product } of market.targets) {
          const [, , , orders, units, sales] = figures(day, id);
          if (Number(orders) === 0) continue;
          lines.push(
            [
              view.dayOf(day),
              `Campaign ${campaign}`,
              `c${campaign}`,
              `Ad group ${adGroup}`,
              `g${adGroup}`,
              `SKU${product}`,
              orders,
              units,
              sales,
            ].join(','),
          );
        }
    } else {
      const hours = kind === 'campaign-hours';
      lines.push(
        hours
          ? `date,hour,campaign,campaign_id,${kinds.figures.join(',')},minutes_in_budget`
          : `date,campaign,campaign_id,placement,${kinds.figures.join(',')},bidding_strategy`,
      );
      for (const day of days) {
        for (const campaign of new Set(market.targets.map((target) => target.campaign))) {
          const sums = [0, 0, 0, 0, 0, 0];
          for (const target of market.targets) {
            if (target.campaign !== campaign) continue;
            figures(day, target.id)
              .slice(0, 6)
              .forEach((value, i) => (sums[i]! += Number(value)));
          }
          const told = [sums[0], sums[1], sums[2]!.toFixed(2), sums[3], sums[4], sums[5]!.toFixed(2), 'EUR'];
          lines.push(
            hours
              ? [view.dayOf(day), 12, `Campaign ${campaign}`, `c${campaign}`, ...told, 60].join(',')
              : [
                  view.dayOf(day),
                  `Campaign ${campaign}`,
                  `c${campaign}`,
                  'rest_of_search',
                  ...told,
                  'fixed',
                ].join(','),
          );
        }
      }
    }
    return `${lines.join('\n')}\n`;
  };

  const change = ({
    line_id,
    entity,
    action,
    id,
    field,
    new_value: value,
  }: Record<string, string | null>) => {
    const target = market.targets[Number(id?.slice(1))];
    if (entity !== 'target' || action !== 'update' || field !== 'bid' || !target)
      return {
        line_id,
        state: 'refused',
        code: 'unknown',
        message: 'Only bids of known targets change here.',
      };
    target.bid = market.rounded(Number(value));
    return { line_id, state: 'applied' };
  };

  const answer = async (request: IncomingMessage): Promise<unknown> => {
    const { pathname, searchParams } = new URL(request.url!, 'http://lab');
    const chunks: Buffer[] = [];
    for await (const chunk of request) chunks.push(chunk as Buffer);
    const body = (chunks.length > 0 ? JSON.parse(Buffer.concat(chunks).toString()) : {}) as Record<
      string,
      unknown
    >;
    const paged = (items: object[]) => {
      const at = Number(searchParams.get('cursor') ?? 0);
      const next = at + 1000;
      return {
        version,
        items: items.slice(at, next),
        next_cursor: next < items.length ? String(next) : null,
      };
    };
    if (pathname === '/token') return { token: 'lab', expires_in: 1e6 };
    if (pathname === '/account')
      return { name: 'Lab', currency: 'EUR', timeZone: 'UTC', firstDay: View.firstDay, today: today() };
    if (pathname === '/limits')
      return {
        minimum_bid: market.minimumBid,
        maximum_bid: 60,
        bid_step: 0.01,
        item_code_pattern: '^ITEM[0-9]{4}$',
      };
    if (pathname === '/structure') return paged(structure());
    if (pathname === '/products')
      return paged(
        market.prices.map((price, i) => ({
          sku: `SKU${i}`,
          item_code: `ITEM000${i}`,
          title: `Product ${i}`,
          category: 'lab',
          price,
          unit_cost: price * 0.3,
          fee_rate: 0.15,
          fee_fixed: 0,
          shipping: 0,
          refund_rate: 0,
          rating: 4,
          stock: null,
        })),
      );
    if (pathname === '/reports') {
      const id = `r${reports.size}`;
      reports.set(id, csv(String(body.kind), String(body.from), String(body.to)));
      return { id, state: 'ready' };
    }
    const report = /^\/reports\/(r\d+)(\/file)?$/.exec(pathname);
    if (report) return report[2] ? reports.get(report[1]!)! : { id: report[1], state: 'ready', progress: 1 };
    if (pathname === '/changes') {
      const key = String(body.idempotency_key);
      if (!answered.has(key)) {
        version++;
        answered.set(key, { lines: (body.lines as Record<string, string | null>[]).map(change), version });
      }
      return answered.get(key);
    }
    return { code: 'unknown', message: `There is no ${pathname} here.` };
  };

  const server = createServer((request, response) => {
    answer(request).then(
      (value) => {
        const text = typeof value === 'string';
        response.writeHead(200, { 'content-type': text ? 'text/csv' : 'application/json' });
        response.end(text ? value : JSON.stringify(value));
      },
      (error: unknown) => {
        response.writeHead(500, { 'content-type': 'application/json' });
        response.end(JSON.stringify({ code: 'error', message: String(error) }));
      },
    );
  });
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  return {
    url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
    live: (days) => {
      for (let day = 0; day < days; day++) market.live();
      view.fetch();
    },
    stop: () => new Promise((resolve) => server.close(() => resolve())),
  };
}
