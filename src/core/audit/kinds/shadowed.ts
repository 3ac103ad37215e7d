import type { Assumption } from '../../reason/solve/assumptions';
import { applyEdits, moveBefore } from '../../rules/edit';
import type { ChainEntry } from '../../rules/rule';
import type { AuditContext, RuleFlow } from '../context';
import type { Consequence, Finding, Repair } from '../finding';
import { exemptingRule, otherEnding, repair, withoutRule } from '../repairs';
import { takersOf } from '../takers';
import { CLAIMS } from '../wording';

/**
 * `shadowed`: the rule can match, but no message that reaches it; proved, with the smallest set of earlier rules
 * responsible. The rules that kept stored mail from it may be others, and are named too. If that is undecided and the rule acts on no known message, the finding says so.
 */
export function shadowed(context: AuditContext): Finding[] {
  return context.each(context.rules, (rule) => {
    const answer = context.questions.known(rule.place);
    // If a stored message breaks the assumptions of the proof, nothing is stated.
    if (!answer || context.refuting.some(({ at }) => !at(rule.place).fired.isEmpty())) return [];
    if (answer.answer === 'shadowed') {
      const blamed = answer.blamed.flatMap((place) => context.chain.entries[place] ?? []);
      return [proved(context, rule, blamed, answer.assumes)];
    }
    if (answer.answer !== 'undecided') return [];
    return [undecided(context, rule, answer.reason)];
  });
}

function proved(
  context: AuditContext,
  rule: RuleFlow,
  blamed: readonly ChainEntry[],
  assumes: readonly Assumption[],
): Finding {
  const { id, name } = rule.entry;
  return {
    key: `shadowed ${id}`,
    kind: 'shadowed',
    rules: [id, ...blamed.map((entry) => entry.id)],
    certainty: 'proved',
    assumes,
    consequence: consequenceOf(context, rule),
    claim: CLAIMS.shadowed(
      name,
      blamed.map((entry) => entry.name),
      rule.held.count(),
      takersOf(context, rule).map(({ entry, count }) => [count, entry.name]),
    ),
    messages: [...rule.held.members()],
    witness: null,
    strength: null,
    repairs: repairs(context, rule, blamed),
  };
}

function undecided(context: AuditContext, { entry, held }: RuleFlow, reason: string): Finding {
  return {
    key: `shadowed ${entry.id}`,
    kind: 'shadowed',
    rules: [entry.id],
    certainty: 'undecided',
    consequence: 'clutter',
    claim: CLAIMS['shadowed undecided'](entry.name, reason),
    messages: [...held.members()],
    witness: null,
    strength: null,
    repairs: withoutRule(context.chain, entry),
  };
}

function consequenceOf({ stored }: AuditContext, rule: RuleFlow): Consequence {
  if (stored.flow.fates.dropped().meets(rule.held)) return 'lost';
  return rule.entry.actions.length === 0 ? 'clutter' : 'misplaced';
}

/** What changes something for the stored mail that the rule matches comes first. */
function repairs(context: AuditContext, rule: RuleFlow, blamed: readonly ChainEntry[]): Repair[] {
  const offered = repairsFor(context, rule, blamed);
  const { chain, stored } = context;
  const arrives = ({ edits }: Repair): boolean => {
    const after = applyEdits(chain, edits);
    return after.ok && stored.canRun(after.chain) && !stored.changedBy(after.chain, rule.held).isEmpty();
  };
  if (rule.held.isEmpty()) return offered;
  const helpful = new Set(offered.filter(arrives));
  return [...helpful, ...offered.filter((one) => !helpful.has(one))];
}

/** The move goes before all rules that take its mail, whether a proof names them or they took stored mail. */
function repairsFor(context: AuditContext, rule: RuleFlow, blamed: readonly ChainEntry[]): Repair[] {
  const { chain } = context;
  const [first] = blamed;
  const taking = new Set([...blamed, ...takersOf(context, rule).map(({ entry }) => entry)]);
  const earliest = chain.entries.find((entry) => taking.has(entry));
  const lone = taking.size === 1 && first?.kind === 'rule' && first.ending === 'stop';
  return [
    ...repair(chain, earliest ? moveBefore(chain, rule.entry.id, earliest.id) : null),
    ...(lone ? [...exemptingRule(chain, first, rule.entry), ...repair(chain, otherEnding(first))] : []),
    ...withoutRule(chain, rule.entry),
  ];
}
