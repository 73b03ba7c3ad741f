import type { AdGroupInfo, TargetRow } from '../account/rows.ts';
import { LaneMap, type Lane, type LaneAdGroup } from '../lanes/lanes.ts';
import { NegativeIndex } from '../terms/match.ts';
import { looseForms, normalise } from '../text/normalise.ts';
import type { TermInAdGroup } from './terms.ts';
import type { TargetsInput } from './types.ts';

/** What exists already: keywords by product and ad group, negatives by place, lanes by source. */
export class Surroundings {
  readonly negatives = new Map<string, NegativeIndex>();
  readonly lanes: LaneMap;
  private readonly serving = new Map<string, TargetRow[]>();
  /** Exact keywords and items by ad group, and by what the warning of close variants folds once it is asked for. */
  private readonly single = new Map<string, TargetRow[]>();
  private readonly variants = new Map<string, Map<string, TargetRow>>();
  private readonly itemCode: RegExp;

  constructor(
    private readonly input: TargetsInput,
    lanes: readonly Lane[],
    adGroups: ReadonlyMap<string, LaneAdGroup>,
  ) {
    this.itemCode = new RegExp(input.limits.itemCode, 'i');
    this.lanes = new LaneMap(lanes, adGroups);
    for (const negative of input.negatives) {
      const place = negative.adGroupId ?? negative.campaignId;
      let index = this.negatives.get(place);
      if (!index) this.negatives.set(place, (index = new NegativeIndex()));
      index.add(negative);
    }
    for (const target of input.targets) {
      if (!target.enabled) continue;
      const single = target.kind === 'item' || (target.kind === 'keyword' && target.matchType === 'exact');
      if (!single) continue;
      const sku = input.adGroups.get(target.adGroupId)?.sku ?? '';
      const key = `${sku}\t${normalise(target.expression)}`;
      this.serving.set(key, [...(this.serving.get(key) ?? []), target]);
      const here = this.single.get(target.adGroupId);
      if (here) here.push(target);
      else this.single.set(target.adGroupId, [target]);
    }
  }

  /** The negative that blocks the term in this ad group, or null. */
  blocking(adGroup: AdGroupInfo, term: string) {
    return (
      this.negatives.get(adGroup.adGroupId)?.blocking(term) ??
      this.negatives.get(adGroup.campaignId)?.blocking(term) ??
      null
    );
  }

  /** Exact keywords and item targets that serve this very term for the product. */
  servedBy(sku: string | null, term: string): TargetRow[] {
    return this.serving.get(`${sku ?? ''}\t${normalise(term)}`) ?? [];
  }

  /** A close variant of the term among the keywords of an ad group, or null. */
  variantIn(adGroupId: string, term: string): TargetRow | null {
    let forms = this.variants.get(adGroupId);
    if (!forms) {
      forms = new Map();
      for (const target of this.single.get(adGroupId) ?? [])
        for (const form of looseForms(target.expression)) forms.set(form, target);
      this.variants.set(adGroupId, forms);
    }
    const [ordered, joined] = looseForms(term);
    return forms.get(ordered) ?? forms.get(joined) ?? null;
  }

  /** Where the lane of its ad group would send a term; null where none leads on. */
  destinationOf({ term, adGroup }: TermInAdGroup): string | null {
    return this.lanes.of(adGroup.adGroupId, this.isItemCode(term) ? 'item' : 'keyword')?.destination ?? null;
  }

  isItemCode(term: string): boolean {
    return this.itemCode.test(term);
  }

  nameOf(adGroupId: string): string {
    return this.input.adGroups.get(adGroupId)?.name ?? adGroupId;
  }
}
