import { placementShort } from '../../core/placements/names.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { isHeldWhole, mostOfAQueue } from '../../core/round/queue.ts';
import { guardWords, type Shown } from './filter.ts';
import type { Row, RoundAnswer } from './types.ts';

/** How rows and proposals are called on screen. */

const negativeNames: Record<string, string> = {
  negative_exact: 'negative exact',
  negative_phrase: 'negative phrase',
  negative_item: 'negative item',
};

export const matchName = (type: string | null): string => (type ? (negativeNames[type] ?? type) : '');

/** What caught a term, or where a target stands: "phrase · airlock lids in Lids phrase research". */
export function placeOf(row: Row, names: RoundAnswer['adGroups']): string {
  if (row.queue === 'words')
    return `in ${counted(row.terms ?? 0, 'term')}${row.sku === null ? '' : ` of ${row.sku}`}`;
  if (row.queue === 'placements') return row.proposal.kind === 'placements' ? row.proposal.short : '';
  if (row.queue === 'budgets' || row.queue === 'hours') return row.sku ?? '';
  if (row.queue === 'conflicts' || row.queue === 'structure' || row.queue === 'trials')
    return row.proposal.kind === 'repair' ? row.proposal.sentence : '';
  const adGroup = names[row.adGroupId]?.name ?? '';
  if (row.members !== undefined)
    return `bid of the ad group, for ${counted(row.members, 'target')} in ${names[row.adGroupId]?.campaign ?? ''}`;
  const kind = row.targetKind === 'keyword' ? (row.matchType ?? 'keyword') : row.targetKind;
  if (row.queue === 'targets') return `${kind} in ${adGroup}`;
  return row.targetKind === 'automatic'
    ? `${row.target} in ${adGroup}`
    : `${kind} · ${row.target} in ${adGroup}`;
}

export interface ProposalWords {
  verb: string;
  value: string;
  detail: string;
}

export function proposalWords(
  { proposal, covered }: Pick<Row, 'proposal' | 'covered'>,
  names: RoundAnswer['adGroups'],
): ProposalWords {
  if (covered !== undefined)
    return { verb: '', value: 'Settled', detail: `covered by ${covered} on the sheet` };
  const held = isHeldWhole({ proposal });
  switch (proposal.kind) {
    case 'repair':
      return {
        verb: proposal.repair === null ? '' : 'Repair',
        value: proposal.repair === null ? 'yours to decide' : counted(proposal.lines, 'line'),
        detail: proposal.repair ?? '',
      };
    case 'placements':
      return {
        verb: held ? 'Held' : 'Move',
        value: proposal.bids,
        detail: [
          ...(held ? [`held by ${guardWords.cooldown}`] : []),
          ...proposal.modifiers.map(
            ({ placement, from, to }) => `${placementShort(placement)} ${from} → ${to} %`,
          ),
        ].join(', '),
      };
    case 'budget':
      return {
        verb: held ? 'Held' : proposal.way === 'raise' ? 'Raise budget' : 'Lower bids',
        value: proposal.short,
        detail: held
          ? `by ${guardWords.cooldown}`
          : proposal.held.includes('largest step')
            ? 'twice at most at a time'
            : '',
      };
    case 'hours':
      return {
        verb: held ? 'Held' : 'Schedule',
        value: proposal.short,
        detail: held
          ? `by ${guardWords.cooldown}`
          : proposal.held.includes('largest step')
            ? '50 points at most at a time'
            : '',
      };
    case 'bid':
      return {
        verb: proposal.isTest ? 'Test' : proposal.to < proposal.from ? 'Cut bid' : 'Raise bid',
        value: `${money(proposal.from)} → ${money(proposal.to)}`,
        detail:
          proposal.held.length > 0
            ? `${money(proposal.beyond ?? proposal.wanted)} but for ${guardWords[proposal.held.at(-1)!]}`
            : '',
      };
    case 'harvest':
      return {
        verb: 'Harvest',
        value: `${proposal.targetKind === 'item' ? 'item' : (proposal.matchType ?? '')} ${money(proposal.bid)}`,
        detail:
          proposal.warnings.length > 0
            ? proposal.warnings[0]!
            : proposal.held.length > 0
              ? `to ${names[proposal.adGroupId]?.name ?? ''}, held by ${guardWords[proposal.held.at(-1)!]}`
              : `to ${names[proposal.adGroupId]?.name ?? ''}`,
      };
    case 'negative':
      return {
        verb: 'Negate',
        value: matchName(proposal.matchType).replace('negative ', ''),
        detail:
          proposal.adGroupId === '' ? 'where it was caught' : `in ${names[proposal.adGroupId]?.name ?? ''}`,
      };
    case 'wait':
      if (proposal.held) {
        return {
          verb: 'Held',
          value: `at ${money(proposal.held.from)}, wants ${money(proposal.held.wanted)}`,
          detail: `by ${guardWords[proposal.held.by]}`,
        };
      }
      return proposal.obstacle
        ? { verb: '', value: 'Blocked', detail: proposal.obstacle }
        : {
            verb: '',
            value: proposal.moreClicks === null ? 'on its goal' : `≈ ${proposal.moreClicks} clicks to know`,
            detail: '',
          };
  }
}

export const verdictWords = { under: 'under goal', over: 'over goal', undecided: 'undecided' } as const;

/** What a queue leaves out, to stand behind other sentences: empty while everything that was found is here. */
export function beyondSaid(shown: Shown, counts: RoundAnswer['counts']): string {
  const said = (['terms', 'targets'] as const)
    .filter((one) => (shown === 'all' || shown === one) && counts[one] > mostOfAQueue)
    .map((one) => `the ${count(mostOfAQueue)} ${one} worth most of ${count(counts[one])}`);
  return said.length === 0 ? '' : ` Here are ${said.join(' and ')}.`;
}
