import { applyEdit } from '../../rules/edit';
import type { AuditContext } from '../context';
import { counted, repair, switchOff } from '../edits';
import type { Finding } from '../finding';

/**
 * `redundant`: the rule can fire, but without it every message has the same fate. Proved; only rules without which no
 * message at hand changes are asked about.
 */
export function redundant({ chain, rules, stored, madeUp, questions }: AuditContext): Finding[] {
  return rules.flatMap(({ entry, place, fired }) => {
    if (fired.isEmpty() && madeUp.at(place).fired.isEmpty()) return [];
    const without = applyEdit(chain, switchOff(entry.id));
    if (!without.ok) return [];
    const changes = [stored, madeUp].some((body) => !body.changedBy(without.chain, body.at(place).fired).isEmpty());
    if (changes) return [];
    const comparison = questions.maybeCompare(without.chain);
    if (comparison?.verdict === 'different') return [];
    const settled = comparison?.verdict === 'equivalent';
    const count = fired.count();
    const acts = count > 0 ? ` It acts on ${counted(count, 'stored message')}.` : '';
    return [
      {
        key: `redundant ${entry.id}`,
        kind: 'redundant',
        rules: [entry.id],
        certainty: settled ? 'proved' : 'undecided',
        consequence: 'clutter',
        claim: settled
          ? `“${entry.name}” adds nothing: without it every message ends the same way.${acts}`
          : `Whether “${entry.name}” adds anything could not be settled; without it no message at hand ends otherwise.${acts}`,
        messages: [...fired.members()],
        witness: null,
        strength: null,
        repairs: repair(chain, switchOff(entry.id)),
      } satisfies Finding,
    ];
  });
}
