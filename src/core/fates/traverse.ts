import { inContext } from '../rules/context';
import { isFurther } from '../rules/further-action-nodes';
import type { FurtherAction } from '../rules/further-actions';
import type { Action, Chain, ChainEntry, Rule, ScriptBlock, TestTree } from '../rules/rule';
import { blockSteps, type Step } from '../rules/statements';
import { elementAt } from '../text/lookup';
import type { FateState } from './state';

/** What an algebra adds to the traversal of a chain: evaluating tests, and what only the interpreter knows. */
export interface FateEngine<T> {
  readonly state: FateState<T>;
  /** Where a rule's tests are true and no exception is. */
  condition(rule: Rule): T;
  /** Where the tests of a script block are true. */
  holds(tests: TestTree): T;
  /** Runs an action or a block that only the interpreter knows. */
  runUnknown(what: (Action & FurtherAction) | ScriptBlock, when: T): void;
  /** Called with the messages that a script block does something to. */
  acted?(when: T): void;
  /** What a firing rule stops, in the form that is removed from `alive`: `fired`, or its intersection with `alive`. */
  ending(fired: T, condition: T, claimed: T): T;
}

/** The result for one entry. */
export interface EntryFate<T> {
  /** As written, and with its context. */
  readonly written: ChainEntry;
  readonly entry: ChainEntry;
  /** For a rule: its tests are true and no exception is, tried or not; everything for a block. */
  readonly condition: T;
  /** Tried: no earlier rule has stopped the message, and none of its run has fired. */
  readonly reached: T;
  /** For a block: the same as reached. */
  readonly fired: T;
  /** Stopped: later entries do not see it. */
  readonly ends: T;
}

/**
 * Traverses a chain and applies its entries; calls `visit` for each. `checkpoint` is called before each entry, and may
 * throw to cancel.
 */
export function traverse<T>(
  chain: Chain,
  engine: FateEngine<T>,
  visit: (fate: EntryFate<T>) => void,
  checkpoint: () => void = () => {},
): void {
  const { state } = engine;
  const { algebra } = state;
  // Among messages still alive, a rule of the current run has fired exactly where its condition is true.
  let claimed = algebra.none;
  for (const [place, entry] of inContext(chain).entries.entries()) {
    checkpoint();
    const written = elementAt(chain.entries, place);
    const isBlock = entry.kind === 'script';
    if (isBlock || entry.link === 'always') claimed = algebra.none;
    const condition = isBlock ? algebra.all : engine.condition(entry);
    if (!entry.on) {
      const { none } = algebra;
      visit({ written, entry, condition, reached: none, fired: none, ends: none });
      continue;
    }
    if (isBlock) {
      const reached = state.alive;
      runBlock(entry, reached, engine);
      visit({ written, entry, condition, reached, fired: reached, ends: algebra.without(reached, state.alive) });
      continue;
    }
    const reached = claimed === algebra.none ? state.alive : algebra.without(state.alive, claimed);
    const fired = algebra.and(reached, condition);
    for (const action of entry.actions) act(action, fired, engine);
    const ends = entry.ending === 'stop' ? engine.ending(fired, condition, claimed) : algebra.none;
    if (entry.ending === 'stop') state.stop(ends);
    claimed = claimed === algebra.none ? condition : algebra.or(claimed, condition);
    visit({ written, entry, condition, reached, fired, ends });
  }
  state.finish();
}

function act<T>(action: Action, when: T, engine: FateEngine<T>): void {
  if (isFurther(action)) engine.runUnknown(action, when);
  else engine.state.act(action, when);
}

function runBlock<T>(block: ScriptBlock, when: T, engine: FateEngine<T>): void {
  const steps = blockSteps(block);
  if (steps) runSteps(steps, when, engine);
  else engine.runUnknown(block, when);
}

function runSteps<T>(steps: readonly Step[], when: T, engine: FateEngine<T>): void {
  const { state } = engine;
  const { algebra } = state;
  for (const step of steps) {
    const here = algebra.and(when, state.alive);
    switch (step.kind) {
      case 'act':
        act(step.action, here, engine);
        engine.acted?.(here);
        break;
      case 'stop':
        state.stop(here);
        break;
      case 'choose': {
        let rest = here;
        for (const { condition, body } of step.branches) {
          const holds = engine.holds(condition);
          runSteps(body, algebra.and(rest, holds), engine);
          rest = algebra.without(rest, holds);
        }
        break;
      }
      default:
        step satisfies never;
    }
  }
}
