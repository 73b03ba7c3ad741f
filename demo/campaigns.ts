import { concepts } from './trade.ts';
import { products } from './products.ts';

/** The account's settings as its specialist left them: campaigns, bids, negatives. No figures. */

interface TargetSetting {
  kind: string;
  matchType?: string;
  expression: string;
  bid: number;
}

/** A small fixed scatter, so that bids look set by hand and stay the same at every start. */
function scatter(text: string): number {
  let h = 7;
  for (const sign of text) h = (h * 31 + sign.charCodeAt(0)) % 9973;
  return 0.75 + (h / 9973) * 0.55;
}

const cents = (value: number) => Math.max(0.05, Math.round(value * 100) / 100);

interface Line {
  sku: string;
  short: string;
  base: number;
  /** Daily budgets: automatic, broad, phrase, exact, items. */
  budgets: [number, number, number, number, number];
  budgetGroup?: string;
}

const lines: Line[] = [
  { sku: 'TT-LID4', short: 'Lids', base: 0.62, budgets: [14, 12, 14, 30, 9] },
  { sku: 'TT-WGT6', short: 'Weights', base: 0.6, budgets: [12, 14, 12, 5, 8] },
  { sku: 'TT-CRK2', short: 'Crock 2', base: 0.68, budgets: [12, 14, 12, 26, 9], budgetGroup: 'bg1' },
  { sku: 'TT-CRK5', short: 'Crock 5', base: 0.8, budgets: [14, 15, 6, 30, 9], budgetGroup: 'bg1' },
  { sku: 'TT-KIT1', short: 'Kit', base: 0.66, budgets: [12, 13, 12, 24, 9] },
  { sku: 'TT-TMP1', short: 'Tamper', base: 0.36, budgets: [5, 6, 5, 12, 4] },
  { sku: 'TT-PHS2', short: 'Strips', base: 0.38, budgets: [6, 9, 6, 8, 4] },
  { sku: 'TT-KMB4', short: 'Kombucha', base: 0.58, budgets: [9, 8, 7, 14, 6] },
];

const known = [
  'best',
  'small',
  'large',
  'glass',
  'ceramic',
  'wide mouth',
  '2 litre',
  '5 litre',
  'wooden',
  'traditional',
];
const aims = [
  'for sauerkraut',
  'for kimchi',
  'for pickles',
  'for mason jars',
  'for fermenting',
  'for hot sauce',
  'set',
  'for beginners',
];

/** What the specialist already runs as exact keywords: every other of the obvious ones; the rest waits to be found. */
function exactTerms(kinds: string[]): string[] {
  const all = kinds.flatMap((kind, k) =>
    k === 3 || k === 5
      ? []
      : [
          kind,
          ...known.map((before, i) => ((i + k) % 2 === 0 ? `${before} ${kind}` : '')),
          ...aims.map((after, i) => ((i + k) % 3 === 0 ? `${kind} ${after}` : '')),
        ],
  );
  return [...new Set(all.filter((text) => text !== ''))]
    .filter((text, i) => kinds.indexOf(text) in [0, 1, 2] || i % 7 !== 2)
    .slice(0, 62);
}

function rivalPages(concept: string, count: number): string[] {
  return Array.from({ length: count }, (_, i) => `${concept}#${i * 2 + 1}`);
}

/** `pageCode` names the i-th rival page of a concept, as the marketplace lists it. */
export function campaigns(pageCode: (concept: string, i: number) => string, firstDay: string) {
  const startDate = '2026-03-02';
  const make = (
    id: string,
    name: string,
    kind: 'automatic' | 'manual',
    dailyBudget: number,
    sku: string,
    targets: TargetSetting[],
    more: {
      budgetGroup?: string;
      strategy?: string;
      modifiers?: Record<string, number>;
      startDate?: string;
      endDate?: string;
      negatives?: { matchType: string; expression: string; scope: string }[];
    } = {},
  ) => ({
    id,
    name,
    kind,
    dailyBudget,
    strategy: more.strategy ?? 'fixed',
    startDate: more.startDate ?? startDate,
    ...(more.endDate ? { endDate: more.endDate } : {}),
    ...(more.budgetGroup ? { budgetGroup: more.budgetGroup } : {}),
    status: 'enabled' as const,
    modifiers: more.modifiers ?? {},
    adGroups: [
      {
        id: id.replace('c', 'g'),
        name,
        defaultBid: targets[0]?.bid ?? 0.5,
        skus: [sku],
        targets,
        negatives: more.negatives ?? [],
      },
    ],
  });
  const keyword = (matchType: string, expression: string, bid: number): TargetSetting => ({
    kind: 'keyword',
    matchType,
    expression,
    bid: cents(bid),
  });
  const automatic = (base: number): TargetSetting[] => [
    { kind: 'automatic', expression: 'close terms', bid: cents(base * 0.95) },
    { kind: 'automatic', expression: 'wide terms', bid: cents(base * 0.8) },
    { kind: 'automatic', expression: 'similar items', bid: cents(base * 0.75) },
    { kind: 'automatic', expression: 'companion items', bid: cents(base * 0.6) },
  ];

  const list = lines.flatMap(({ sku, short, base, budgets, budgetGroup }, n) => {
    const product = products.find((entry) => entry.sku === sku)!;
    const concept = concepts.find((entry) => entry.name === product.concept)!;
    const kinds = concept.kinds.map((kind) => kind.text);
    const research = kinds.flatMap((kind) => [
      kind,
      `${kind} ${aims[n % aims.length]}`,
      `${known[n % 4]} ${kind}`,
    ]);
    const group = budgetGroup ? { budgetGroup } : {};
    const id = (place: number) => `c${100 + n * 10 + place}`;
    const exact = exactTerms(kinds).map((text, i) => {
      let bid = base * 1.1 * scatter(text);
      // Left behind years ago and never looked at again.
      if (i % 19 === 11) bid = 0.05;
      return keyword('exact', text, bid);
    });
    if (sku === 'TT-CRK5') {
      // The hero: held at the top for its organic rank, whatever it costs.
      const hero = exact.find((target) => target.expression === 'sauerkraut crock')!;
      hero.bid = 3.4;
    }
    return [
      make(id(1), `${short} automatic`, 'automatic', budgets[0], sku, automatic(base * scatter(short)), {
        ...group,
        modifiers: n % 2 === 0 ? { top_of_search: 20 } : {},
      }),
      make(
        id(2),
        `${short} broad research`,
        'manual',
        budgets[1],
        sku,
        research.slice(0, 26).map((text) => keyword('broad', text, base * 0.9 * scatter(`b${text}`))),
        { ...group, strategy: n % 3 === 0 ? 'down_only' : 'fixed' },
      ),
      make(
        id(3),
        `${short} phrase research`,
        'manual',
        budgets[2],
        sku,
        research.slice(0, 22).map((text) => keyword('phrase', text, base * 0.95 * scatter(`p${text}`))),
        group,
      ),
      make(id(4), `${short} exact`, 'manual', budgets[3], sku, exact, {
        ...group,
        strategy: n % 4 === 1 ? 'up_and_down' : 'fixed',
        modifiers: { top_of_search: n % 2 === 0 ? 35 : 15 },
        negatives:
          sku === 'TT-WGT6'
            ? [{ matchType: 'negative_phrase', expression: 'glass weights', scope: 'ad_group' }]
            : [],
      }),
      make(
        id(5),
        `${short} items`,
        'manual',
        budgets[4],
        sku,
        [
          ...rivalPages(product.concept, 28).map((_, i): TargetSetting => {
            const code = pageCode(product.concept, i * 2 + 1);
            return { kind: 'item', expression: code, bid: cents(base * 0.7 * scatter(code)) };
          }),
          { kind: 'category', expression: concept.category, bid: cents(base * 0.55) },
          {
            kind: 'category',
            expression: `${concept.category}, price -${(Math.round(product.price) - 0.01).toFixed(2)}`,
            bid: cents(base * 0.5),
          },
        ],
        group,
      ),
    ];
  });

  // Grown beside the usual shape, as it happens.
  list.push(
    make(
      'c191',
      'Kombucha summer push',
      'manual',
      6,
      'TT-PHS2',
      ['kombucha ph strips', 'kombucha kit', 'kombucha jar', 'brewing jar'].map((text) =>
        keyword('broad', text, 0.66),
      ),
      { startDate: '2026-05-15' },
    ),
    make(
      'c192',
      'Preserving wide net',
      'manual',
      4.5,
      'TT-KIT1',
      ['canning jars', 'preserving jars', 'pickle jar', 'pressure canning kit'].map((text) =>
        keyword('broad', text, 0.92),
      ),
    ),
    make('c193', 'Lids and weights cross', 'manual', 5, 'TT-LID4', [
      ...['fermentation weights', 'glass weights', 'pickle weights'].map((text) =>
        keyword('phrase', text, 0.55),
      ),
      ...Array.from({ length: 10 }, (_, i): TargetSetting => ({
        kind: 'item',
        expression: pageCode('weights', i),
        bid: 0.36,
      })),
    ]),
    make('c194', 'Kit gifts broad', 'manual', 8, 'TT-KIT1', [
      ...['gut health gifts', 'fermentation supplies', 'fermented food'].map((text) =>
        keyword('broad', text, 0.6),
      ),
    ]),
    make('c195', 'Crock 5 item defence', 'manual', 6, 'TT-CRK5', [
      ...products
        .filter((product) => product.sku !== 'TT-CRK5')
        .map((product): TargetSetting => ({ kind: 'item', expression: product.itemCode, bid: 0.45 })),
    ]),
  );
  if (firstDay < startDate) throw new Error('The demo account starts before its campaigns.');
  return list;
}
