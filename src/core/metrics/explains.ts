import { quantileSorted } from 'd3-array';

/** What a figure is, how it is reckoned, and what it cannot tell: said where it stands. */
export interface Explained {
  what: string;
  /** Left out where the name says it. */
  how?: string;
  /** What it must not be taken for. */
  not?: string;
}

const settled = 'Orders of the last days are still coming in.';
const ownClicks = 'Few clicks say little: the verdict weighs that, the ratio does not.';

const explained: Record<string, Explained> = {
  impressions: { what: 'How often it was shown.' },
  clicks: { what: 'How often it was clicked.' },
  spend: { what: 'What its clicks cost.' },
  orders: { what: 'Orders that came of its clicks, on the day of the click.', not: settled },
  units: { what: 'Units of these orders.', not: settled },
  sales: { what: 'Sales of these orders.', not: `Without organic sales. ${settled}` },
  acos: {
    what: 'Ad cost of sale: what a unit of sales cost in clicks.',
    how: 'Spend ÷ sales; of a group the ratio of its sums.',
    not: `Without organic sales. ${ownClicks}`,
  },
  roas: { what: 'Sales for a unit of spend.', how: 'Sales ÷ spend.', not: 'Without organic sales.' },
  ctr: {
    what: 'How many of those who saw it clicked.',
    how: 'Clicks ÷ impressions.',
    not: 'It depends on where it was shown.',
  },
  cpc: {
    what: 'What a click cost.',
    how: 'Spend ÷ clicks.',
    not: 'The last click that a bid wins costs about the bid, more than this.',
  },
  cvr: { what: 'How many clicks ordered.', how: 'Orders ÷ clicks.', not: ownClicks },
  rpc: {
    what: 'Sales that a click brought.',
    how: 'Sales ÷ clicks.',
    not: `${ownClicks} Bids are judged by the expected one.`,
  },
  aov: { what: 'What an order was worth.', how: 'Sales ÷ orders.' },
  cpa: { what: 'What an order cost in clicks.', how: 'Spend ÷ orders.' },
  gain: {
    what: 'Better (+) or worse (−) than the goal, in money.',
    how: 'Goal × sales − spend; of a group the sum of its rows, each by its own goal.',
    not: 'It is no profit: costs of the product are not in it.',
  },
  ad_profit: {
    what: 'What the ads earned after the costs of the product.',
    how: 'Margin × sales − spend.',
    not: 'Without organic sales; nothing where costs are unknown.',
  },
  total_sales: { what: 'All sales of the product, organic ones included.' },
  tacos: { what: 'Ad spend as a share of all sales.', how: 'Spend ÷ total sales.' },
  target_acos: {
    what: 'The goal that rules it: its ad group’s, else its campaign’s, else its product’s, else the account’s.',
  },
  verdict: {
    what: 'Where its ACOS likely lies: under or over its goal, or undecided.',
    how: 'From its own clicks and orders and those of its siblings; under at 80 %, over at 80 %.',
    not: 'Undecided is no “on goal”: too little is known.',
  },
  over: {
    what: 'How likely its ACOS lies over its goal.',
    how: 'P(orders per click < CPC ÷ (goal × value per order)).',
  },
  clicks_per_order: {
    what: 'Clicks that an order takes among its siblings.',
    how: '1 ÷ their orders per click.',
  },
  status: { what: 'Enabled, paused or archived.', not: 'It runs only while all above it does.' },
  bid: {
    what: 'The most a click may cost, before modifiers.',
    not: 'Clicks cost less: what the next one would have needed.',
  },
  default_bid: { what: 'What its targets bid that have no bid of their own.' },
  daily_budget: {
    what: 'What it may spend in a day; at midnight it starts anew.',
    how: 'As the marketplace has it. Once it is spent, nothing of the campaign is shown until then.',
    not: 'A campaign may overshoot by a click.',
  },
  lifetime_budget: { what: 'What it may spend in all its days together.' },
  end_date: {
    what: 'Its last day; none, and it goes on.',
    not: 'After it nothing below it runs, whatever its status.',
  },
  modifier: { what: 'How much bids are raised in this placement, in per cent.' },
  changed_on: { what: 'The day on which its bid was changed last.' },
  last_change: { what: 'How much its bid was changed then.' },
  may_cost: {
    what: 'What a click costs there, of what it may cost on the mean for the goal to be met.',
    how: 'Spend ÷ clicks; goal × sales that a click of the campaign is expected to bring × what it sells there beside the mean.',
    not: 'The band is what is not known of it (80 %). Which targets are clicked where is not told: better ones may stand at the top.',
  },
  placement_factor: {
    what: 'Orders per click there over those of the campaign on the mean.',
    how: 'Its own counts, drawn to what the product’s and the account’s other campaigns tell of the same placement.',
    not: 'The mark has its 80 % interval. Which targets are clicked where is not told.',
  },
  most_of_click: {
    what: 'The dearest that one click can come to there.',
    how: 'The highest bid of its targets × (1 + modifier) × what the strategy may add: up and down may double it.',
    not: 'What is paid is less: the next bid decides.',
  },
  full_day: {
    what: 'What a day of the campaign would spend with budget until midnight, on the mean.',
    how: 'What each day spent, and its CPC for each click missed.',
    not: 'At its present bids.',
  },
  budget_hours: {
    what: 'Each day from midnight below to midnight above: how long its budget lasted.',
    how: 'The minutes with budget that the report “campaign-hours” tells; above the bar nothing was shown.',
  },
  budget_time: {
    what: 'For which part of its clicks’ time it had budget.',
    how: 'Minutes with budget, each by the clicks that campaigns have at that hour of the week while their budgets last.',
    not: 'Half a day without budget in the evening counts more than a night.',
  },
  lost_sales: {
    what: 'What it would have sold in the hours without budget, a week.',
    how: 'Clicks missed × what a click is expected to sell. A day that ran dry was as busy as it had been until then.',
    not: 'The panel has the 80 % interval.',
  },
  landing: {
    what: 'What the month will have brought, with its 80 % interval.',
    how: 'What its days brought, settling in, and for the others level, weekday and a trend that dies down.',
    not: 'The interval is what such forecasts have missed before. The line across is the plan.',
  },
  last_unit: {
    what: 'What the last unit of money in its budget sells on the mean.',
    how: 'Sales per unit of its spend × the share of days that spend so much.',
    not: 'Where money could move, it is the same in all campaigns.',
  },
  sold_by_now: {
    what: 'The chance that an average one beside it would have sold by now.',
    how: '1 − e^(−orders per click of its siblings × its clicks).',
    not: 'Near 0 it has hardly been tried.',
  },
  loss: {
    what: 'What it spends a week beyond its goal.',
    how: 'Spend − goal × sales of the last 30 settled days, a week.',
  },
  organic_rank: { what: 'Where its product stands for it without an ad: then, and last.' },
  organic_sales: {
    what: 'What a product sold without an ad.',
    how: 'All its sales − those that ads sold of it.',
    not: 'Without what “products-daily” has not told.',
  },
  organic_share: { what: 'Its organic sales as a share of all that it sold.' },
  rank_seen: {
    what: 'Searches a day that see the product as a first position is seen, in the window’s first week and its last.',
    how: 'Over its keywords: usual searches ÷ organic position.',
    not: 'Only keywords whose ranks are told.',
  },
  rank_share: {
    what: 'The keyword’s part of what the product’s ranks sell, in the window.',
    how: 'Searches ÷ position × how gladly its searchers buy, as ads tell it: orders for a search that saw them.',
    not: 'Only keywords whose ranks are told.',
  },
  rank_sells: {
    what: 'About what the rank of the keyword sells a week without an ad.',
    how: 'Its part of what the product’s ranks sell × organic sales a week.',
    not: 'Keywords that nobody follows sell from the same sales: where they are many, it is less.',
  },
  rank_left: {
    what: 'What these sales leave before ads, to be set against a tolerated loss.',
    how: 'Sales × margin of the product.',
  },
  strategy_ratio: {
    what: 'What a unit spent sells under one strategy over what it sells under another.',
    how: 'Among campaigns that aim alike, each against its own product, by what is known of each; campaigns lie apart by themselves, which the interval holds.',
    not: 'Nobody drew lots which campaign has which strategy: it is a hint. Campaigns take the better shoppers from each other: of the difference about two thirds stay once all switch.',
  },
  following: {
    what: 'Whether the second moves so many days after the first, beyond what each one’s weekday and last days say.',
    how: 'Correlation of what surprised in both, with an interval that holds for all lags at once in 95 of 100 cases.',
    not: 'It proves no cause. Dark: the interval leaves 0.',
  },
  bid_changes: {
    what: 'How often its bid was changed, and what came of it.',
    how: 'As many whole settled weeks after as before, four at most; what would have been goes by its siblings whose bids stood.',
    not: 'Few clicks say little: the ledger tells how sure a sheet’s effect is.',
  },
  bid_history: { what: 'Its bids over time, as steps.' },
  days_since_change: { what: 'Days since its bid was changed, or since it was first seen.' },
  first_seen: { what: 'The first day on which it was shown.' },
  last_seen: { what: 'The last day on which it was shown.' },
  name: { what: 'What it is called.' },
  campaign: { what: 'The campaign it stands in.' },
  campaign_status: { what: 'The status of its campaign.' },
  campaign_kind: { what: 'Automatic, or of chosen targets.' },
  strategy: { what: 'How the marketplace may move its bids.' },
  budget_group: { what: 'The campaigns it shares a budget with.' },
  ad_group: { what: 'The ad group it stands in.' },
  ad_group_status: { what: 'The status of its ad group.' },
  product: { what: 'The product it advertises; none where there are several.' },
  stock: {
    what: 'Units in stock when they were fetched last.',
    not: 'Days without stock are left out of judgement.',
  },
  placement: { what: 'Where the ad was shown.' },
  target: { what: 'What was bid on.' },
  target_kind: { what: 'Keyword, item, category or automatic mode.' },
  match_type: { what: 'How near a search must come to the keyword.' },
  method: {
    what: 'How bids are found: by evidence and one θ, each target at its goal by itself, bands over ACOS, or revenue per click.',
    not: 'Guards hold for every one of them.',
  },
  method_evidence: {
    what: 'The bid by evidence: every last click may cost the same share of what it sells.',
    how: 'θ × expected revenue per click ÷ modifiers.',
  },
  method_strict: {
    what: 'The bid at which this target by itself would meet its goal.',
    how: 'Goal × expected revenue per click ÷ (paid per bid × modifiers).',
    not: 'It sells less than one θ for all: money does not go where it sells most.',
  },
  method_bands: {
    what: 'The present bid, moved by the step of the one band its ACOS is in.',
    how: 'ACOS of the window ÷ goal chooses the band.',
  },
  method_rpc: {
    what: 'Its own revenue per click at the goal, from 10 clicks and 2 orders on.',
    how: 'Sales ÷ clicks × goal ÷ modifiers.',
    not: 'Small samples mislead it.',
  },
  between: {
    what: 'The money a week between the method that gains most here and the one that gains least.',
    how: 'θ × change of expected sales − change of spend, for each.',
  },
  bands: {
    what: 'A ladder of steps over ACOS as multiples of the goal.',
    how: 'A row gets the step of the one band it is in, never several after each other.',
  },
  guards: {
    what: 'Limits that every bid keeps, whatever the method: what they hold back stays to be seen, and can be confirmed.',
  },
  what_if: {
    what: 'What the account would find, and what a week would be with all of it taken, if this goal were another.',
    how: 'Every term and target judged under it; expected, with guards, overlaps once.',
    not: 'One round: bids go on moving in later ones.',
  },
  worth: {
    what: 'What accepting it would bring a week, in money: the change of expected sales × θ, less the change of spend.',
    not: 'Findings that share clicks are not worth their sum.',
  },
  time_factor: {
    what: 'What a click sells at this time beside the mean of all, and where that lies eight times of ten.',
    how: 'Orders per click over whole weeks of settled days, drawn to the product’s other campaigns and to the mean.',
    not: 'What an order is worth is taken for alike at all times.',
  },
  schedule_effect: {
    what: 'Gain against the goal at the same times in whole weeks before and after, less what campaigns did meanwhile whose schedules stood still.',
    how: 'Goal × sales − spend; weeks drawn again and again tell how far it may miss, eight times of ten.',
    not: 'The day of the change belongs to neither side.',
  },
  stop: {
    what: 'What lower bids and negatives would no longer spend over goal, a week.',
    how: 'Each click once.',
  },
  earn: {
    what: 'What higher bids and harvests would bring better than the goal, a week.',
    how: 'Each click once.',
  },
  mend: { what: 'What repairs of what stands in its own way would bring, a week.', how: 'Each click once.' },
  season: {
    what: 'Clicks, orders and spend day by day, with its bid.',
    not: 'Hatched days still get orders: they are judged by nothing.',
  },
  windows: { what: 'The same figures over the last days, ending with the last settled one.', not: settled },
  effect_sales: {
    what: 'How much more or less would be sold a week, and how far it may miss, eight times of ten.',
    not: 'Without organic sales.',
  },
  calibration: {
    what: 'How many of the changes that were forecast came out within what was said.',
    how: '80 % should: fewer, and new intervals are widened.',
  },
  coverage: {
    what: 'How many targets came out within their interval in days that the model had not seen.',
    how: '80 % should.',
  },
  likely: {
    what: 'Where its ACOS lies eight times of ten (bar), what is likeliest (dot), and its goal (line).',
    how: 'From its own clicks and orders and those of its siblings.',
  },
  proposal: {
    what: 'What Mowing would change, and what speaks for it.',
    not: 'Nothing leaves before you send it.',
  },
  terms: { what: 'Search terms that hold these words in a row.' },
  keeps_away: { what: 'Terms of this window that it blocks where it stands, and what they did elsewhere.' },
  cost: {
    what: 'What it costs a week that this stands in its own way.',
    how: 'By the measure of all findings.',
  },
  effect: {
    what: 'How much more or less would be spent a week, and how far it may miss, eight times of ten.',
    not: 'Lines that share clicks count them once.',
  },
  outcome: {
    what: 'Whether it worked: gain against the goal in whole settled weeks after it, against what was expected without it.',
    how: 'Expected: the clicks of the weeks before with the orders that were believed then, moved as siblings moved that nobody touched.',
    not: 'Too early is no verdict: wait for whole settled weeks.',
  },
  break_even: {
    what: 'The ACOS at which an order earns nothing.',
    how: 'Its margin: what is left of the price.',
  },
  floor: { what: 'No bid is proposed below it.', not: 'The marketplace has its own least bid.' },
  ceiling: { what: 'No bid is proposed above it.' },
  steps: { what: 'How far one round may move a bid: careful, even or bold.' },
  theta: {
    what: 'The share of the expected revenue per click that a bid may be, so that the scope meets its goal.',
    how: 'Steered once a round by what the scope ran at, after bids that followed.',
  },
  served: { what: 'The keyword or item that serves this term already.' },
  blocked: { what: 'The negative that keeps this term away.' },
};

/** What is said of a column; null for what is no column. */
export const explainOf = (name: string): Explained | null => explained[name] ?? null;

/** What the middle half of some rows is like. */
export interface Usual {
  /** Rows that have a value at all. */
  rows: number;
  low: number;
  middle: number;
  high: number;
}

/** Quartiles of the finite values; null where there are fewer than four: no rule of thumb stands in for them. */
export function usualOf(values: readonly (number | null)[]): Usual | null {
  const finite = values.filter((value) => value !== null).filter((value) => Number.isFinite(value));
  const sorted = [...Float64Array.from(finite).sort()];
  if (sorted.length < 4) return null;
  const at = (share: number) => quantileSorted(sorted, share)!;
  return { rows: sorted.length, low: at(0.25), middle: at(0.5), high: at(0.75) };
}
