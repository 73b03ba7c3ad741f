import { campaigns } from './campaigns.ts';
import { products } from './products.ts';
import { concepts, words } from './trade.ts';

const firstDay = '2026-08-24';
/** The day after the 90 that the demo begins with: other sellers' prices, ratings and stock move from here on. */
const movesFrom = '2026-11-22';

/** `rival:concept:i` stands for the i-th rival page of a concept; Quayside puts its own code in its place. */
const pageCode = (concept: string, i: number): string => `rival:${concept}:${i}`;

/** Everything Quayside needs to begin the demo account's world. */
export function demoScenario(seed = 20_260_824) {
  return {
    seed,
    account: { name: 'Tarn & Thistle', currency: 'EUR', timeZone: 'Europe/Dublin', firstDay },
    movesFrom,
    searchesPerDay: 12_500,
    pageVisitsPerDay: 5000,
    categoryVisitsPerDay: 900,
    queryCount: 15_000,
    products,
    concepts,
    words,
    budgetGroups: [{ id: 'bg1', name: 'Crocks', dailyBudget: 85 }],
    campaigns: campaigns(pageCode, firstDay),
  };
}

if (process.argv[1]?.endsWith('scenario.ts')) process.stdout.write(JSON.stringify(demoScenario()));
