import type { Edit } from '../../rules/edit';
import { editWords } from '../../rules/edit-words';
import type { AuditContext } from '../context';
import type { Finding } from '../finding';

/** `contradiction`: the rule's tests and exceptions can hold for no message; always proved. */
export function contradictions({ chain, rules, canFire }: AuditContext): Finding[] {
  return rules.flatMap(({ entry, place, held }) => {
    // Stored mail may be other than proofs take for granted: then nothing is stated.
    if (!held.isEmpty() || canFire(place).answer !== 'contradiction') return [];
    const edit: Edit = { kind: 'switch', id: entry.id, on: false };
    const what =
      entry.unless.length === 0 ? 'its tests contradict each other' : 'its exceptions exempt all it tests for';
    return [
      {
        key: `contradiction ${entry.id}`,
        kind: 'contradiction',
        rules: [entry.id],
        certainty: 'proved',
        consequence: 'clutter',
        claim: `“${entry.name}” can hold for no message: ${what}.`,
        messages: [],
        repairs: [{ title: editWords(chain, edit), edits: [edit] }],
      } satisfies Finding,
    ];
  });
}
