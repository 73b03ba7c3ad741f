import type { Level, Step, Within, Rows } from './levels.ts';
import type { Objects, Pairs, ProductObject } from './store.ts';

/** The account's objects as levels of rows: who stands where, above and below whom. */
export class AccountTree {
  private readonly productAt: Map<string, number>;
  protected readonly budgetGroupAt: Map<string, number>;
  private readonly groups = new Map<string, Int32Array>();
  private readonly skuOfCampaign: (string | null)[];

  /** Terms may come later than the other objects. */
  constructor(private readonly source: { objects: Objects; pairs: Pairs | null }) {
    const { objects } = source;
    this.productAt = new Map(objects.products.map(({ sku }, i) => [sku, i]));
    this.budgetGroupAt = new Map(objects.budgetGroups.map(({ id }, i) => [id, i]));
    this.skuOfCampaign = objects.campaigns.map(() => null);
    for (const { campaign, sku } of objects.adGroups) this.skuOfCampaign[campaign] ??= sku;
  }

  count(level: Level): number {
    const { objects, pairs } = this.source;
    switch (level) {
      case 'account':
        return 1;
      case 'terms':
        return pairs?.target.length ?? 0;
      case 'budget_groups':
        return objects.budgetGroups.length;
      case 'ad_groups':
        return objects.adGroups.length;
      default:
        return objects[level].length;
    }
  }

  /** The id of a row: of its object; of a term the target that caught it and its number. */
  key(level: Level, row: number): string {
    const { objects, pairs } = this.source;
    switch (level) {
      case 'account':
        return 'account';
      case 'budget_groups':
        return objects.budgetGroups[row]!.id;
      case 'products':
        return objects.products[row]!.sku;
      case 'campaigns':
        return objects.campaigns[row]!.id;
      case 'ad_groups':
        return objects.adGroups[row]!.id;
      case 'targets':
        return objects.targets[row]!.id;
      case 'negatives':
        return objects.negatives[row]!.id;
      case 'placements': {
        const { campaign, placement } = objects.placements[row]!;
        return `${objects.campaigns[campaign]!.id}:${placement}`;
      }
      case 'terms':
        return `${objects.targets[pairs!.target[row]!]!.id}:${pairs!.termIds[pairs!.term[row]!]!}`;
    }
  }

  /** Places of the row's parents; -1 where there is none. */
  targetOf(level: Level, row: number): number {
    return level === 'targets' ? row : level === 'terms' ? this.source.pairs!.target[row]! : -1;
  }

  adGroupOf(level: Level, row: number): number {
    if (level === 'ad_groups') return row;
    if (level === 'negatives') return this.source.objects.negatives[row]!.adGroup ?? -1;
    const target = this.targetOf(level, row);
    return target < 0 ? -1 : this.source.objects.targets[target]!.adGroup;
  }

  campaignOf(level: Level, row: number): number {
    const { objects } = this.source;
    if (level === 'campaigns') return row;
    if (level === 'placements') return objects.placements[row]!.campaign;
    if (level === 'negatives') return objects.negatives[row]!.campaign;
    const adGroup = this.adGroupOf(level, row);
    return adGroup < 0 ? -1 : objects.adGroups[adGroup]!.campaign;
  }

  /** The product that a row advertises; null where there is none, or several. */
  skuOf(level: Level, row: number): string | null {
    if (level === 'products') return this.source.objects.products[row]!.sku;
    const adGroup = this.adGroupOf(level, row);
    if (adGroup >= 0) return this.source.objects.adGroups[adGroup]!.sku;
    const campaign = this.campaignOf(level, row);
    return campaign < 0 ? null : (this.skuOfCampaign[campaign] ?? null);
  }

  productOf(level: Level, row: number): ProductObject | undefined {
    return this.source.objects.products[this.productAt.get(this.skuOf(level, row) ?? '') ?? -1];
  }

  /** Tells whether a row lies below an object. */
  isInside(level: Level, { level: above, id }: Within): (row: number) => boolean {
    const { objects } = this.source;
    const place = (list: readonly { id: string }[]) => list.findIndex((one) => one.id === id);
    switch (above) {
      case 'account':
        return () => true;
      case 'products':
        return (row) => this.skuOf(level, row) === id;
      case 'budget_groups':
        return (row) => objects.campaigns[this.campaignOf(level, row)]?.budgetGroup === id;
      case 'campaigns': {
        const at = place(objects.campaigns);
        return (row) => this.campaignOf(level, row) === at;
      }
      case 'ad_groups': {
        const at = place(objects.adGroups);
        return (row) => this.adGroupOf(level, row) === at;
      }
      case 'targets': {
        const at = place(objects.targets);
        return (row) => this.targetOf(level, row) === at;
      }
      default:
        return () => false;
    }
  }

  /** The objects above a place, from the top, the place itself last. Empty for what is not there. */
  pathTo({ level, id }: Within): Step[] {
    let row = -1;
    for (let at = 0; at < this.count(level) && row < 0; at++) if (this.key(level, at) === id) row = at;
    if (row < 0) return [];
    const step = (above: Level, at: number): Step[] =>
      at < 0 || above === level
        ? []
        : [{ level: above, id: this.key(above, at), name: this.nameOf(above, at) }];
    return [
      ...step('campaigns', this.campaignOf(level, row)),
      ...step('ad_groups', this.adGroupOf(level, row)),
      { level, id, name: this.nameOf(level, row) },
    ];
  }

  /** Where each row of the sums' own level belongs at this level. */
  groupOf(level: Level): Int32Array {
    const known = this.groups.get(level);
    if (known) return known;
    const { objects } = this.source;
    const group = Int32Array.from(objects.targets, ({ adGroup }) => {
      const { campaign, sku } = objects.adGroups[adGroup]!;
      switch (level) {
        case 'ad_groups':
          return adGroup;
        case 'campaigns':
          return campaign;
        case 'products':
          return this.productAt.get(sku ?? '') ?? -1;
        case 'budget_groups':
          return this.budgetGroupAt.get(objects.campaigns[campaign]!.budgetGroup ?? '') ?? -1;
        default:
          return 0;
      }
    });
    this.groups.set(level, group);
    return group;
  }

  /** Marks what lies below some rows, 1 by place: terms of terms, targets of all other levels. */
  marksOf(level: Level, rows: Rows): Uint8Array {
    if (level === 'terms' || level === 'targets') {
      const marks = new Uint8Array(this.count(level));
      for (const row of rows) marks[row] = 1;
      return marks;
    }
    const chosen = new Set(rows);
    return Uint8Array.from(this.groupOf(level), (at) => (chosen.has(at) ? 1 : 0));
  }

  nameOf(level: Level, row: number): string {
    const { objects, pairs } = this.source;
    switch (level) {
      case 'account':
        return 'Account';
      case 'budget_groups':
        return objects.budgetGroups[row]!.name;
      case 'products':
        return objects.products[row]!.title;
      case 'campaigns':
        return objects.campaigns[row]!.name;
      case 'ad_groups':
        return objects.adGroups[row]!.name;
      case 'targets':
        return objects.targets[row]!.expression;
      case 'negatives':
        return objects.negatives[row]!.expression;
      case 'placements':
        return objects.placements[row]!.placement.replaceAll('_', ' ');
      case 'terms':
        return pairs!.texts[pairs!.term[row]!]!;
    }
  }
}
