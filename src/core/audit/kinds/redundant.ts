import { type Assumption, joinedAssumptions } from '../../reason/solve/assumptions';
import { type Formula, not } from '../../reason/solve/formula';
import { applyEdit } from '../../rules/edit';
import { conditionOf, looksAtFlags, type Rule } from '../../rules/rule';
import { groupedBy } from '../../text/lookup';
import type { AuditContext, RuleFlow } from '../context';
import { bearsOnFlags } from '../destinations';
import type { Finding } from '../finding';
import { isAlways, switchOff, withoutRule } from '../repairs';
import { CLAIMS } from '../wording';

/** In longer chains, only rules are checked whose work another rule that does the same takes over. */
const SHORT_CHAIN = 80;

/**
 * `redundant`: the rule can fire, but without it every message has the same fate. Proved; only rules without which no
 * known message changes are checked.
 */
export function redundant(context: AuditContext): Finding[] {
  const { each, chain, rules, madeUp, refuting, questions } = context;
  const fellows = chain.entries.length > SHORT_CHAIN ? fellowsOf(rules) : null;
  return each(rules, (rule) => {
    const { entry, place, fired } = rule;
    if ((fired.isEmpty() && madeUp.at(place).fired.isEmpty()) || isPlainKeep(entry)) return [];
    const without = applyEdit(chain, switchOff(entry.id));
    if (!without.ok) return [];
    // Removing an entry that changes messages can make other tests match, so only a proof counts.
    const known = refuting.every((body) => body.canRun(without.chain));
    if (!known) {
      const comparison = questions.maybeCompare(without.chain, [place]);
      return comparison?.verdict === 'equivalent' ? [findingOf(context, rule, comparison.assumes)] : [];
    }
    const same = fellows?.get(effectOf(entry))?.filter((other) => other !== rule && mayTakeOver(context, rule, other));
    if (fellows && !same?.length) return [];
    const changes = refuting.some((body) => !body.changedBy(without.chain, body.at(place).fired).isEmpty());
    if (changes) return [];
    if (same) {
      const assumes = maybeTakenOver(context, rule, same);
      return assumes ? [findingOf(context, rule, assumes)] : [];
    }
    // Where it does not match, removing it changes nothing.
    const comparison = questions.maybeCompare(without.chain, [place]);
    if (!comparison || comparison.verdict === 'different') return [];
    return [findingOf(context, rule, comparison.verdict === 'equivalent' ? comparison.assumes : null)];
  });
}

/** What happens anyway, written down: “keep” for all mail, or for what no other branch takes. */
const isPlainKeep = (rule: Rule): boolean =>
  isAlways(conditionOf(rule)) &&
  rule.actions.length > 0 &&
  rule.actions.every((action) => action.action === 'keep' && action.flags === null);

/** `assumes`: of the proof; null if undecided. */
function findingOf(
  { chain }: AuditContext,
  { entry, fired }: RuleFlow,
  assumes: readonly Assumption[] | null,
): Finding {
  const certainty = assumes ? 'proved' : 'undecided';
  return {
    key: `redundant ${entry.id}`,
    kind: 'redundant',
    rules: [entry.id],
    certainty,
    ...(assumes && { assumes }),
    consequence: 'clutter',
    claim: CLAIMS.redundant(entry.name, certainty, fired.count()),
    messages: [...fired.members()],
    witness: null,
    strength: null,
    repairs: withoutRule(chain, entry),
  };
}

/**
 * Whether another rule matches wherever this one does, does the same, ends alike, and is reached with the same flags:
 * an earlier one that continues, or a later one before which nothing else acts on such mail. `same`: those that do the
 * same. Returns what the proof assumes, or null.
 */
function maybeTakenOver(
  { chain, rules, questions }: AuditContext,
  rule: RuleFlow,
  same: readonly RuleFlow[],
): readonly Assumption[] | null {
  const next = chain.entries[rule.place + 1];
  const headsRun = next?.kind === 'rule' && next.link === 'otherwise';
  if (!isPlain(rule.entry) || headsRun) return null;
  const own = questions.condition(rule.place);
  const never = (wanted: Formula) => {
    if (questions.formulas.settle(own, wanted) === 'possible') return null;
    const answer = questions.maybeMeet('parts', [own, wanted], null);
    return answer?.answer === 'impossible' ? answer.assumes : null;
  };
  for (const other of same) {
    const isEarlier = other.place < rule.place;
    if (isEarlier && rule.entry.ending === 'stop') continue;
    const covered = never(not(questions.condition(other.place)));
    if (!covered) continue;
    const [first, last] = isEarlier ? [other, rule] : [rule, other];
    if (chain.entries.slice(first.place, last.place).some(({ kind, on }) => kind === 'script' && on)) continue;
    const stops = (entry: Rule) => !isEarlier && (rule.entry.ending === 'stop' || entry.ending === 'stop');
    const proofs = [covered];
    const isFree = rules.slice(rules.indexOf(first) + 1, rules.indexOf(last)).every(({ place, entry }) => {
      if (!stops(entry) && !bearsOnFlags(entry)) return true;
      const proof = never(questions.condition(place));
      if (proof) proofs.push(proof);
      return proof !== null;
    });
    if (isFree) return joinedAssumptions(...proofs);
  }
  return null;
}

/** Whether the forms of the tests leave it open that another rule matches wherever this one does. */
const mayTakeOver = ({ questions }: AuditContext, rule: RuleFlow, other: RuleFlow): boolean =>
  questions.formulas.settle(questions.condition(rule.place), not(questions.condition(other.place))) !== 'possible';

/** The rules that can take over the work of others, by what they do. */
const fellowsOf = (rules: readonly RuleFlow[]): Map<string, RuleFlow[]> =>
  groupedBy(
    rules.filter(({ entry }) => isPlain(entry)),
    ({ entry }) => effectOf(entry),
  );

const effectOf = ({ ending, actions }: Rule): string => JSON.stringify([ending, actions]);

/** Always tried, and neither tests nor sets flags, so that only its position and tests matter. */
const isPlain = (rule: Rule): boolean =>
  rule.link === 'always' && !looksAtFlags(conditionOf(rule)) && !bearsOnFlags(rule);
