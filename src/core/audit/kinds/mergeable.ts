import type { Assumption } from '../../reason/solve/assumptions';
import { applyEdits } from '../../rules/edit';
import { type Chain, conditionOf, looksAtFlags, type Rule, type TestTree } from '../../rules/rule';
import { isSame } from '../../rules/same';
import type { AuditContext, RuleFlow } from '../context';
import type { Finding, Repair } from '../finding';
import { replace } from '../repairs';
import { CLAIMS, REPAIRS } from '../wording';
import { orderMatters } from './order-conflict';

/**
 * `mergeable`: two rules that do the same could be one rule, in the place of the first, with every fate unchanged;
 * proved. Of several such rules, each is paired with the next.
 */
export function mergeable(context: AuditContext): Finding[] {
  const { each, chain, rules, refuting } = context;
  const following = nextAlike(chain, rules);
  return each(rules, ({ entry: first, place }) => {
    const next = following.get(place);
    if (!next) return [];
    const second = next.entry;
    // For the proof, tests that are evaluated already; in the repair their keys are joined, which is equivalent (RFC
    // 5228 section 2.7).
    const after = applyEdits(chain, merged(chain, first, second, [first.tests, second.tests]).edits);
    if (!after.ok) return [];
    const proof = (): readonly Assumption[] | null => {
      if (!reorders(chain, place, next.place)) return [];
      const comparison = context.questions.maybeCompare(after.chain);
      return comparison?.verdict === 'equivalent' ? comparison.assumes : null;
    };
    if (!refuting.every((body) => body.canRun(after.chain))) return [];
    const changes = refuting.some((body) => {
      const either = body.at(place).held.or(body.at(next.place).held);
      return !body.changedBy(after.chain, either).isEmpty();
    });
    const assumes = changes ? null : proof();
    if (!assumes) return [];
    return [
      {
        key: `mergeable ${first.id} ${second.id}`,
        kind: 'mergeable',
        rules: [first.id, second.id],
        certainty: 'proved',
        assumes,
        consequence: 'clutter',
        claim: CLAIMS.mergeable(first.name, second.name),
        messages: [],
        witness: null,
        strength: null,
        repairs: [merged(chain, first, second, alternatives(first.tests, second.tests))],
      } satisfies Finding,
    ];
  });
}

/** For the index of each rule that may be merged, the next one that does the same. */
function nextAlike(chain: Chain, rules: readonly RuleFlow[]): Map<number, RuleFlow> {
  const latest = new Map<string, RuleFlow>();
  const next = new Map<number, RuleFlow>();
  for (const rule of rules.toReversed()) {
    if (!mayMerge(chain, rule.place)) continue;
    const effect = effectOf(rule.entry);
    const after = latest.get(effect);
    if (after) next.set(rule.place, after);
    latest.set(effect, rule);
  }
  return next;
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

function merged(chain: Chain, first: Rule, second: Rule, children: readonly TestTree[]): Repair {
  const [only] = children;
  const tests: TestTree = children.length === 1 && only ? only : { kind: 'any', children };
  const edits = [replace(chain, first, [{ ...first, tests }]), replace(chain, second, [])];
  return { title: REPAIRS.merge(first.name, second.name), edits };
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
