/** How the lines of a sheet stand: in which order, under which heads, and which of them are asked for. */

/** A line as far as its place on a sheet goes. */
export interface PlacedLine {
  line_id: number;
  campaign_id: string;
  campaign: string;
  ad_group: string | null;
  entity: string;
  action: string;
  /** Of the harvest, or the placements, that it is a part of. */
  harvest: string | null;
  expression: string | null;
  state: string;
  /** Other open lines set the same field to something else. */
  conflict: boolean;
  /** The live value is no longer the old value. */
  overtaken: boolean;
  /** What it should add to the spend of a week, micros; null where nothing is said of it. */
  spend: number | null;
}

/** Lines that stand together: a harvest with all that belongs to it, modifiers with the bids that move with them, or what else there is of a campaign. */
export interface LineGroup {
  key: string;
  title: string;
  harvest: boolean;
  lines: number;
}

export interface ArrangedSheet {
  /** Lines group by group. */
  lines: PlacedLine[];
  groups: LineGroup[];
  /** Of each line the index of its group. */
  groupOf: Uint32Array;
}

/** Names by their order: comparing ranks is quick where comparing names a million times is not. */
function ranksOf(names: ReadonlySet<string>): Map<string, number> {
  const { compare } = new Intl.Collator('en', { numeric: true });
  return new Map([...names].sort(compare).map((name, rank) => [name, rank]));
}

/** Lines by campaign, ad group, entity and text: place by place, so that few texts are compared. */
function ordered(lines: readonly PlacedLine[]): PlacedLine[] {
  const places = new Map<string, Map<string | null, PlacedLine[]>>();
  const names = new Set<string>();
  for (const line of lines) {
    const campaign = places.get(line.campaign) ?? new Map<string | null, PlacedLine[]>();
    const place = campaign.get(line.ad_group) ?? [];
    place.push(line);
    places.set(line.campaign, campaign.set(line.ad_group, place));
    names.add(line.campaign).add(line.ad_group ?? '');
  }
  const ranks = ranksOf(names);
  const byName = <T>(parts: Map<string | null, T>): T[] =>
    [...parts].sort(([a], [b]) => rank(a) - rank(b)).map(([, part]) => part);
  const rank = (name: string | null) => (name === null ? -1 : ranks.get(name)!);
  return byName(places).flatMap((campaign) => byName(campaign).flatMap((place) => place.sort(inPlace)));
}

const order = (a: string, b: string): number => (a < b ? -1 : a > b ? 1 : 0);

const inPlace = (a: PlacedLine, b: PlacedLine): number =>
  order(a.entity, b.entity) || order(a.expression ?? '', b.expression ?? '') || a.line_id - b.line_id;

/** Lines of a campaign that move together are kept as a harvest is (`placements/lines.ts`, `budgets/lines.ts`, `hours/lines.ts`). */
const together = /(?:^|:)(placements|budget|hours):\d+$/;

/** What lines of a campaign that move together are called; null for those of a harvest. */
function movedTogether(key: string, campaign: string): string | null {
  const [, kind] = together.exec(key) ?? [];
  if (kind === undefined) return null;
  if (kind === 'placements') return `Placements of ${campaign}`;
  return kind === 'hours' ? `Schedule of ${campaign}` : `Bids of ${campaign}, so that its budget lasts`;
}

/** Orders lines by campaign, ad group, entity and text; a harvest stands where its first line does. */
export function arrange(lines: readonly PlacedLine[]): ArrangedSheet {
  const inOrder = ordered(lines);
  const counts = new Map<string, number>();
  for (const { harvest } of inOrder)
    if (harvest !== null) counts.set(harvest, (counts.get(harvest) ?? 0) + 1);
  const groups: LineGroup[] = [];
  const byKey = new Map<string, number>();
  const members: PlacedLine[][] = [];
  for (const line of inOrder) {
    // What was left alone of a harvest is a line like any other.
    const harvest = line.harvest !== null && counts.get(line.harvest)! > 1 ? line.harvest : null;
    const key = harvest === null ? `c:${line.campaign_id}` : `h:${harvest}`;
    let at = byKey.get(key);
    if (at === undefined) {
      at =
        groups.push({
          key,
          title:
            harvest === null
              ? line.campaign
              : (movedTogether(harvest, line.campaign) ?? `Harvest of “${line.expression ?? ''}”`),
          harvest: harvest !== null,
          lines: 0,
        }) - 1;
      byKey.set(key, at);
      members.push([]);
    }
    const group = groups[at]!;
    group.lines++;
    // What a harvest makes comes first: it says why, and all the others belong to it.
    const makes = group.harvest && line.entity === 'target' && line.action === 'create';
    if (makes) group.title = `Harvest of “${line.expression ?? ''}” to ${line.ad_group ?? ''}`;
    if (makes) members[at]!.unshift(line);
    else members[at]!.push(line);
  }
  const groupOf = new Uint32Array(inOrder.length);
  let index = 0;
  members.forEach((list, at) => {
    groupOf.fill(at, index, index + list.length);
    index += list.length;
  });
  return { lines: members.flat(), groups, groupOf };
}

export const lineFilters = ['all', 'conflicts', 'overtaken', 'refused'] as const;
export type LineFilter = (typeof lineFilters)[number];
export const lineOrders = ['place', 'spend', '-spend'] as const;
export type LineOrder = (typeof lineOrders)[number];

/** Which lines of a sheet are asked for, and how they are ordered. */
export interface LineView {
  show: LineFilter;
  /** Part of a text, campaign or ad group, in any case; empty, all. */
  find: string;
  order: LineOrder;
}

const shows: Record<LineFilter, (line: PlacedLine) => boolean> = {
  all: () => true,
  conflicts: (line) => line.conflict,
  overtaken: (line) => line.overtaken,
  refused: (line) => line.state === 'refused',
};

/** The lines that a view asks for, as indexes into `sheet.lines`. */
export function linesIn({ lines }: ArrangedSheet, { show, find, order }: LineView): number[] {
  const wanted = find.trim().toLowerCase();
  const has = (name: string | null) => name?.toLowerCase().includes(wanted) ?? false;
  const kept: number[] = [];
  lines.forEach((line, i) => {
    if (!shows[show](line)) return;
    if (wanted === '' || has(line.expression) || has(line.campaign) || has(line.ad_group)) kept.push(i);
  });
  if (order === 'place') return kept;
  const sign = order === 'spend' ? 1 : -1;
  // What is not known stands last, either way.
  const value = (i: number) => lines[i]!.spend;
  return kept.sort((a, b) => {
    const [one, other] = [value(a), value(b)];
    if (one === null || other === null) return Number(one === null) - Number(other === null) || a - b;
    return sign * (one - other) || a - b;
  });
}

/** What a list of a sheet shows one below the other: heads of groups and lines. */
export type SheetEntry = { head: LineGroup } | { line: number };

/** The entries of a view: grouped while all lines stand in their places, else lines alone. */
export function entriesOf(sheet: ArrangedSheet, view: LineView): SheetEntry[] {
  const shown = linesIn(sheet, view);
  const grouped = view.show === 'all' && view.find.trim() === '' && view.order === 'place';
  const entries: SheetEntry[] = [];
  let last = -1;
  for (const i of shown) {
    const at = sheet.groupOf[i]!;
    if (grouped && at !== last) entries.push({ head: sheet.groups[at]! });
    last = at;
    entries.push({ line: i });
  }
  return entries;
}
