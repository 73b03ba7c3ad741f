import type { Scenario, ScenarioConcept, ScenarioWord } from '../scenario.ts';
import { pick, stream, sums, trait, type Random } from './random.ts';

/** One thing shoppers type, or one item page they visit, with what it hides. */
export interface Query {
  text: string;
  concept: number;
  popularity: number;
  /** Per product: clicks per impression in the first slot, and orders per click, before placement and time. */
  click: Float64Array;
  conversion: Float64Array;
}

export interface Page extends Query {
  category: string;
  price: number;
  rating: number;
  /** Index of our own product whose page it is, -1 for a rival's. */
  own: number;
}

export interface Demand {
  queries: Query[];
  cumulative: Float64Array;
  pages: Page[];
  pageCumulative: Float64Array;
  fresh: (random: Random) => Query;
}

const letters = '23456789ABCDEFGHJKLMNPQRSTVWXYZ';

/**
 * How gladly visitors of a rival's page buy ours instead: a dearer page and a worse rated one send them on. A factor
 * on conversion; 1 at the same price and rating (1 to 5 stars).
 */
export const preference = (
  own: { price: number; rating: number },
  rival: { price: number; rating: number },
): number =>
  Math.min(2, Math.max(0.4, rival.price / own.price)) * Math.exp(0.3 * (own.rating - rival.rating));
/** A rival's item code out of a number: QY and six signs, as the marketplace writes them. */
export function rivalCode(concept: string, i: number): string {
  const random = stream(i, `rival ${concept}`);
  return `QY${Array.from({ length: 6 }, () => letters[Math.floor(random() * letters.length)]).join('')}`;
}

function misspell(text: string, random: Random): string {
  const at = 1 + Math.floor(random() * (text.length - 2));
  if (text[at] === ' ' || text[at + 1] === ' ') return text;
  return random() < 0.5
    ? text.slice(0, at) + text.slice(at + 1)
    : text.slice(0, at) + text[at + 1] + text[at] + text.slice(at + 2);
}

/** Builds the shoppers' side of the world: queries with a heavy tail, item pages, and queries never seen before. */
export function makeDemand(scenario: Scenario): Demand {
  const byText = new Map(scenario.words.map((word) => [word.text, word]));
  const conceptSums = sums(scenario.concepts.map((concept) => concept.popularity));
  const kindSums = scenario.concepts.map((concept) => sums(concept.kinds.map((kind) => kind.weight)));

  const hidden = (text: string, concept: ScenarioConcept, parts: ScenarioWord[]) => {
    const click = new Float64Array(scenario.products.length);
    const conversion = new Float64Array(scenario.products.length);
    scenario.products.forEach((product, p) => {
      const fit = concept.fit[product.sku] ?? 0;
      if (fit === 0) return;
      let clicks = product.clickRate * fit ** 0.7;
      let orders = product.conversion * fit ** 0.9;
      for (const part of parts) {
        clicks *= part.clickFactor;
        orders *= part.conversionFactor * (part.fit[product.sku] ?? 1);
      }
      click[p] = Math.min(0.2, clicks * Math.exp(0.25 * trait(`${text} click ${product.sku}`)));
      conversion[p] = Math.min(0.4, orders * Math.exp(0.35 * trait(`${text} buy ${product.sku}`)));
    });
    return { click, conversion };
  };

  const choicesOf = (list: string[]) => {
    const words = list.map((text) => byText.get(text)!).filter(Boolean);
    return { words, sums: sums(words.map((word) => word.weight)) };
  };
  const choices = scenario.concepts.map(({ before, after }) => ({
    before: choicesOf(before),
    after: choicesOf(after),
    goesBefore: new Set(before),
  }));
  const optional = (
    list: ReturnType<typeof choicesOf>,
    chance: number,
    random: Random,
  ): ScenarioWord | undefined =>
    random() > chance || list.words.length === 0 ? undefined : list.words[pick(list.sums, random)];

  interface Typed {
    text: string;
    concept: number;
    parts: ScenarioWord[];
  }
  const compose = (random: Random, tail: boolean): Typed => {
    const c = pick(conceptSums, random);
    const concept = scenario.concepts[c]!;
    const kind = concept.kinds[pick(kindSums[c]!, random)]!;
    const chance = tail ? 0.75 : 0.45;
    const { before: ahead, after: behind, goesBefore } = choices[c]!;
    const first = optional(ahead, chance, random);
    const second = tail ? optional(ahead, 0.35, random) : undefined;
    const third = optional(behind, chance, random);
    const fourth = tail ? optional(behind, 0.4, random) : undefined;
    const parts = [
      ...new Set([second, first, third, fourth].filter((w): w is ScenarioWord => w !== undefined)),
    ];
    const before = parts.filter((word) => goesBefore.has(word.text));
    const after = parts.filter((word) => !goesBefore.has(word.text));
    let text = [...before.map((w) => w.text), kind.text, ...after.map((w) => w.text)].join(' ');
    if (random() < (tail ? 0.15 : 0.03)) text = misspell(text, random);
    return { text, concept: c, parts };
  };
  const queryOf = ({ text, concept, parts }: Typed): Query => ({
    text,
    concept,
    popularity: 1,
    ...hidden(text, scenario.concepts[concept]!, parts),
  });

  const random = stream(scenario.seed, 'queries');
  const found = new Map<string, Query>();
  for (let tries = 0; found.size < scenario.queryCount && tries < scenario.queryCount * 60; tries++) {
    const typed = compose(random, tries > scenario.queryCount);
    const known = found.get(typed.text);
    // What the grammar makes often is what shoppers type often; the power makes the head heavier.
    if (known) known.popularity += 1;
    else found.set(typed.text, queryOf(typed));
  }
  const queries = [...found.values()];
  for (const query of queries) query.popularity = query.popularity ** 1.3;
  queries.sort((a, b) => b.popularity - a.popularity || (a.text < b.text ? -1 : 1));

  const pages: Page[] = [];
  scenario.products.forEach((product, p) => {
    const c = scenario.concepts.findIndex((concept) => concept.name === product.concept);
    const concept = scenario.concepts[c]!;
    pages.push({
      text: product.itemCode,
      concept: c,
      popularity: 30,
      own: p,
      category: concept.category,
      price: product.price,
      rating: product.rating,
      ...hidden(product.itemCode, concept, []),
    });
  });
  scenario.concepts.forEach((concept, c) => {
    const anchor = scenario.products.find((product) => (concept.fit[product.sku] ?? 0) >= 0.8);
    for (let i = 0; i < 70; i++) {
      const text = rivalCode(concept.name, i);
      const price = (anchor?.price ?? 25) * Math.exp(0.35 * trait(`${text} price`));
      const page = hidden(text, concept, []);
      const rating = 3.2 + 1.7 / (1 + Math.exp(-trait(`${text} rating`)));
      scenario.products.forEach((product, p) => {
        const own = { price: anchor?.price ?? price, rating: product.rating };
        page.conversion[p]! *= preference(own, { price, rating });
      });
      pages.push({
        text,
        concept: c,
        popularity: (concept.popularity * 40) / (i + 3),
        own: -1,
        category: concept.category,
        price,
        rating,
        ...page,
      });
    }
  });
  return {
    queries,
    cumulative: sums(queries.map((query) => query.popularity)),
    pages,
    pageCumulative: sums(pages.map((page) => page.popularity)),
    fresh: (next) => queryOf(compose(next, true)),
  };
}
