import type { FieldLimits } from '../../core/changes/fields.ts';
import type { Account } from './queries.ts';
import type { Limits } from '../../core/round/types.ts';
import { defaultGuards } from '../../core/bids/guards.ts';
import { micros } from '../../core/metrics/money.ts';

/** What values of fields are checked by; plain defaults while only files are loaded. */
export function fieldLimitsOf(account: Account): FieldLimits {
  const limits = account.limits as Record<string, number | undefined>;
  return {
    bid: limitsOf(account).guards,
    minimumBudget: micros(limits.minimum_budget ?? 2),
    minimumLifetimeBudget: micros(limits.minimum_lifetime_budget ?? 20),
    maximumModifier: limits.maximum_modifier ?? 600,
    today: account.today,
  };
}

/** What the marketplace of the account allows; plain defaults while only files are loaded. */
export function limitsOf(account: Account): Limits & { guards: typeof defaultGuards } {
  const limits = account.limits as Record<string, number | string | undefined>;
  return {
    characters: Number(limits.keyword_characters ?? 90),
    words: Number(limits.keyword_words ?? 10),
    pattern: String(limits.keyword_pattern ?? "^[\\p{L}\\p{N} '\\-&.+]+$"),
    itemCode: String(limits.item_code_pattern ?? '^[A-Z0-9]{8,12}$'),
    guards: {
      ...defaultGuards,
      step: micros(Number(limits.bid_step ?? 0.01)),
      minimumBid: micros(Number(limits.minimum_bid ?? 0.03)),
      maximumBid: micros(Number(limits.maximum_bid ?? 60)),
    },
  };
}
