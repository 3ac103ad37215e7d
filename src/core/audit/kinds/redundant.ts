import { type Assumption, joinedAssumptions } from '../../reason/solve/assumptions';
import { not } from '../../reason/solve/formula';
import { applyEdit } from '../../rules/edit';
import { conditionOf, looksAtFlags, type Rule } from '../../rules/rule';
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
    const changes = refuting.some((body) => !body.changedBy(without.chain, body.at(place).fired).isEmpty());
    if (changes) return [];
    if (chain.entries.length > SHORT_CHAIN) {
      const assumes = maybeTakenOver(context, rule);
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
 * an earlier one that continues, or a later one before which nothing else acts on such mail. Returns what the proof
 * assumes, or null.
 */
function maybeTakenOver({ chain, rules, questions }: AuditContext, rule: RuleFlow): readonly Assumption[] | null {
  const next = chain.entries[rule.place + 1];
  const headsRun = next?.kind === 'rule' && next.link === 'otherwise';
  const same = rules.filter((other) => other !== rule && sameEffect(other.entry, rule.entry) && isPlain(other.entry));
  if (!isPlain(rule.entry) || headsRun || same.length === 0) return null;
  const own = questions.condition(rule.place);
  const never = (wanted: number) => {
    const answer = questions.maybeMeet('parts', [own, wanted], null);
    return answer?.answer === 'impossible' ? answer.assumes : null;
  };
  for (const other of same) {
    const isEarlier = other.place < rule.place;
    if (isEarlier && rule.entry.ending === 'stop') continue;
    const [first, last] = isEarlier ? [other.place, rule.place] : [rule.place, other.place];
    if (chain.entries.slice(first, last).some(({ kind, on }) => kind === 'script' && on)) continue;
    const proofs = [never(not(questions.condition(other.place)))];
    if (proofs.includes(null)) continue;
    const between = rules.filter(({ place }) => place > first && place < last);
    const stops = (entry: Rule) => !isEarlier && (rule.entry.ending === 'stop' || entry.ending === 'stop');
    const matters = between.filter(({ entry }) => stops(entry) || bearsOnFlags(entry));
    proofs.push(...matters.map(({ place }) => never(questions.condition(place))));
    if (!proofs.includes(null)) return joinedAssumptions(...proofs.map((proof) => proof ?? []));
  }
  return null;
}

const sameEffect = (a: Rule, b: Rule): boolean => a.ending === b.ending && actionsKey(a) === actionsKey(b);

const keys = new WeakMap<Rule, string>();

/** Cached, since each rule is compared with all others. */
function actionsKey(rule: Rule): string {
  const known = keys.get(rule) ?? JSON.stringify(rule.actions);
  keys.set(rule, known);
  return known;
}

/** Always tried, and neither tests nor sets flags, so that only its position and tests matter. */
const isPlain = (rule: Rule): boolean =>
  rule.link === 'always' && !looksAtFlags(conditionOf(rule)) && !bearsOnFlags(rule);
