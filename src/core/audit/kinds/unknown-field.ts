import { distance } from 'fastest-levenshtein';
import type { LeafTest } from '../../rules/rule';
import type { AuditContext } from '../context';
import type { Finding } from '../finding';
import { placedLeaves } from '../leaves';
import { rewrite } from '../repairs';
import { CLAIMS, REPAIRS } from '../wording';

/** Fields of RFC 5322 section 3.6, RFC 2369, RFC 2919 and RFC 3834: no misspellings of each other. */
const STANDARD =
  /^(date|from|sender|reply-to|to|cc|bcc|message-id|in-reply-to|references|subject|comments|keywords|(resent-)?(date|from|sender|to|cc|bcc|message-id)|list-(id|help|subscribe|unsubscribe|post|owner|archive)|precedence|auto-submitted|return-path|received)$/;

/** Longer names may differ by two letters. */
const LONG = 12;

type FieldTest = Extract<LeafTest, { readonly headers: readonly string[] }>;

/**
 * `too-narrow`: a rule tests a field that no stored message has, and whose name is nearly that of one which some have.
 */
export function unknownFields({ chain, each, rules, mail }: AuditContext): Finding[] {
  const { fieldNames } = mail.mail;
  if (fieldNames.size === 0) return [];
  return each(rules, ({ entry }) =>
    placedLeaves(entry).flatMap(({ test, replaced }, at): Finding[] => {
      if (!('headers' in test)) return [];
      for (const name of test.headers) {
        const known = nearestTo(name.toLowerCase(), fieldNames);
        if (known === null) continue;
        const headers = test.headers.map((one) => (one === name ? known : one));
        const corrected: FieldTest = { ...test, headers };
        const finding: Finding = {
          key: `too-narrow ${entry.id} field ${at}`,
          kind: 'too-narrow',
          rules: [entry.id],
          certainty: 'observed',
          consequence: 'misplaced',
          claim: CLAIMS['unknown field'](entry.name, name, known),
          messages: [],
          witness: null,
          strength: null,
          repairs: [
            rewrite(
              chain,
              entry,
              replaced({ kind: 'leaf', test: corrected }),
              REPAIRS['test field'](entry.name, known),
            ),
          ],
        };
        return [finding];
      }
      return [];
    }),
  );
}

function nearestTo(name: string, known: ReadonlySet<string>): string | null {
  if (known.has(name) || STANDARD.test(name)) return null;
  const most = name.length >= LONG ? 2 : 1;
  const near = [...known].filter((one) => Math.abs(one.length - name.length) <= most && distance(one, name) <= most);
  return near.sort((a, b) => distance(a, name) - distance(b, name))[0] ?? null;
}
