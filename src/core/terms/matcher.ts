import type { MatchType } from './match.ts';
import { MatchIndex } from './match-index.ts';
import type { Running } from '../account/running.ts';
import type { Objects } from '../account/store.ts';

/** The account's targets and negatives, looked up by a term: one matcher for coverage, conflicts and negatives. */
export class AccountMatcher {
  private readonly keywords = new MatchIndex();
  private readonly blocks = new MatchIndex();
  private readonly items = new Map<string, number[]>();
  /** Automatic targets and categories: what they catch cannot be told from words. */
  readonly unforeseen: number[] = [];

  constructor(
    private readonly objects: Objects,
    readonly running: Running,
  ) {
    const { targets, negatives } = objects;
    targets.forEach(({ kind, matchType, expression, status }, place) => {
      if (status === 'archived') return;
      if (kind === 'keyword') this.keywords.add(matchType as MatchType, expression, place);
      else if (kind === 'item') {
        const code = expression.toUpperCase();
        this.items.set(code, [...(this.items.get(code) ?? []), place]);
      } else this.unforeseen.push(place);
    });
    negatives.forEach(({ matchType, expression, status }, place) => {
      if (status === 'enabled') this.blocks.add(matchType, expression, place);
    });
  }

  /** Places of keywords and items that catch a term, whether they run or not. */
  catching(term: string): number[] {
    return [...this.keywords.matching(term), ...(this.items.get(term.trim().toUpperCase()) ?? [])];
  }

  /** Places of negatives that block a term somewhere. */
  blocking(term: string): number[] {
    return this.blocks.matching(term);
  }

  /** Whether an ad group and its campaign run. */
  runs(adGroup: number): boolean {
    return this.running.adGroup(adGroup);
  }

  /** Whether a target can catch anything: it, its ad group and its campaign run. */
  isLive(target: number): boolean {
    return this.running.target(target);
  }

  /** Whether a negative stands where it keeps terms from an ad group: in it, or in its campaign. */
  stands(negative: number, adGroup: number): boolean {
    const place = this.objects.negatives[negative]!;
    if (place.adGroup !== null) return place.adGroup === adGroup;
    return place.campaign === this.objects.adGroups[adGroup]!.campaign;
  }

  /** A negative as people name it: "negative phrase “canning” in Lids broad research". */
  nameOfNegative(negative: number): string {
    const { matchType, expression, adGroup, campaign } = this.objects.negatives[negative]!;
    const place =
      adGroup === null ? this.objects.campaigns[campaign]!.name : this.objects.adGroups[adGroup]!.name;
    return `${matchType.replace('_', ' ')} “${expression}” in ${place}`;
  }
}
