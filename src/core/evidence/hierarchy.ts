import gammaln from '@stdlib/math-base-special-gammaln';
import { highest, lnLikelihood } from './prior.ts';
import { addSiblings, noSiblings, tallyOf, type Siblings, type Tally } from './siblings.ts';

/** One level's sums and what is below it. At the last level its siblings are the rows: only there they are tallied. */
export interface Level {
  siblings: Siblings;
  members: readonly Level[];
}

/** What is believed of the mean of a level once all levels were heard. */
export interface LevelMean {
  /** Orders per click. */
  mu: number;
  /** Variance of the mean over its square. */
  doubt: number;
  /** Clicks that tell of this mean itself: what members differ by is taken off. */
  telling: number;
  /** Orders in those clicks. */
  sold: number;
  /** b of its like, in clicks: how much the mean above counts beside `telling`; 0 at the top. */
  weight: number;
}

/** How alike members are: shape of the Gamma that their rates come from, 1 over their relative variance. */
export interface Likeness {
  rows: number;
  /** Of products in the account, campaigns in a product, ad groups in a campaign. */
  levels: number[];
}

/** Before an account has told it, rates of rows differ by 58 %, means of levels by 32 %: 1 / sqrt(shape). */
export const usualRows = 3;
export const usualLevels = 10;
/** Standard deviation of the logarithm of both. */
const spread = 1;
/** Means and likeness are found in turn: twice is enough. */
const passes = 2;
/** Means nearer to each other than this share are taken for one, so that their counts can be tallied together. */
const sameMean = 0.02;

interface Node {
  level: Level;
  parent: Node | null;
  members: Node[];
  /** Rows; null above the last level. */
  tally: Tally | null;
  /** Share of its undecayed clicks that still counts. */
  kept: number;
  said: LevelMean;
}

function nodeOf(level: Level, depth: number, parent: Node | null, byDepth: Node[][]): Node {
  const said = { mu: 0, doubt: 0, telling: 0, sold: 0, weight: 0 };
  const node: Node = { level, parent, members: [], tally: null, kept: 1, said };
  (byDepth[depth] ??= []).push(node);
  node.members = level.members.map((member) => nodeOf(member, depth + 1, node, byDepth));
  if (node.members.length > 0) return node;
  node.tally = tallyOf(level.siblings);
  const counted = node.tally.clicks.reduce((sum, n, i) => sum + n * node.tally!.rows[i]!, 0);
  node.kept = counted > 0 ? level.siblings.n / counted : 0;
  return node;
}

/** Clicks of the mean itself that a member of n clicks is worth, where members are as alike as b clicks. */
const worthOf = (n: number, b: number): number => (n * b) / (n + b);

/** Gathers from below what tells of each mean. `recent`: rates as of late over those of all days. */
function listen(node: Node, depth: number, likeness: Likeness, recent: number): void {
  const { said, tally, members } = node;
  said.telling = said.sold = 0;
  if (tally) {
    const b = likeness.rows / said.mu;
    for (let i = 0; i < tally.rows.length; i++) {
      const telling = tally.rows[i]! * worthOf(tally.clicks[i]!, b) * node.kept;
      said.telling += telling;
      said.sold += ((telling * tally.orders[i]!) / tally.clicks[i]!) * recent;
    }
    return;
  }
  const b = likeness.levels[depth]! / said.mu;
  for (const member of members) {
    listen(member, depth + 1, likeness, recent);
    const own = member.said;
    if (own.telling <= 0) continue;
    const telling = worthOf(own.telling, b);
    said.telling += telling;
    said.sold += (telling * own.sold) / own.telling;
  }
}

/** Hands the means down: each level's own, shrunk to the one above by how alike its like are. */
function tell(node: Node, depth: number, likeness: Likeness): void {
  const { said } = node;
  const above = node.parent?.said;
  if (above) {
    const alike = likeness.levels[depth - 1]!;
    said.weight = alike / above.mu;
    said.mu = (said.weight * above.mu + said.sold) / (said.weight + said.telling);
    const left = said.weight / (said.weight + said.telling);
    said.doubt = left / alike + ((left * above.mu) / said.mu) ** 2 * above.doubt;
  }
  for (const member of node.members) tell(member, depth + 1, likeness);
}

/** What likeness is shrunk to. */
export interface UsualLikeness {
  rows: number;
  levels: number;
  /** The mean at the top, where it is believed to be something before anything is counted: a Gamma of this mean and shape. */
  top?: { mu: number; shape: number };
}

/** The shape of highest likelihood, its logarithm shrunk to the usual one. */
const shapeBy = (lnLikelihoodOf: (shape: number) => number, usual: number): number =>
  Math.exp(
    highest(
      (x) => lnLikelihoodOf(Math.exp(x)) - 0.5 * ((x - Math.log(usual)) / spread) ** 2,
      Math.log(usual) - 4 * spread,
      Math.log(usual) + 4 * spread,
    ),
  );

/** How alike rows are, each around the mean of its own ad group. */
function likenessOfRows(nodes: readonly Node[], usual: number): number {
  const byMean = new Map<number, { mu: number; siblings: Siblings }>();
  for (const { tally, level, said } of nodes) {
    if (!tally || tally.rows.length === 0) continue;
    const place = Math.round(Math.log(said.mu) / sameMean);
    let known = byMean.get(place);
    if (!known) byMean.set(place, (known = { mu: Math.exp(place * sameMean), siblings: noSiblings() }));
    addSiblings(known.siblings, level.siblings);
  }
  const tallies = [...byMean.values()].map(({ mu, siblings }) => ({ mu, tally: tallyOf(siblings) }));
  return shapeBy(
    (shape) => tallies.reduce((sum, { mu, tally }) => sum + lnLikelihood(tally, mu, shape / mu), 0),
    usual,
  );
}

/** How alike the levels of one depth are, each around what its parent would be without it. */
function likenessOfLevels(nodes: readonly Node[], depth: number, likeness: Likeness, usual: number): number {
  const members = nodes.flatMap(({ said, parent }) => {
    const above = parent!.said;
    const ofOwn = worthOf(said.telling, likeness.levels[depth - 1]! / above.mu);
    const weight = above.weight;
    const telling = Math.max(0, above.telling - ofOwn);
    if (said.telling <= 0 || weight + telling <= 1e-9) return [];
    const sold = Math.max(0, above.sold - (ofOwn * said.sold) / said.telling);
    const mu = (weight * (parent!.parent?.said.mu ?? 0) + sold) / (weight + telling);
    return [{ n: said.telling, y: said.sold, mu: Math.max(mu, 1e-9) }];
  });
  return shapeBy((shape) => {
    let sum = 0;
    for (const { n, y, mu } of members) {
      const b = shape / mu;
      sum += gammaln(shape + y) - gammaln(shape) - shape * Math.log1p(n / b) - y * Math.log(b + n);
    }
    return sum;
  }, usual);
}

/**
 * Means of all levels, and how alike their members are: hierarchical credibility (Jewell 1975; Buehlmann and Gisler
 * 2005, 6), likeness by the likelihood of the negative binomial. Rows differ around the mean of their ad group, ad
 * groups around that of their campaign, and so on, each by its own likeness: rows that are alike within ad groups which
 * differ are not taken for rows that differ. A member tells of the mean above it what is left once it has been allowed
 * to differ, so a row of a thousand clicks does not speak for a hundred small ones.
 * @param top The account. Clicks and orders, weighted (`n`, `y`) and as counted (`tally`).
 */
export function hear(
  top: Level,
  usual: UsualLikeness = { rows: usualRows, levels: usualLevels },
  /** How alike members are, where that is known already. */
  known: Likeness | null = null,
): { likeness: Likeness; means: Map<Level, LevelMean> } {
  const byDepth: Node[][] = [];
  const root = nodeOf(top, 0, null, byDepth);
  const nodes = byDepth.flat();
  const { n, y } = top.siblings;
  const start = y > 0 ? y / n : (usual.top?.mu ?? 0.5 / (n + 10));
  for (const { said } of nodes) said.mu = start;
  const counted = { clicks: 0, orders: 0 };
  for (const { tally } of nodes) {
    tally?.rows.forEach((rows, i) => {
      counted.clicks += rows * tally.clicks[i]!;
      counted.orders += rows * tally.orders[i]!;
    });
  }
  const recent = y > 0 && counted.orders > 0 ? (start * counted.clicks) / counted.orders : 1;
  const likeness: Likeness = known ?? { rows: usual.rows, levels: byDepth.slice(1).map(() => usual.levels) };
  const hearAll = () => {
    listen(root, 0, likeness, recent);
    const { said } = root;
    if (usual.top) {
      const { mu, shape } = usual.top;
      said.mu = (shape + said.sold) / (shape / mu + said.telling);
      said.doubt = 1 / (shape + said.mu * said.telling);
    } else {
      if (said.sold > 0) said.mu = said.sold / said.telling;
      said.doubt = 1 / Math.max(0.5, said.mu * said.telling);
    }
    tell(root, 0, likeness);
  };
  hearAll();
  for (let pass = 0; pass < (known ? 0 : passes); pass++) {
    likeness.rows = likenessOfRows(nodes, usual.rows);
    for (let depth = 1; depth < byDepth.length; depth++) {
      hearAll();
      likeness.levels[depth - 1] = likenessOfLevels(byDepth[depth]!, depth, likeness, usual.levels);
    }
  }
  hearAll();
  return { likeness, means: new Map(nodes.map(({ level, said }) => [level, said])) };
}
