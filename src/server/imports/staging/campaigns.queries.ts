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

/**
 * Finds or makes the ad groups that staged rows name, by id, else by name within their campaign, once campaigns are
 * merged; their ids stand in `staged_ad_group_id` under the campaign's id and their own key.
 */
export async function mergeAdGroupNames(tx: Transaction, accountId: number, staged: string): Promise<void> {
  const rows = tx`${tx(staged)} s join staged_campaign_id c on c.key = ${campaignKey(tx)}`;
  await tx`
    insert into ad_group (account_id, campaign_id, ext_id, name)
    select ${accountId}, min(c.id), s.ad_group_id, min(s.ad_group) from ${rows}
    where s.ad_group_id is not null
      and not exists (select 1 from ad_group g where g.account_id = ${accountId} and g.ext_id = s.ad_group_id)
    group by s.ad_group_id`;
  await tx`
    insert into ad_group (account_id, campaign_id, name)
    select distinct ${accountId}::bigint, c.id, s.ad_group from ${rows}
    where s.ad_group_id is null
      and not exists (select 1 from ad_group g
        where g.account_id = ${accountId} and g.campaign_id = c.id and g.name = s.ad_group)`;
  await tx`
    create temporary table staged_ad_group_id on commit drop as
    select '#' || ext_id as key, ad_group_id as id from ad_group where account_id = ${accountId} and ext_id is not null
    union all
    select campaign_id || '=' || name, min(ad_group_id) from ad_group where account_id = ${accountId}
    group by campaign_id, name`;
  await tx`analyze staged_ad_group_id`;
}

/** How a staged row `s` in the campaign `c` names its ad group in `staged_ad_group_id`. */
export const adGroupKey = (tx: Transaction) => tx`coalesce('#' || s.ad_group_id, c.id || '=' || s.ad_group)`;

/** How a staged row `s` names its campaign in `staged_campaign_id`: one key, so that the two are met by hashing. */
export const campaignKey = (tx: Transaction) => tx`coalesce('#' || s.campaign_id, '=' || s.campaign)`;
