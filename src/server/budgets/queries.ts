import type { BudgetLimit, BudgetRule, BudgetScope } from '../../core/budgets/rules.ts';
import type { Micros } from '../../core/metrics/money.ts';
import type { Database, Transaction } from '../db/connection.ts';

export async function budgetLimits(sql: Database, accountId: number): Promise<BudgetLimit[]> {
  return sql<BudgetLimit[]>`
    select campaign_id::text as "campaignId", least, most from budget_limit
    where account_id = ${accountId} order by campaign_id`;
}

/** Keeps a rule; one that says nothing goes. */
export async function putRule(tx: Transaction, accountId: number, rule: BudgetRule): Promise<void> {
  const { scope, object, ...values } = rule;
  if (Object.values(values).every((value) => value === null)) {
    await tx`delete from budget_rule where account_id = ${accountId} and scope = ${scope} and object = ${object}`;
    return;
  }
  await tx`
    insert into budget_rule (account_id, scope, object, total, least, most, research_share, research_cap, grace_days,
      grace_least)
    values (${accountId}, ${scope}, ${object}, ${rule.total}, ${rule.least}, ${rule.most}, ${rule.researchShare},
      ${rule.researchCap}, ${rule.graceDays}, ${rule.graceLeast})
    on conflict (account_id, scope, object) do update set total = excluded.total, least = excluded.least,
      most = excluded.most, research_share = excluded.research_share, research_cap = excluded.research_cap,
      grace_days = excluded.grace_days, grace_least = excluded.grace_least`;
}

export async function putLimit(
  tx: Transaction,
  accountId: number,
  { campaignId, least, most }: BudgetLimit,
): Promise<void> {
  if (least === null && most === null) {
    await tx`delete from budget_limit where account_id = ${accountId} and campaign_id = ${campaignId}`;
    return;
  }
  await tx`
    insert into budget_limit (account_id, campaign_id, least, most)
    values (${accountId}, ${campaignId}, ${least}, ${most})
    on conflict (account_id, campaign_id) do update set least = excluded.least, most = excluded.most`;
}

export interface CampaignBudget {
  id: string;
  name: string;
  extId: string | null;
  budget: Micros | null;
  lifetime: Micros | null;
  status: string;
}

/** Campaigns that are not archived, with their budgets. */
export async function campaignBudgets(sql: Database, accountId: number): Promise<CampaignBudget[]> {
  return sql<CampaignBudget[]>`
    select campaign_id::text as id, name, ext_id as "extId", daily_budget as budget, lifetime_budget as lifetime, status
    from campaign where account_id = ${accountId} and status <> 'archived' order by name`;
}

/** Budgets as the open sheet sets them, by campaign. */
export async function openBudgets(sql: Database, accountId: number): Promise<Map<string, Micros>> {
  const rows = await sql<{ campaign_id: string; budget: string }[]>`
    select l.campaign_id::text, l.new_value as budget from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and s.state in ('open', 'held', 'sending') and l.state in ('open', 'sending')
      and l.entity = 'campaign' and l.field = 'daily_budget' and l.action = 'update'`;
  return new Map(rows.map(({ campaign_id, budget }) => [campaign_id, Number(budget)]));
}

/** What somebody calls a group: the object of its scope. */
export async function isThere(
  sql: Database,
  accountId: number,
  scope: BudgetScope,
  object: string,
): Promise<boolean> {
  if (scope === 'account') return object === '';
  const [row] =
    scope === 'product'
      ? await sql`select 1 from product where account_id = ${accountId} and sku = ${object}`
      : await sql`select 1 from budget_group where account_id = ${accountId} and ext_id = ${object}`;
  return row !== undefined;
}

/** Budget groups of the marketplace with the campaigns that are in them. */
export async function groupMembers(
  sql: Database,
  accountId: number,
): Promise<{ object: string; name: string; set: Micros | null; campaignIds: string[] }[]> {
  return sql`
    select g.ext_id as object, g.name, g.daily_budget as set, array_agg(c.campaign_id::text order by c.name) as "campaignIds"
    from budget_group g join campaign c on c.account_id = g.account_id and c.budget_group = g.ext_id
    where g.account_id = ${accountId} group by 1, 2, 3 order by 2`;
}
