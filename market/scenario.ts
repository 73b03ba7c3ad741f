import Joi from 'joi';

/** What Quayside is told once, when its world is made. Everything else it learns by living. */
export interface Scenario {
  seed: number;
  account: { name: string; currency: string; timeZone: string; firstDay: string; wallet?: number };
  /** From this day on prices, ratings and stock of the catalogue move; without it they never do. */
  movesFrom?: string;
  /** How often a day somebody changes a bid by hand, from `movesFrom` on; left out: never. */
  hands?: number;
  searchesPerDay: number;
  pageVisitsPerDay: number;
  categoryVisitsPerDay: number;
  queryCount: number;
  products: ScenarioProduct[];
  concepts: ScenarioConcept[];
  words: ScenarioWord[];
  budgetGroups: { id: string; name: string; dailyBudget: number }[];
  campaigns: ScenarioCampaign[];
}

export interface ScenarioProduct {
  sku: string;
  itemCode: string;
  title: string;
  concept: string;
  price: number;
  unitCost: number;
  feeRate: number;
  feeFixed: number;
  shipping: number;
  refundRate: number;
  rating: number;
  stock: number;
  /** Hidden: clicks per impression in the first slot, orders per click, for a perfectly fitting query. */
  clickRate: number;
  conversion: number;
  /** Hidden: conversion by placement, relative. */
  placementConversion: Record<string, number>;
}

export interface ScenarioConcept {
  name: string;
  category: string;
  popularity: number;
  rivalBid: number;
  /** Hidden: how well a query or page of this concept fits each product, 0 to 1. */
  fit: Record<string, number>;
  kinds: { text: string; weight: number }[];
  /** Which words of the trade may stand before and after the kind. */
  before: string[];
  after: string[];
}

export interface ScenarioWord {
  text: string;
  weight: number;
  clickFactor: number;
  conversionFactor: number;
  fit: Record<string, number>;
}

export interface ScenarioCampaign {
  id: string;
  name: string;
  kind: 'automatic' | 'manual';
  budgetGroup?: string;
  dailyBudget: number;
  strategy: 'fixed' | 'down_only' | 'up_and_down';
  startDate: string;
  endDate?: string;
  status: 'enabled' | 'paused';
  modifiers: Record<string, number>;
  /** As `readSchedule` in world/schedule.ts takes it. */
  schedule?: string;
  adGroups: {
    id: string;
    name: string;
    defaultBid: number;
    skus: string[];
    targets: { kind: string; matchType?: string; expression: string; bid: number }[];
    negatives: { matchType: string; expression: string; scope: 'ad_group' | 'campaign' }[];
  }[];
}

const shares = Joi.object().pattern(Joi.string(), Joi.number().min(0)).required();

const schema = Joi.object<Scenario>({
  seed: Joi.number().integer().required(),
  account: Joi.object({
    name: Joi.string().required(),
    currency: Joi.string().length(3).required(),
    timeZone: Joi.string().required(),
    firstDay: Joi.string().isoDate().required(),
    wallet: Joi.number().min(0),
  }).required(),
  movesFrom: Joi.string().isoDate(),
  hands: Joi.number().min(0).max(1),
  searchesPerDay: Joi.number().positive().required(),
  pageVisitsPerDay: Joi.number().positive().required(),
  categoryVisitsPerDay: Joi.number().positive().required(),
  queryCount: Joi.number().integer().positive().required(),
  products: Joi.array()
    .items(Joi.object({ sku: Joi.string().required(), placementConversion: shares }).unknown())
    .min(1)
    .required(),
  concepts: Joi.array()
    .items(Joi.object({ name: Joi.string().required(), fit: shares }).unknown())
    .min(1)
    .required(),
  words: Joi.array()
    .items(Joi.object({ text: Joi.string().required(), fit: shares }).unknown())
    .required(),
  budgetGroups: Joi.array().required(),
  campaigns: Joi.array()
    .items(Joi.object({ id: Joi.string().required(), adGroups: Joi.array().required() }).unknown())
    .required(),
});

/** Checks a scenario read from JSON; throws with the path of what is wrong. */
export function readScenario(value: unknown): Scenario {
  const { error, value: scenario } = schema.validate(value, { convert: false });
  if (error) throw new Error(`scenario: ${error.message}`);
  return scenario;
}
