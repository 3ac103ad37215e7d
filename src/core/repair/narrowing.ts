import { partsOf } from '../audit/parts';
import type { Rule, TestTree } from '../rules/rule';

/** A way to let a rule no longer act on some messages. */
export interface Narrowing {
  readonly words: string;
  readonly rule: Rule;
}

/** The rule with each of these tests as a further exception. */
export function byException(
  rule: Rule,
  proposals: readonly { readonly words: string; readonly tests: TestTree }[],
): Narrowing[] {
  return proposals.map(({ words, tests }) => ({
    words: `exempt mail ${words}`,
    rule: { ...rule, unless: [...rule.unless, tests] },
  }));
}

/** The rule without one of its tests or keys each; whether that narrows it has to be seen. */
export function byLessTests(rule: Rule): Narrowing[] {
  return partsOf(rule).flatMap(({ id, words, without }) =>
    id.startsWith('tests') ? [{ words: `leave out ${words}`, rule: without }] : [],
  );
}
