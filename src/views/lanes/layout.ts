import type { MapLane } from '../../answers/lanes.ts';
import type { MapAdGroup } from '../../core/lanes/flow.ts';
import type { Lane } from '../../core/lanes/lanes.ts';

/** Where the ad groups of the map stand: a block for each product, research left, what it leads to further right. */

export const nodeHeight = 38;
const nodeGap = 8;
const headHeight = 30;
const blockGap = 18;

export interface Node {
  adGroup: MapAdGroup;
  /** 0 is the left column. */
  column: number;
  x: number;
  y: number;
}

export interface Block {
  sku: string | null;
  y: number;
  nodes: Node[];
}

export interface MapLayout {
  blocks: Block[];
  nodes: Map<string, Node>;
  nodeWidth: number;
  height: number;
}

/** How many lanes lie before an ad group: research that gets terms itself stands in the middle. */
function columnsOf(adGroups: readonly MapAdGroup[], lanes: readonly Lane[]): Map<string, number> {
  const into = new Map<string, string[]>();
  for (const { source, destination } of lanes)
    into.set(destination, [...(into.get(destination) ?? []), source]);
  const known = new Map<string, number>();
  const columnOf = (id: string, way: ReadonlySet<string>): number => {
    const found = known.get(id);
    if (found !== undefined) return found;
    if (way.has(id)) return 0;
    const column =
      Math.max(-1, ...(into.get(id) ?? []).map((one) => columnOf(one, new Set([...way, id])))) + 1;
    known.set(id, column);
    return column;
  };
  for (const { id } of adGroups) columnOf(id, new Set());
  return known;
}

/** Lays out ad groups of the same product beside each other; performance ad groups stand at the right end. */
export function layOutMap(
  adGroups: readonly MapAdGroup[],
  lanes: readonly MapLane[],
  products: Record<string, string>,
  width: number,
): MapLayout {
  const depth = columnsOf(adGroups, lanes);
  const research = adGroups.filter((adGroup) => adGroup.research);
  const last = Math.max(1, ...adGroups.map(({ id }) => depth.get(id)!));
  const column = (adGroup: MapAdGroup) =>
    adGroup.research ? Math.min(depth.get(adGroup.id)!, last - 1) : last;
  const nodeWidth = Math.max(150, Math.min(270, width / (last + 1) - (last > 1 ? 60 : 120)));
  const skus = [...new Set(adGroups.map(({ sku }) => sku))].sort((a, b) =>
    nameOf(a, products).localeCompare(nameOf(b, products)),
  );
  const nodes = new Map<string, Node>();
  const blocks: Block[] = [];
  let y = 0;
  for (const sku of skus) {
    const inside = adGroups.filter((adGroup) => adGroup.sku === sku);
    // A product without research has nothing to send.
    if (!inside.some((adGroup) => research.includes(adGroup))) continue;
    const used = new Map<number, number>();
    const placed = inside
      .sort((a, b) => b.sums.spend - a.sums.spend)
      .map((adGroup): Node => {
        const at = column(adGroup);
        const row = used.get(at) ?? 0;
        used.set(at, row + 1);
        return {
          adGroup,
          column: at,
          x: last === 0 ? 0 : (at * (width - nodeWidth - 2)) / last + 1,
          y: y + headHeight + row * (nodeHeight + nodeGap),
        };
      });
    for (const node of placed) nodes.set(node.adGroup.id, node);
    blocks.push({ sku, y, nodes: placed });
    y += headHeight + Math.max(...used.values()) * (nodeHeight + nodeGap) + blockGap;
  }
  return { blocks, nodes, nodeWidth, height: y };
}

export const nameOf = (sku: string | null, products: Record<string, string>): string =>
  sku === null ? 'No product' : (products[sku] ?? sku);
