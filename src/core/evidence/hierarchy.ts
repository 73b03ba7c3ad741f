import gammaln from '@stdlib/math-base-special-gammaln';
import { lnLikelihood } from './prior.ts';
import { tallyOf, type Siblings, type Tally } from './siblings.ts';

/** One level's counts with what is below it; rows are the members of a level without members of its own. */
export interface Level {
  siblings: Siblings;
  members: Level[];
}

/** What is known of the mean of a level, after all of them were heard. */
export interface LevelMean {
  /** Orders per click. */
  mu: number;
  /** Variance of the mean over its square. */
  doubt: number;
  /** Clicks that tell of this mean alone: what members differ by is taken off. */
  telling: number;
  sold: number;
}

/** How alike members are: the shape of the Gamma that their rates come from, 1 over their relative variance. */
export interface Likeness {
  rows: number;
  /** Of products in the account, campaigns in a product, ad groups in a campaign. */
  levels: number[];
}

/** Before an account has told it: rates of rows differ by half, means of levels by a third. */
export const usualRows = 3;
export const usualLevels = 10;
/** Standard deviation of the logarithm of both. */
const spread = 1;

const weighted = (clicks: number): number => (clicks > 0 ? clicks : 0);

/** Clicks of the mean itself that a member of n clicks is worth, where members are as alike as b clicks. */
const credible = (n: number, b: number): number => (n > 0 ? (n * b) / (n + b) : 0);

interface Node {
  level: Level;
  depth: number;
  parent: Node | null;
  members: Node[];
  tally: Tally | null;
  /** Share of its undecayed clicks that still counts. */
  kept: number;
  said: LevelMean;
}

function nodeOf(level: Level, depth: number, parent: Node | null, all: Node[][]): Node {
  const node: Node = {
    level,
    depth,
    parent,
    members: [],
    tally: null,
    kept: 1,
    said: { mu: 0, doubt: 0, telling: 0, sold: 0 },
  };
  (all[depth] ??= []).push(node);
  node.members = level.members.map((member) => nodeOf(member, depth + 1, node, all));
  if (node.members.length === 0) {
    node.tally = tallyOf(level.siblings);
    const { clicks, rows } = node.tally;
    const counted = clicks.reduce((sum, n, i) => sum + n * rows[i]!, 0);
    node.kept = counted > 0 ? level.siblings.n / counted : 0;
  }
  return node;
}

function listen(node: Node, likeness: Likeness): number {
  const { said, tally, members, depth } = node;
  if (tally) {
    const b = likeness.rows / said.mu;
    let [sum, sold] = [0, 0];
    for (let i = 0; i < tally.rows.length; i++) {
      const w = tally.rows[i]! * credible(tally.clicks[i]!, b);
      sum += w;
      sold += (w * tally.orders[i]!) / tally.clicks[i]!;
    }
    said.telling = sum * node.kept;
    said.sold = sold * node.kept;
  } else {
    const b = likeness.levels[depth]! / said.mu;
    said.telling = said.sold = 0;
    for (const member of members) {
      const told = listen(member, likeness);
      const w = credible(told, b);
      said.telling += w;
      if (told > 0) said.sold += (w * member.said.sold) / told;
    }
  }
  return weighted(said.telling);
}

/** Hands the means down: each level's own, shrunk to the one above by how alike its like are. */
function tell(node: Node, likeness: Likeness): void {
  const { said, level, parent, depth } = node;
  if (parent) {
    const above = parent.said;
    const alike = likeness.levels[depth - 1]!;
    const b = alike / above.mu;
    said.mu = (b * above.mu + said.sold) / (b + said.telling);
    const left = b / (b + said.telling);
    said.doubt = left / alike + ((left * above.mu) / said.mu) ** 2 * above.doubt;
  }
  for (const member of node.members) tell(member, likeness);
}

/** ln likelihood of members' telling clicks around the mean of the others of their parent. */
function lnOfMembers(members: readonly { n: number; y: number; mu: number }[], shape: number): number {
  let sum = 0;
  for (const { n, y, mu } of members) {
    const b = shape / mu;
    sum += gammaln(shape + y) - gammaln(shape) - shape * Math.log1p(n / b) - y * Math.log(b + n);
  }
  return sum;
}

const shapeBy = (score: (shape: number) => number, centre: number): number => {
  const points = Array.from({ length: 33 }, (_, i) => Math.log(centre) + ((i - 16) / 4) * spread);
  const scores = points.map((x) => score(Math.exp(x)) - 0.5 * ((x - Math.log(centre)) / spread) ** 2);
  const most = Math.max(...scores);
  let [sum, inverse] = [0, 0];
  points.forEach((x, i) => {
    const w = Math.exp(scores[i]! - most);
    sum += w;
    inverse += w * Math.exp(-x);
  });
  return sum / inverse;
};

/**
 * Means of all levels and how alike their members are (hierarchical credibility: Jewell 1975; likeness by the negative
 * binomial likelihood). Rows differ around the mean of their ad group, ad groups around their campaign's, and so on:
 * each by its own likeness. What members differ by is taken off before their counts tell of the mean above them.
 */
export function hear(top: Level): { likeness: Likeness; means: Map<Level, LevelMean> } {
  const all: Node[][] = [];
  const root = nodeOf(top, 0, null, all);
  const { n, y } = top.siblings;
  const mu = y > 0 ? y / n : 0.5 / (n + 10);
  for (const nodes of all) for (const node of nodes) node.said.mu = mu;
  const likeness: Likeness = { rows: usualRows, levels: all.slice(1).map(() => usualLevels) };
  for (let pass = 0; pass < 2; pass++) {
    listen(root, likeness);
    tell(root, likeness);
    const leaves = all.flat().filter(({ tally }) => tally !== null && tally.rows.length > 0);
    likeness.rows = shapeBy(
      (shape) =>
        leaves.reduce((sum, { tally, said }) => sum + lnLikelihood(tally!, said.mu, shape / said.mu), 0),
      usualRows,
    );
    for (let depth = 1; depth < all.length; depth++) {
      listen(root, likeness);
      tell(root, likeness);
      const members = all[depth]!.flatMap(({ level, said, parent }) => {
        const b = likeness.levels[depth - 1]! / parent!.said.mu;
        const above = parent!.parent?.said.mu ?? parent!.said.mu;
        const weight = depth > 1 ? likeness.levels[depth - 2]! / above : 0;
        const c = credible(said.telling, b);
        const telling = Math.max(0, parent!.said.telling - c);
        const sold = Math.max(0, parent!.said.sold - (said.telling > 0 ? (c * said.sold) / said.telling : 0));
        if (said.telling <= 0 || weight + telling <= 1e-9) return [];
        const mu = (weight * above + sold) / (weight + telling);
        return [{ n: said.telling, y: said.sold, mu: Math.max(mu, 1e-9) }];
      });
      likeness.levels[depth - 1] = shapeBy((shape) => lnOfMembers(members, shape), usualLevels);
    }
  }
  listen(root, likeness);
  if (root.said.telling > 0 && y > 0) root.said.mu = root.said.sold / root.said.telling;
  tell(root, likeness);
  root.said.doubt = 1 / Math.max(0.5, mu * root.said.telling);
  tell(root, likeness);
  return {
    likeness,
    means: new Map(all.flat().map(({ level, said }) => [level, said])),
  };
}
