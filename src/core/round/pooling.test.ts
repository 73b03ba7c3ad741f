import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { Goals, guardsOf } from './goals.ts';
import { Pool } from './pooling.ts';
import type { AdGroupInfo, Goal } from './types.ts';

const adGroup = (id: string, campaignId: string, sku: string | null): AdGroupInfo => ({
  adGroupId: id,
  name: id,
  campaignId,
  campaign: campaignId,
  automatic: false,
  sku,
  enabled: true,
  archived: false,
  modifier: 1,
});
const row = (n: number, y: number, price = 20) => ({
  n,
  y,
  seenClicks: n,
  seenOrders: y,
  seenSales: micros(y * price),
});
const prices = new Map([['LID', { sku: 'LID', title: 'Lids', price: micros(20), margin: 0.5 }]]);

describe('pooling', () => {
  test('an ad group with few rows speaks with its product’s voice', () => {
    const pool = new Pool(prices);
    const wide = adGroup('wide', 'c1', 'LID');
    const narrow = adGroup('narrow', 'c2', 'LID');
    for (const y of [2, 4, 10, 16, 18]) pool.add(wide, row(100, y));
    pool.add(narrow, row(10, 0));
    const { prior, level } = pool.of(narrow);
    // 50 orders of 510 clicks at the product, shrunk to the account, which is the same rows.
    expect(prior.mu).toBeCloseTo(50 / 510, 2);
    expect(prior.strength).toBe(500);
    expect(level).not.toBe('ad group');
  });

  test('values start at the price and move with orders, three weighing as much as the parent', () => {
    const pool = new Pool(prices);
    const lids = adGroup('lids', 'c1', 'LID');
    expect(new Pool(prices).of(lids).value).toBe(micros(20));
    pool.add(lids, row(100, 3, 40));
    // Product: (3 x 20 + 120) / 6 = 30; campaign 35; ad group 37.50.
    expect(pool.of(lids).value).toBe(micros(37.5));
  });

  test('a product without a price starts at the account’s average order', () => {
    const pool = new Pool(new Map());
    const unknown = adGroup('u', 'c', null);
    pool.add(unknown, row(100, 4, 25));
    expect(pool.of(unknown).value).toBe(micros(25));
  });
});

describe('goals', () => {
  const goal = (scope: Goal['scope'], key: string, targetAcos: number): Goal => ({
    scope,
    key,
    targetAcos,
    bidFloor: null,
    bidCeiling: null,
    theta: 0.4,
  });
  const goals = new Goals([
    goal('account', '', 0.3),
    goal('product', 'LID', 0.25),
    goal('campaign', 'c1', 0.2),
  ]);

  test('the narrowest rules', () => {
    expect(goals.of({ campaignId: 'c1', sku: 'LID' }).targetAcos).toBe(0.2);
    expect(goals.of({ campaignId: 'c2', sku: 'LID' }).targetAcos).toBe(0.25);
    expect(goals.of({ campaignId: 'c2', sku: null }).targetAcos).toBe(0.3);
  });

  test('its floor and ceiling stand in the guards; an account without a goal is an error', () => {
    const guards = guardsOf({
      ...goal('product', 'LID', 0.25),
      bidFloor: micros(0.1),
      bidCeiling: micros(2),
    });
    expect([guards.floor, guards.ceiling]).toEqual([micros(0.1), micros(2)]);
    expect(() => new Goals([])).toThrow('no goal');
  });
});
