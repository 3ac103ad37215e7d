import { applyEdit, moveBefore } from '../../rules/edit';
import { editWords } from '../../rules/edit-words';
import { type Chain, conditionOf, looksAtFlags, type Rule } from '../../rules/rule';
import type { AuditContext } from '../context';
import { drops } from '../destinations';
import type { Consequence, Finding, Repair } from '../finding';
import type { OverlapPair } from './overlap';

/**
 * `order-conflict`: among the messages for which both rules hold, some have another fate when `b` is moved to directly
 * before `a`.
 */
export function orderConflicts(context: AuditContext, pairs: readonly OverlapPair[]): Finding[] {
  return pairs.flatMap(({ a, b, both }) => {
    if (!orderMatters(context.chain, a.place, b.place)) return [];
    const edit = moveBefore(context.chain, b.entry.id, a.entry.id);
    const moved = edit && applyEdit(context.chain, edit);
    if (!moved?.ok) return [];
    const changed = context.changedBy(moved.chain, both);
    if (changed.isEmpty()) return [];
    const count = changed.count();
    const [first, second] = [a.entry, b.entry];
    return [
      {
        key: `order-conflict ${first.id} ${second.id}`,
        kind: 'order-conflict',
        rules: [first.id, second.id],
        certainty: 'shown',
        consequence: consequenceOf(first, second),
        claim: `“${first.name}” comes before “${second.name}”; the other way round, ${count} of the ${both.count()} stored messages for which both hold would be treated differently.`,
        messages: [...changed.members()],
        repairs: [
          ...(edit ? [{ title: editWords(context.chain, edit), edits: [edit] }] : []),
          ...endings(context, a.entry.id),
        ],
      } satisfies Finding,
    ];
  });
}

/** A rule that only marks loses no mail and misplaces none, whatever the order. */
function consequenceOf(a: Rule, b: Rule): Consequence {
  if (drops(a) !== drops(b)) return 'lost';
  return onlyMarks(a) || onlyMarks(b) ? 'clutter' : 'misplaced';
}

function onlyMarks({ actions, ending }: Rule): boolean {
  return ending === 'continue' && actions.every(({ action }) => /flag$/.test(action));
}

function endings({ chain }: AuditContext, id: string): Repair[] {
  const rule = chain.entries.find((entry) => entry.id === id);
  if (rule?.kind !== 'rule') return [];
  const edit = { kind: 'ending', id, from: rule.ending, to: rule.ending === 'stop' ? 'continue' : 'stop' } as const;
  return [{ title: editWords(chain, edit), edits: [edit] }];
}

/**
 * Whether the order within a stretch of the chain can matter at all: without stops, links, flags and script blocks,
 * actions add up to the same fate in any order.
 */
function orderMatters(chain: Chain, from: number, to: number): boolean {
  return chain.entries.slice(from, to + 1).some((entry) => {
    if (!entry.on) return false;
    if (entry.kind === 'script' || entry.ending === 'stop' || entry.link === 'otherwise') return true;
    if (looksAtFlags(conditionOf(entry))) return true;
    return entry.actions.some((action) => 'flags' in action && action.flags !== null);
  });
}
