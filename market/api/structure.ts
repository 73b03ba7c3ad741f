import { placements } from '../world/account.ts';
import type { World } from '../world/world.ts';

type Row = Record<string, string | number | null>;

/** The account as it stands, in the columns of the `structure` file. */
export function structureRows(world: World): Row[] {
  const { structure } = world;
  const rows: Row[] = [];
  for (const group of structure.budgetGroups) {
    rows.push({
      entity: 'budget_group',
      budget_group_id: group.id,
      budget_group: group.name,
      daily_budget: group.dailyBudget,
    });
  }
  for (const campaign of structure.campaigns.values()) {
    const parent = { campaign_id: campaign.id, campaign: campaign.name };
    rows.push({
      entity: 'campaign',
      ...parent,
      budget_group_id: campaign.budgetGroup,
      status: campaign.status,
      kind: campaign.kind,
      daily_budget: campaign.budgetKind === 'lifetime' ? null : campaign.dailyBudget,
      strategy: campaign.strategy,
      start_date: campaign.startDate,
      end_date: campaign.endDate,
      schedule: campaign.schedule ?? '',
      ...(campaign.pacing ? { pacing: campaign.pacing } : {}),
      ...(campaign.budgetKind === 'lifetime'
        ? { budget_kind: 'lifetime', lifetime_budget: campaign.lifetimeBudget ?? 0 }
        : {}),
    });
    placements.forEach((placement, i) => {
      rows.push({ entity: 'placement_modifier', ...parent, placement, modifier: campaign.modifiers[i]! });
    });
  }
  const parents = new Map<string, Row>();
  for (const adGroup of structure.adGroups.values()) {
    const campaign = structure.campaigns.get(adGroup.campaignId)!;
    const parent: Row = {
      campaign_id: campaign.id,
      campaign: campaign.name,
      ad_group_id: adGroup.id,
      ad_group: adGroup.name,
    };
    parents.set(adGroup.id, parent);
    rows.push({
      entity: 'ad_group',
      ...parent,
      status: adGroup.status,
      default_bid: adGroup.defaultBid,
      ...(adGroup.startDate ? { start_date: adGroup.startDate } : {}),
      ...(adGroup.endDate ? { end_date: adGroup.endDate } : {}),
      ...(adGroup.rule ? { rule: JSON.stringify(adGroup.rule) } : {}),
      ...(adGroup.relatedCategories ? { related_categories: 'true' } : {}),
    });
    for (const sku of adGroup.skus) rows.push({ entity: 'product_ad', ...parent, sku, status: 'enabled' });
  }
  for (const target of structure.targets.values()) {
    rows.push({
      entity: 'target',
      ...parents.get(target.adGroupId)!,
      target_id: target.id,
      target_kind: target.kind,
      match_type: target.matchType,
      expression: target.expression,
      bid: target.bid,
      status: target.status,
    });
  }
  for (const negative of structure.negatives.values()) {
    const campaign = structure.campaigns.get(negative.campaignId)!;
    rows.push({
      entity: 'negative',
      ...(negative.adGroupId
        ? parents.get(negative.adGroupId)!
        : { campaign_id: campaign.id, campaign: campaign.name }),
      negative_id: negative.id,
      match_type: negative.matchType,
      expression: negative.expression,
      scope: negative.adGroupId ? 'ad_group' : 'campaign',
      status: negative.status,
    });
  }
  for (const creative of structure.creatives.values()) {
    const { id, adGroupId, kind, value, status } = creative;
    rows.push({ entity: kind, ...parents.get(adGroupId)!, creative_id: id, expression: value, status });
  }
  return rows;
}

export function productRows(world: World): Row[] {
  return world.scenario.products.map((product) => ({
    sku: product.sku,
    item_code: product.itemCode,
    title: product.title,
    category: world.scenario.concepts.find(({ name }) => name === product.concept)?.category ?? '',
    price: product.price,
    unit_cost: product.unitCost,
    fee_rate: product.feeRate,
    fee_fixed: product.feeFixed,
    shipping: product.shipping,
    refund_rate: product.refundRate,
    rating: world.catalogue.item(product.itemCode)!.rating,
    stock: world.stockOf(product.sku),
  }));
}
