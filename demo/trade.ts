/** The trade of the demo account in words: what shoppers type for which need, and which words fit which product. */

interface Word {
  text: string;
  weight: number;
  clickFactor: number;
  conversionFactor: number;
  fit: Record<string, number>;
}

const word = (
  text: string,
  weight: number,
  conversionFactor = 1,
  fit: Record<string, number> = {},
  clickFactor = 1,
): Word => ({ text, weight, clickFactor, conversionFactor, fit });

/** Words that look close and never buy: other crafts, other machines, people who only read. */
const traps = [
  word('canning', 26, 0, {}, 0.95),
  word('pressure', 15, 0, {}, 0.95),
  word('moonshine', 5, 0, {}, 0.9),
  word('vacuum', 6, 0.05, {}, 0.8),
  word('free', 4, 0, {}, 0.8),
  word('diy', 4, 0.05, {}, 0.8),
  word('pool', 20, 0.02, {}, 0.7),
  word('aquarium', 9, 0.03, {}, 0.7),
  word('replacement', 9, 0.1, {}, 0.9),
  word('antique', 6, 0, {}, 0.9),
];

const qualities = [
  word('best', 9),
  word('small', 5, 0.9, { 'TT-CRK5': 0.5, 'TT-CRK2': 1.25 }),
  word('large', 6, 0.9, { 'TT-CRK2': 0.45, 'TT-CRK5': 1.3, 'TT-KMB4': 1.1 }),
  word('easy', 3, 1.1),
  word('cheap', 3, 0.5),
  word('professional', 2, 0.9),
  word('traditional', 3, 1.1),
  word('handmade', 1.5, 0.7),
  word('heavy', 2, 1.05),
  word('bpa free', 2.5, 1.1, { 'TT-LID4': 1.2 }),
];

const materials = [
  word('glass', 8, 1, { 'TT-WGT6': 1.25, 'TT-CRK2': 0.4, 'TT-CRK5': 0.4, 'TT-TMP1': 0.3 }),
  word('ceramic', 5, 1, { 'TT-CRK2': 1.2, 'TT-CRK5': 1.2, 'TT-WGT6': 0.5, 'TT-LID4': 0.3 }),
  word('stoneware', 4, 1.1, { 'TT-CRK2': 1.25, 'TT-CRK5': 1.25 }),
  word('plastic', 5, 0.6, {
    'TT-CRK2': 0.15,
    'TT-CRK5': 0.15,
    'TT-WGT6': 0.3,
    'TT-TMP1': 0.2,
    'TT-KMB4': 0.3,
  }),
  word('silicone', 5, 0.8, { 'TT-LID4': 1, 'TT-CRK2': 0.2, 'TT-CRK5': 0.2 }),
  word('wooden', 5, 1, { 'TT-TMP1': 1.3, 'TT-CRK2': 0.3, 'TT-CRK5': 0.3 }),
  word('stainless steel', 3, 0.5, { 'TT-KMB4': 0.4, 'TT-TMP1': 0.4 }),
  word('beechwood', 1.5, 1.2, { 'TT-TMP1': 1.4 }),
];

const sizes = [
  word('wide mouth', 9, 1.1, { 'TT-LID4': 1.35, 'TT-WGT6': 1.1 }),
  word('regular mouth', 4, 0.4, { 'TT-LID4': 0.35, 'TT-WGT6': 0.8 }),
  word('1 litre', 3, 0.6),
  word('2 litre', 6, 1, { 'TT-CRK2': 1.6, 'TT-CRK5': 0.3, 'TT-KMB4': 0.5 }),
  word('4 litre', 4, 0.8, { 'TT-KMB4': 1.5, 'TT-CRK5': 0.9 }),
  word('5 litre', 6, 1, { 'TT-CRK5': 1.6, 'TT-CRK2': 0.3 }),
  word('10 litre', 4, 0.25),
  word('20 litre', 2, 0.1),
  word('4 pack', 4, 1, { 'TT-LID4': 1.3 }),
  word('6 pack', 3, 1, { 'TT-WGT6': 1.3 }),
  word('with lid', 4, 1),
  word('with tap', 3, 0.9, { 'TT-KMB4': 1.3 }),
];

const uses = [
  word('for sauerkraut', 9, 1.15, { 'TT-KMB4': 0.2 }),
  word('for kimchi', 7, 1.05, { 'TT-KMB4': 0.2 }),
  word('for pickles', 6, 0.95),
  word('for mason jars', 8, 1.05, { 'TT-CRK2': 0.3, 'TT-CRK5': 0.3 }),
  word('for hot sauce', 3, 1.05),
  word('for fermenting', 7, 1.15),
  word('for beginners', 3, 1, { 'TT-KIT1': 1.35 }),
  word('for vegetables', 4, 1.05),
  word('for kombucha', 5, 1, { 'TT-KMB4': 1.2, 'TT-PHS2': 1.3, 'TT-CRK2': 0.5, 'TT-CRK5': 0.5 }),
  word('for water', 3, 0.3),
  word('for soap making', 2.5, 0.4, { 'TT-PHS2': 0.8 }),
  word('for home', 3, 0.9),
];

const extras = [
  word('gift', 4, 0.9, { 'TT-KIT1': 1.4 }),
  word('set', 6, 1),
  word('uk', 2, 0.9),
  word('ireland', 3, 1.15),
  word('near me', 2, 0.3),
  word('reviews', 2, 0.3),
  word('instructions', 1.5, 0.1),
  word('bulk', 1.5, 0.6),
  word('weight', 2, 0.8),
  word('airlock', 3, 1),
];

export const words = [...traps, ...qualities, ...materials, ...sizes, ...uses, ...extras];

const texts = (...lists: Word[][]) => lists.flat().map((entry) => entry.text);
const trapWords = (...names: string[]) => names;

const kinds = (list: string) => list.split(', ').map((text, i) => ({ text, weight: 100 / (i + 0.8) }));

export const concepts = [
  {
    name: 'lids',
    category: 'fermenting lids',
    popularity: 20,
    rivalBid: 0.52,
    fit: { 'TT-LID4': 1, 'TT-KIT1': 0.2, 'TT-WGT6': 0.15 },
    kinds: kinds(
      'airlock lids, fermenting lids, fermentation lids, mason jar airlock, jar lids, airlock lid, fermentation airlock, pickling lids, fermenting lid kit, water airlock',
    ),
    before: [
      ...texts(qualities, materials, sizes.slice(0, 2)),
      ...trapWords('canning', 'pressure', 'vacuum', 'moonshine', 'diy'),
    ],
    after: [...texts(uses, extras, sizes.slice(8, 9)), ...trapWords('replacement')],
  },
  {
    name: 'weights',
    category: 'fermenting weights',
    popularity: 16,
    rivalBid: 0.5,
    fit: { 'TT-WGT6': 1, 'TT-LID4': 0.15, 'TT-KIT1': 0.2 },
    kinds: kinds(
      'fermentation weights, glass weights, pickle weights, fermenting weights, jar weights, pickling weights, crock weights, fermenting stones, glass weight',
    ),
    before: [
      ...texts(qualities, materials, sizes.slice(0, 2)),
      ...trapWords('canning', 'pressure', 'antique', 'diy'),
    ],
    after: [...texts(uses, extras, sizes.slice(9, 10)), ...trapWords('free')],
  },
  {
    name: 'crocks',
    category: 'fermenting crocks',
    popularity: 19,
    rivalBid: 0.62,
    fit: { 'TT-CRK2': 0.9, 'TT-CRK5': 0.95, 'TT-KIT1': 0.15 },
    kinds: kinds(
      'fermentation crock, sauerkraut crock, fermenting crock, pickling crock, kraut crock, kimchi crock, stoneware crock, water seal crock, crock pot for fermenting, onggi pot',
    ),
    before: [
      ...texts(qualities, materials, sizes.slice(3, 8)),
      ...trapWords('canning', 'antique', 'pressure'),
    ],
    after: [...texts(uses, extras, sizes.slice(3, 8), sizes.slice(10, 11)), ...trapWords('replacement')],
  },
  {
    name: 'kits',
    category: 'fermenting kits',
    popularity: 13,
    rivalBid: 0.6,
    fit: { 'TT-KIT1': 1, 'TT-LID4': 0.2, 'TT-CRK2': 0.25, 'TT-TMP1': 0.15 },
    kinds: kinds(
      'sauerkraut kit, fermentation kit, fermenting kit, kimchi making kit, pickling kit, kraut starter kit, fermentation starter set, vegetable fermenting kit',
    ),
    before: [
      ...texts(qualities, materials.slice(0, 2)),
      ...trapWords('canning', 'pressure', 'diy', 'moonshine'),
    ],
    after: [...texts(uses, extras), ...trapWords('free')],
  },
  {
    name: 'tampers',
    category: 'fermenting tools',
    popularity: 8,
    rivalBid: 0.32,
    fit: { 'TT-TMP1': 1, 'TT-KIT1': 0.2 },
    kinds: kinds(
      'sauerkraut tamper, cabbage pounder, wooden tamper, kraut pounder, vegetable tamper, sauerkraut stomper, fermentation tamper',
    ),
    before: [...texts(qualities, materials), ...trapWords('antique', 'canning')],
    after: [...texts(uses, extras)],
  },
  {
    name: 'strips',
    category: 'test strips',
    popularity: 12,
    rivalBid: 0.34,
    fit: { 'TT-PHS2': 1 },
    kinds: kinds(
      'ph strips, ph test strips, ph paper, acidity test strips, kombucha ph strips, ph test kit, litmus paper, ph tester',
    ),
    before: [...texts(qualities.slice(0, 5)), ...trapWords('pool', 'aquarium', 'canning')],
    after: [...texts(uses, extras), ...trapWords('free')],
  },
  {
    name: 'kombucha',
    category: 'kombucha jars',
    popularity: 9,
    rivalBid: 0.55,
    fit: { 'TT-KMB4': 1, 'TT-PHS2': 0.12 },
    kinds: kinds(
      'kombucha jar, kombucha brewing jar, kombucha vessel, continuous brew jar, kombucha kit, glass jar with tap, brewing jar, kombucha fermenter',
    ),
    before: [...texts(qualities, materials.slice(0, 5)), ...trapWords('canning', 'vacuum')],
    after: [...texts(uses, extras, sizes.slice(3, 6), sizes.slice(11)), ...trapWords('replacement')],
  },
  {
    name: 'general',
    category: 'preserving',
    popularity: 7,
    rivalBid: 0.35,
    fit: {
      'TT-KIT1': 0.3,
      'TT-LID4': 0.2,
      'TT-CRK2': 0.15,
      'TT-WGT6': 0.15,
      'TT-CRK5': 0.12,
      'TT-TMP1': 0.12,
    },
    kinds: kinds(
      'fermentation supplies, pickle jar, fermenting jar, preserving jars, fermented food, canning jars, pickle maker, gut health gifts',
    ),
    before: [...texts(qualities, materials), ...trapWords('pressure', 'vacuum')],
    after: [...texts(uses, extras)],
  },
];
