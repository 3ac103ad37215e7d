import { inContext } from '../rules/context';
import { isFurther } from '../rules/further-action-nodes';
import type { FurtherAction } from '../rules/further-actions';
import { endingOf, inPlace, isOneThing, type Profile, phasesOf, profileOf } from '../rules/profile';
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
  const profile = profileOf(chain);
  const placing = profile && isOneThing(profile) ? new Placing(profile, engine) : null;
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
    if (placing) placing.fire(entry, fired);
    else for (const action of (profile ? inPlace(entry, profile) : entry).actions) act(action, fired, engine);
    const stops = (profile ? endingOf(entry, profile) : entry.ending) === 'stop';
    const ends = stops ? engine.ending(fired, condition, claimed) : algebra.none;
    if (stops) state.stop(ends);
    claimed = claimed === algebra.none ? condition : algebra.or(claimed, condition);
    visit({ written, entry, condition, reached, fired, ends });
  }
  placing?.finish();
  state.finish();
}

/** Messages that are one thing to all rules: they are put into places once all rules have marked and sent them. */
class Placing<T> {
  readonly #first: Placed<T>[] = [];
  readonly #filed: Placed<T>[] = [];

  constructor(
    readonly profile: Profile,
    readonly engine: FateEngine<T>,
  ) {}

  /** Marks and sends, and remembers where the rule puts messages. */
  fire(rule: Rule, when: T): void {
    const { own, placed, isFirst } = phasesOf(rule, this.profile);
    for (const action of own) act(action, when, this.engine);
    if (placed.length > 0) (isFirst ? this.#first : this.#filed).push({ placed, when });
  }

  finish(): void {
    const { algebra } = this.engine.state;
    const { places } = this.profile;
    let settled = algebra.none;
    const put = (those: readonly Placed<T>[], isOnly: boolean) => {
      for (const { placed, when } of those) {
        const here = settled === algebra.none ? when : algebra.without(when, settled);
        for (const action of placed) act(action, here, this.engine);
        if (isOnly) settled = algebra.or(settled, when);
      }
    };
    put(this.#first, true);
    put(places === 'last' ? this.#filed.toReversed() : this.#filed, places !== 'several');
  }
}

interface Placed<T> {
  readonly placed: readonly Action[];
  readonly when: T;
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
