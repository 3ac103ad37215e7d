import type { AuditContext } from '../context';
import type { Finding } from '../finding';
import type { MailBody } from '../known-mail';
import { withoutRule } from '../repairs';
import { CLAIMS } from '../wording';

/** `contradiction`: the rule's tests and exceptions can hold for no message; always proved. */
export function contradictions({ each, chain, rules, refuting, questions }: AuditContext): Finding[] {
  return each(rules, ({ entry, place }) => {
    // Stored mail may be other than proofs take for granted: then nothing is stated.
    const refutes = ({ at }: MailBody) => !at(place).held.isEmpty() || !at(place).fired.isEmpty();
    if (refuting.some(refutes)) return [];
    if (questions.known(place)?.answer !== 'contradiction') return [];
    return [
      {
        key: `contradiction ${entry.id}`,
        kind: 'contradiction',
        rules: [entry.id],
        certainty: 'proved',
        consequence: 'clutter',
        claim: CLAIMS.contradiction(entry.name, entry.unless.length === 0 ? 'tests' : 'exceptions'),
        messages: [],
        witness: null,
        strength: null,
        repairs: withoutRule(chain, entry),
      } satisfies Finding,
    ];
  });
}
