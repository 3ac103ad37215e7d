import type { AuditContext } from '../context';
import type { Finding } from '../finding';
import type { MailBody } from '../known-mail';
import { withoutRule } from '../repairs';
import { CLAIMS } from '../wording';

/** `contradiction`: no message can match the rule's tests and none of its exceptions; always proved. */
export function contradictions({ each, chain, rules, refuting, questions }: AuditContext): Finding[] {
  return each(rules, ({ entry, place }) => {
    // If a stored message breaks the assumptions of the proof, nothing is stated.
    const refutes = ({ at }: MailBody) => !at(place).held.isEmpty() || !at(place).fired.isEmpty();
    if (refuting.some(refutes)) return [];
    const answer = questions.known(place);
    if (answer?.answer !== 'contradiction') return [];
    return [
      {
        key: `contradiction ${entry.id}`,
        kind: 'contradiction',
        rules: [entry.id],
        certainty: 'proved',
        assumes: answer.assumes,
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
