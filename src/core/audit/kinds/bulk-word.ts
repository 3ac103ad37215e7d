import type { LeafTest, TestTree } from '../../rules/rule';
import { UNSUBSCRIBING_STEMS } from '../../rules/unsubscribing';
import type { AuditContext, RuleFlow } from '../context';
import { takesAway } from '../destinations';
import type { Finding } from '../finding';
import { positiveLeaves } from '../leaves';
import { exemptingSenders, rewrite, withoutRule } from '../repairs';
import { fewSenders } from '../senders';
import { CLAIMS, REPAIRS } from '../wording';

/**
 * `bulk-word`: a rule recognises bulk mail by the word for unsubscribing, which people quote when they answer or forward
 * such mail. List-Unsubscribe (RFC 2369), List-Id (RFC 2919) and Precedence (RFC 3834 section 3) are the better test.
 */
export function bulkWords(context: AuditContext): Finding[] {
  const { chain, each, mail, rules } = context;
  return each(rules, (rule): Finding[] => {
    const { entry } = rule;
    const leaf = takesAway(entry) ? positiveLeaves(entry).find(({ test }) => wordIn(test) !== null) : undefined;
    if (!leaf) return [];
    const people = byPeople(context, rule);
    return [
      {
        key: `bulk-word ${entry.id}`,
        kind: 'bulk-word',
        rules: [entry.id],
        certainty: 'proved',
        consequence: 'misplaced',
        claim: CLAIMS['bulk-word'](entry.name, wordIn(leaf.test) ?? '', people.length),
        messages: people,
        witness: null,
        strength: null,
        repairs: [
          rewrite(chain, entry, leaf.replaced(BULK), REPAIRS['test for bulk'](entry.name)),
          ...exemptingSenders(chain, entry, fewSenders(rule.fired.and(mail.known), mail)),
          ...withoutRule(chain, entry),
        ],
      },
    ];
  });
}

/** Stored mail that the rule takes although a person wrote it: somebody the user knows, and by no mailing list. */
function byPeople({ mail }: AuditContext, { fired }: RuleFlow): number[] {
  const ofPeople = fired.and(mail.known.or(mail.marked)).without(mail.sent);
  return [...ofPeople.members()].filter((number) => mail.message(number).listId === null);
}

function wordIn(test: LeafTest): string | null {
  const isOfText =
    (test.test === 'header' && test.headers.some((name) => /^(subject|comments)$/i.test(name))) ||
    (test.test === 'compared' && (test.subject.of === 'body' || test.subject.of === 'body parts'));
  if (!isOfText) return null;
  const keys = test.test === 'compared' ? test.by.keys : test.keys;
  return keys.find((key) => UNSUBSCRIBING_STEMS.test(key)) ?? null;
}

const BULK: TestTree = {
  kind: 'any',
  children: [
    ...['list-unsubscribe', 'list-id'].map(
      (name): TestTree => ({ kind: 'leaf', test: { test: 'exists', headers: [name] } }),
    ),
    {
      kind: 'leaf',
      test: {
        test: 'header',
        headers: ['precedence'],
        match: 'is',
        comparator: 'i;ascii-casemap',
        keys: ['bulk', 'list', 'junk'],
      },
    },
  ],
};
