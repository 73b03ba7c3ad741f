import type { Transaction } from '../../db/connection.ts';

/** Finds or makes the campaigns that staged rows name, by id, else by name; their ids stand in `staged_campaign_id`. */
export async function mergeCampaignNames(tx: Transaction, accountId: number, staged: string): Promise<void> {
  await tx`
    insert into campaign (account_id, ext_id, name)
    select ${accountId}, campaign_id, min(campaign) from ${tx(staged)} s
    where campaign_id is not null
      and not exists (select 1 from campaign c where c.account_id = ${accountId} and c.ext_id = s.campaign_id)
    group by campaign_id`;
  await tx`
    insert into campaign (account_id, name)
    select distinct ${accountId}::bigint, campaign from ${tx(staged)} s
    where campaign_id is null and campaign is not null
      and not exists (select 1 from campaign c where c.account_id = ${accountId} and c.name = s.campaign)`;
  await tx`
    create temporary table staged_campaign_id on commit drop as
    select '#' || ext_id as key, campaign_id as id from campaign
    where account_id = ${accountId} and ext_id is not null
    union all
    select '=' || name, min(campaign_id) from campaign where account_id = ${accountId} group by name`;
  await tx`analyze staged_campaign_id`;
}

/** How a staged row `s` names its campaign in `staged_campaign_id`: one key, so that the two are met by hashing. */
export const campaignKey = (tx: Transaction) => tx`coalesce('#' || s.campaign_id, '=' || s.campaign)`;
