import Joi from 'joi';
import { mostLaneDays, type Lane } from '../../core/lanes/lanes.ts';

/** What a call may say of lanes. Bids are micros. */

const lane = Joi.object<Lane>({
  source: Joi.string().required(),
  destination: Joi.string().required(),
  kind: Joi.string().valid('keyword', 'item').required(),
  matchType: Joi.string().valid('broad', 'phrase', 'exact').allow(null).required(),
  leastOrders: Joi.number().integer().min(0).max(10_000).required(),
  leastClicks: Joi.number().integer().min(0).max(100_000).required(),
  goalShare: Joi.number().min(0.01).max(10).required(),
  days: Joi.number().integer().min(1).max(mostLaneDays).required(),
  firstBid: Joi.string().valid('evidence', 'source_cpc', 'fixed').required(),
  fixedBid: Joi.number().integer().min(1).allow(null).required(),
  isolate: Joi.string().valid('product', 'source', 'none').required(),
});

export const laneSet = Joi.object<{ lanes: Lane[] | null }>({
  lanes: Joi.array().items(lane).max(20_000).allow(null).required(),
});
