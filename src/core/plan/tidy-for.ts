import type { Finding } from '../audit/finding';
import type { AtomBitmaps } from '../flow/conditions';
import type { Knowledge } from '../reason/knowledge';
import { applyEdit, moveBefore } from '../rules/edit';
import type { Chain, Rule } from '../rules/rule';
import { type Tidied, tidied } from './tidy';
import { type Evaluate, Trials } from './trials';
import { concerned } from './weigh';

export interface TidyInput {
  readonly chain: Chain;
  /** The tests of the chain over the stored mail. */
  readonly atoms: AtomBitmaps;
  readonly evaluate: Evaluate;
  readonly count: number;
  /** About this chain. */
  readonly findings: readonly Finding[];
  readonly knowledge: Knowledge;
  /** Messages of which the user said where they must end. */
  readonly answered: readonly number[];
  readonly checkpoint?: () => void;
}

/** Everything that can be tidied without any message being treated differently: proved, and tried on all stored mail. */
export function tidyFor({ chain, findings, knowledge, answered, ...rest }: TidyInput): Tidied {
  const whole = new Trials(rest.atoms, rest.evaluate, rest.count, rest.checkpoint);
  return tidied(chain, findings, {
    knowledge,
    isUnchanged: (before, after, edits) =>
      whole.changed(before, after, concerned(whole, [before, after], edits) ?? undefined).length === 0,
    mayRemove: (rule) => isNeedless(whole, chain, rule, answered),
  });
}

/**
 * Whether the user hardly means a rule to act that never does: it matches no stored mail, it would do nothing new with
 * what it matches, or they have seen such a message and said where it must end.
 */
function isNeedless(whole: Trials, chain: Chain, rule: Rule, answered: readonly number[]): boolean {
  const held = whole.concerned(rule);
  if (!held) return false;
  if (held.isEmpty() || answered.some((message) => held.has(message))) return true;
  const [first] = chain.entries;
  const edit = first && moveBefore(chain, rule.id, first.id);
  const moved = edit && applyEdit(chain, edit);
  return moved?.ok === true && whole.changed(chain, moved.chain, held).length === 0;
}
