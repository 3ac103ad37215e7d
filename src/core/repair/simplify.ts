import { partsOf } from '../audit/parts';
import { Knowledge } from '../reason/knowledge';
import { type Assumption, joinedAssumptions, PROOF } from '../reason/solve/assumptions';
import { FALSE } from '../reason/solve/formula';
import { possibleWithin } from '../reason/solve/solver';
import type { Rule, TestTree } from '../rules/rule';

/** A rule without its superfluous parts, with the words for each. */
export interface Simplified {
  readonly rule: Rule;
  readonly dropped: readonly string[];
  /** What the proofs assume. */
  readonly assumes: readonly Assumption[];
}

/** The most parts examined. */
const MOST = 200;

/**
 * Removes tests, keys and exceptions without which the rule matches exactly the same messages; each removal is proved
 * given the remaining parts.
 */
export function simplified(rule: Rule, knowledge = new Knowledge()): Simplified {
  let current = rule;
  const dropped: string[] = [];
  let assumes: readonly Assumption[] = [];
  for (let asked = 0; asked < MOST; ) {
    let proof: readonly Assumption[] | null = null;
    const part = partsOf(current).find(({ without }) => {
      asked++;
      proof = asked <= MOST ? maybeAlike(current, without, knowledge) : null;
      return proof !== null;
    });
    if (!part || proof === null) break;
    current = part.without;
    dropped.push(part.words);
    assumes = joinedAssumptions(assumes, proof);
  }
  return { rule: unwrapped(current), dropped, assumes };
}

/** What the proof assumes that two rules match the same messages; null if they are not proved to. */
export function maybeAlike(a: Rule, b: Rule, knowledge: Knowledge): readonly Assumption[] | null {
  const alone = (rule: Rule) => ({ entries: [{ ...rule, on: true, link: 'always' as const }], closing: '' });
  const { known, chains } = knowledge.lower(alone(a), alone(b));
  const [first, second] = chains.map(({ entries }) => entries[0]?.condition ?? FALSE);
  const differs = known.lowering.formulas.differ(first ?? FALSE, second ?? FALSE);
  const answer = possibleWithin(known.solver, [differs], PROOF, knowledge.budget);
  return answer.answer === 'impossible' ? answer.assumes : null;
}

/** A group with one member becomes that member. */
function unwrapped(rule: Rule): Rule {
  const { tests } = rule;
  const [only, another] = tests.kind === 'any' || tests.kind === 'all' ? tests.children : [];
  return only && !another ? { ...rule, tests: only } : rule;
}

/** A way to stop a rule from acting on some messages. */
export interface Narrowing {
  readonly words: string;
  readonly rule: Rule;
}

/** The rule with each of these tests as an additional exception. */
export function byException(
  rule: Rule,
  proposals: readonly { readonly words: string; readonly tests: TestTree }[],
): Narrowing[] {
  return proposals.map(({ words, tests }) => ({
    words: `exempt mail ${words}`,
    rule: { ...rule, unless: [...rule.unless, tests] },
  }));
}

/** The rule without each of its tests or keys; the caller checks whether that narrows it. */
export function byLessTests(rule: Rule): Narrowing[] {
  return partsOf(rule).flatMap(({ id, words, without }) =>
    id.startsWith('tests') ? [{ words: `remove ${words}`, rule: without }] : [],
  );
}
