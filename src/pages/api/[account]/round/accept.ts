import { windowOf } from '../../../../server/account/index.ts';
import type { Adjustment } from '../../../../core/round/lines.ts';
import Joi from 'joi';
import { acceptFindings } from '../../../../server/round/index.ts';
import { day } from '../../../../server/http/doors.ts';
import { writes } from '../../../../server/http/http.ts';

interface Body {
  from: string;
  to: string;
  keys: string[];
  adjustments: Record<string, Adjustment>;
}

const adjustment = Joi.object({
  bid: Joi.number().integer().min(0),
  matchType: Joi.string().valid('negative_exact', 'negative_phrase', 'exact', 'phrase', 'broad'),
  isolate: Joi.boolean(),
  scope: Joi.string().valid('ad_group', 'campaign', 'product'),
  milder: Joi.boolean(),
  way: Joi.string().valid('raise', 'lower_bids', 'slack'),
  beyond: Joi.boolean(),
});

const schema = Joi.object<Body>({
  from: day.required(),
  to: day.required(),
  keys: Joi.array().items(Joi.string()).min(1).max(60_000).required(),
  adjustments: Joi.object().pattern(Joi.string(), adjustment).default({}),
});

/** Puts the lines of findings onto the open sheet, all or none. Bids of adjustments are micros. */
export const POST = writes(schema, async ({ accountId, body }) => {
  const window = await windowOf(accountId, body.from, body.to);
  return acceptFindings(accountId, window, body.keys, body.adjustments);
});
