import type { FileKind } from '../../../answers/imports.ts';
import { mapHeaders, missingColumns } from '../files/columns.ts';
import { campaignHours } from './campaign-hours.ts';
import { changes } from './changes.ts';
import { goals } from './goals.ts';
import type { Kind } from './kind.ts';
import { placementsDaily } from './placements-daily.ts';
import { products } from './products.ts';
import { productsDaily } from './products-daily.ts';
import { ranksDaily } from './ranks-daily.ts';
import { soldDaily } from './sold-daily.ts';
import { structure } from './structure.ts';
import { targetsDaily } from './targets-daily.ts';
import { termsDaily } from './terms-daily.ts';

/** Every kind of file, in the order in which they are offered: a new one is one file here and one line. */
export const fileKinds: Record<FileKind, Kind> = {
  'targets-daily': targetsDaily,
  'terms-daily': termsDaily,
  'placements-daily': placementsDaily,
  'campaign-hours': campaignHours,
  'products-daily': productsDaily,
  'ranks-daily': ranksDaily,
  'sold-daily': soldDaily,
  products,
  structure,
  goals,
  changes,
};

export const fileKindNames = Object.keys(fileKinds) as FileKind[];

/** The kind whose columns the headers fit best, or null when none has its required columns. */
export function recogniseKind(headers: readonly string[]): FileKind | null {
  let best: { kind: FileKind; score: number } | null = null;
  for (const kind of fileKindNames) {
    const mapping = mapHeaders(fileKinds[kind].columns, headers);
    if (missingColumns(fileKinds[kind].columns, mapping).length > 0) continue;
    const score = Object.values(mapping).filter((place) => place !== null).length;
    if (!best || score > best.score) best = { kind, score };
  }
  return best?.kind ?? null;
}
