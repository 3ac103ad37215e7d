import type { Assumption } from '../../reason/solve/assumptions';
import { applyEdit, applyEdits, type Edit } from '../../rules/edit';
import { isFurther } from '../../rules/further-action-nodes';
import { type Chain, conditionOf, looksAtFlags, type Rule, type TestTree } from '../../rules/rule';
import { isSame } from '../../rules/same';
import { elementAt, groupedBy } from '../../text/lookup';
import type { AuditContext, RuleFlow } from '../context';
import { isMark } from '../destinations';
import type { Finding, Repair } from '../finding';
import { orderMatters } from '../order-table';
import { replace } from '../repairs';
import { CLAIMS, REPAIRS } from '../wording';

/**
 * `mergeable`: rules that do the same could be one rule, in the place of the first, with every fate unchanged; proved.
 * Each group is as large as is proved, rule after rule.
 */
export function mergeable(context: AuditContext): Finding[] {
  const { each, chain, rules } = context;
  return each(alikeOf(chain, rules), (alike): Finding[] => {
    const groups: Group[] = [];
    for (const rule of alike) {
      const last = groups.at(-1);
      const grown = last && maybeGrown(context, last, rule);
      if (grown) groups[groups.length - 1] = grown;
      else groups.push({ rules: [rule], assumes: [] });
    }
    return groups.filter((group) => group.rules.length > 1).map((group) => findingOf(chain, group));
  });
}

interface Group {
  readonly rules: readonly RuleFlow[];
  /** What the proof that they can be one assumes. */
  readonly assumes: readonly Assumption[];
}

function findingOf(chain: Chain, { rules, assumes }: Group): Finding {
  const ids = rules.map(({ entry }) => entry.id);
  const names = rules.map(({ entry }) => entry.name);
  return {
    key: `mergeable ${ids.join(' ')}`,
    kind: 'mergeable',
    rules: ids,
    certainty: 'proved',
    assumes,
    consequence: 'clutter',
    claim: CLAIMS.mergeable(names),
    messages: [],
    witness: null,
    strength: null,
    repairs: [merged(chain, rules, rules.map(({ entry }) => entry.tests).reduce<readonly TestTree[]>(joined, []))],
  };
}

/** The group with one more rule, if that is proved to change nothing. */
function maybeGrown(context: AuditContext, group: Group, rule: RuleFlow): Group | null {
  const { chain, refuting, questions } = context;
  const rules = [...group.rules, rule];
  const isPlain = actAsOne(
    chain,
    rules.map(({ place }) => place),
  );
  if (!isPlain && questions.budget.comparisons === 0) return null;
  // For the proof, tests that are evaluated already; in the repair their keys are joined, which is equivalent (RFC 5228
  // section 2.7).
  const tests = rules.map(({ entry }) => entry.tests);
  const after = applyEdits(chain, merged(chain, rules, tests).edits);
  if (!after.ok || !refuting.every((body) => body.canRun(after.chain))) return null;
  const changes = refuting.some((body) => {
    const held = rules.map(({ place }) => body.at(place).held).reduce((all, one) => all.or(one));
    return !body.changedBy(after.chain, held).isEmpty();
  });
  if (changes) return null;
  if (isPlain) return { rules, assumes: group.assumes };
  const comparison = questions.maybeCompare(after.chain);
  return comparison?.verdict === 'equivalent' ? { rules, assumes: comparison.assumes } : null;
}

/** The rules that may be merged, by what they do: those that have a fellow. */
function alikeOf(chain: Chain, rules: readonly RuleFlow[]): (readonly RuleFlow[])[] {
  const merging = rules.filter(({ place }) => mayMerge(chain, place));
  const alike = groupedBy(merging, ({ entry }) => effectOf(entry));
  return [...alike.values()].filter(({ length }) => length > 1);
}

/**
 * Whether one rule that matches what any of these does, in the place of the first, treats every message as they do: they do
 * the same, nothing between them minds, and what they do to a message that several match is the same if it is done once.
 */
export function actAsOne(chain: Chain, places: readonly number[]): boolean {
  const rules = places.flatMap((place) => {
    const entry = chain.entries[place];
    return entry?.kind === 'rule' && mayMerge(chain, place) ? entry : [];
  });
  const [first] = rules;
  if (!first || rules.length < places.length || !isDoneOnce(first)) return false;
  const areAlike = rules.every((rule) => effectOf(rule) === effectOf(first));
  return areAlike && places.slice(1).every((place, at) => !reorders(chain, elementAt(places, at), place));
}

/**
 * Whether a second rule that does the same to a message changes nothing: the first ends, or its actions mean the same twice.
 * A second rejection or reply is an error (RFC 5429 section 2, RFC 5230 section 4.7), and what is filed again takes the flags
 * that were set since.
 */
function isDoneOnce({ actions, ending }: Rule): boolean {
  if (ending === 'stop') return true;
  const marking = actions.filter(isMark).length;
  return !actions.some(isFurther) && (marking === 0 || marking === actions.length);
}

/** Not part of a linked run. */
function mayMerge({ entries }: Chain, place: number): boolean {
  const [entry, next] = [entries[place], entries[place + 1]];
  if (entry?.kind !== 'rule' || !entry.on || entry.link !== 'always' || looksAtFlags(conditionOf(entry))) return false;
  return entry.actions.length > 0 && !(next?.kind === 'rule' && next.link === 'otherwise');
}

const effects = new WeakMap<Rule, string>();

/** What a rule does, exempts, and how it ends. */
function effectOf(rule: Rule): string {
  const known = effects.get(rule) ?? JSON.stringify([rule.ending, rule.actions, rule.unless]);
  effects.set(rule, known);
  return known;
}

/** Whether the rules between can be passed in any order, so that both rules are effectively neighbours. */
function reorders(chain: Chain, first: number, second: number): boolean {
  return chain.entries.slice(first + 1, second).some(({ on }) => on) && orderMatters(chain, first, second);
}

function merged(chain: Chain, rules: readonly RuleFlow[], children: readonly TestTree[]): Repair {
  const [first, ...others] = rules.map(({ entry }) => entry);
  if (!first) throw new Error('no rule to merge into');
  const [only] = children;
  const tests: TestTree = children.length === 1 && only ? only : { kind: 'any', children };
  const edits: Edit[] = [];
  // Each edit is made on the chain as the ones before leave it.
  let at = chain;
  for (const [rule, by] of [[first, [{ ...first, tests }]], ...others.map((other) => [other, []] as const)] as const) {
    const edit = replace(at, rule, by);
    const next = applyEdit(at, edit);
    edits.push(edit);
    if (next.ok) at = next.chain;
  }
  const names = others.map(({ name }) => name);
  return { title: REPAIRS.merge(first.name, names), edits };
}

/** The tests of a rule beside those of others, joined with the first that it can become one with. */
function joined(all: readonly TestTree[], tree: TestTree): readonly TestTree[] {
  for (const [at, other] of all.entries()) {
    const [only, ...more] = alternatives(other, tree);
    if (only && more.length === 0) return all.with(at, only);
  }
  return [...all, ...(tree.kind === 'any' ? tree.children : [tree])];
}

/** Either of two rules' tests; two tests of the same kind become one with the keys of both. */
export function alternatives(a: TestTree, b: TestTree): readonly TestTree[] {
  if (isSame(a, b)) return [a];
  if (a.kind === 'leaf' && b.kind === 'leaf' && 'keys' in a.test && 'keys' in b.test) {
    const keys = [...new Set([...a.test.keys, ...b.test.keys])];
    if (isSame({ ...a.test, keys: [] }, { ...b.test, keys: [] })) return [{ kind: 'leaf', test: { ...a.test, keys } }];
  }
  return [a, b].flatMap((tree) => (tree.kind === 'any' ? tree.children : [tree]));
}
