import { type EntryFate, type FateEngine, traverse } from '../fates/traverse';
import type { FurtherAction } from '../rules/further-actions';
import type { Action, Chain, ChainEntry, Rule, ScriptBlock, TestTree } from '../rules/rule';
import { atomKey, type ScriptAtom } from './atoms';
import type { Bitmap } from './bitmap';
import { type AtomBitmaps, holds, trafficOf } from './conditions';
import { outcomePrefix, readOutcome } from './opaque';
import { actionAtom, heldBy, scriptAtom } from './program';
import { BitmapAlgebra, FlowState } from './state';

/** The flow of the stored mail through a chain. */
export interface Flow {
  /** Number of messages. */
  readonly count: number;
  /** Number of messages that take part: the whole that counts are part of. */
  readonly total: number;
  /** In chain order; rules that are off reach and fire nothing. */
  readonly entries: readonly EntryFlow[];
  readonly fates: FlowState;
}

export interface EntryFlow {
  readonly entry: ChainEntry;
  /** No earlier rule stopped the message, and no earlier rule of its linked run fired. */
  readonly reached: Bitmap;
  /** Matches the rule (tests and no exception), reached or not. For a script block: acted on. */
  readonly held: Bitmap;
  /** Reached, and exempt by an exception. */
  readonly exempt: Bitmap;
  readonly fired: Bitmap;
  /** Stopped here. */
  readonly stopped: Bitmap;
}

/**
 * Runs a chain over all messages at once. `atoms` must contain every atom of the chain; throws otherwise. `checkpoint`
 * is called before each entry, and may throw to cancel.
 */
export function runFlow(chain: Chain, atoms: AtomBitmaps, count: number, checkpoint: () => void = () => {}): Flow {
  const engine = new FlowEngine(atoms, count);
  const entries: EntryFlow[] = [];
  traverse(chain, engine, (fate) => entries.push(engine.flowOf(fate)), checkpoint);
  return { count, total: engine.state.traffic.count(), entries, fates: engine.state };
}

class FlowEngine implements FateEngine<Bitmap> {
  readonly #algebra: BitmapAlgebra;
  readonly state: FlowState;
  /** Messages exempt from the current rule. */
  #exempt: Bitmap | null = null;
  /** Messages that the current script block has done something to. */
  #acted: Bitmap | null = null;

  constructor(
    readonly atoms: AtomBitmaps,
    readonly count: number,
  ) {
    this.#algebra = new BitmapAlgebra(count);
    this.state = new FlowState(count, trafficOf(atoms) ?? undefined, this.#algebra);
  }

  condition(rule: Rule): Bitmap {
    const { held, exempt } = heldBy(rule, this.atoms, this.state);
    this.#exempt = exempt;
    return held;
  }

  holds(tests: TestTree): Bitmap {
    return holds(tests, this.atoms, this.state);
  }

  runUnknown(what: (Action & FurtherAction) | ScriptBlock, when: Bitmap): void {
    const isBlock = 'kind' in what;
    const script = isBlock ? scriptAtom(what.text, what.requires, what.before) : actionAtom(what);
    runScript(script, when, this.state, this.atoms, isBlock ? (messages) => this.acted(messages) : () => {});
  }

  acted(messages: Bitmap): void {
    this.#acted = this.#acted?.or(messages) ?? messages;
  }

  ending(fired: Bitmap): Bitmap {
    return fired;
  }

  /** The flow of an entry, reported when it is done. */
  flowOf({ written, entry, condition, reached, fired, ends }: EntryFate<Bitmap>): EntryFlow {
    const { none } = this.#algebra;
    if (entry.kind === 'script') {
      const acted = this.#acted?.or(ends) ?? ends;
      this.#acted = null;
      return { entry: written, reached, held: acted, exempt: none, fired: acted, stopped: ends };
    }
    const exempt = entry.on && this.#exempt ? reached.and(this.#exempt) : none;
    return { entry: written, reached, held: condition, exempt, fired, stopped: ends };
  }
}

/** Applies the outcomes of a script block; reports to `acted` the messages with any. */
function runScript(
  script: ScriptAtom,
  messages: Bitmap,
  state: FlowState,
  atoms: AtomBitmaps,
  acted: (messages: Bitmap) => void,
): void {
  const key = atomKey(script);
  if (!atoms.has(key)) throw new Error(`the script ${key} was never run`);
  const prefix = outcomePrefix(key);
  for (const [outcome, having] of atoms) {
    if (!outcome.startsWith(prefix)) continue;
    const here = messages.and(having);
    const { taken, stopped, failed } = readOutcome(outcome);
    for (const action of taken) state.act(action, here);
    if (taken.length > 0) acted(here);
    if (failed) state.fail(here);
    else if (stopped) state.stop(here);
  }
}
