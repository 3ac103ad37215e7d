import { inContext } from '../rules/context';
import { isFurther } from '../rules/further-action-nodes';
import type { Action, Chain, ChainEntry, Rule } from '../rules/rule';
import { blockSteps, type Step } from '../rules/steps';
import { atomKey, type ScriptAtom } from './atoms';
import { Bitmap } from './bitmap';
import { type AtomBitmaps, holds, trafficOf } from './conditions';
import { heldBy } from './held';
import { outcomePrefix, readOutcome } from './opaque';
import { actionAtom, scriptAtom } from './program';
import { FlowState } from './state';

/** How the stored mail runs through a chain. */
export interface Flow {
  /** Number of messages. */
  readonly count: number;
  /** Number of those that take part: what figures are a part of. */
  readonly total: number;
  /** In the order of the chain; rules that are off reach and fire nothing. */
  readonly entries: readonly EntryFlow[];
  readonly fates: FlowState;
}

export interface EntryFlow {
  readonly entry: ChainEntry;
  /** No earlier rule stopped the message, and no earlier rule of its linked run fired. */
  readonly reached: Bitmap;
  /** Tests hold and no exception does, whether or not the message reaches the rule. For a script block: it acts. */
  readonly held: Bitmap;
  /** Reached, tests hold, and an exception does too. */
  readonly exempt: Bitmap;
  readonly fired: Bitmap;
  /** What ends here. */
  readonly stopped: Bitmap;
}

/**
 * Runs a chain over all messages at once. `atoms` must hold every atom of the chain; throws where one is missing. `checkpoint` is
 * called before each entry, and may throw to cancel.
 */
export function runFlow(chain: Chain, atoms: AtomBitmaps, count: number, checkpoint: () => void = () => {}): Flow {
  const state = new FlowState(count, trafficOf(atoms) ?? undefined);
  const entries: EntryFlow[] = [];
  // What the run of linked rules at hand has fired so far.
  let runFired = state.none;
  for (const [place, entry] of inContext(chain).entries.entries()) {
    checkpoint();
    if (entry.kind === 'script' || entry.link === 'always') runFired = state.none;
    const result = entry.kind === 'script' ? runBlock(entry, state, atoms) : runRule(entry, state, atoms, runFired);
    // A script block is no part of a run.
    if (entry.kind === 'rule') runFired = runFired === state.none ? result.fired : runFired.or(result.fired);
    const written = chain.entries[place] as ChainEntry;
    entries.push(written === entry ? result : { ...result, entry: written });
  }
  state.finish();
  return { count, total: state.traffic.count(), entries, fates: state };
}

function runRule(rule: Rule, state: FlowState, atoms: AtomBitmaps, runFired: Bitmap): EntryFlow {
  const { none } = state;
  const { held, places, exempt } = heldBy(rule, atoms, state);
  if (!rule.on) return { entry: rule, reached: none, held, exempt: none, fired: none, stopped: none };
  const reached = runFired === none ? state.alive : state.alive.without(runFired);
  const fired = reached.andAt(held, places);
  for (const action of rule.actions) actOn(action, fired, state, atoms, places);
  if (rule.ending === 'stop') state.stop(fired, places);
  const stopped = rule.ending === 'stop' ? fired : none;
  return { entry: rule, reached, held, exempt: exempt ? reached.and(exempt) : none, fired, stopped };
}

function runBlock(block: Extract<ChainEntry, { kind: 'script' }>, state: FlowState, atoms: AtomBitmaps): EntryFlow {
  const { none } = state;
  if (!block.on) return { entry: block, reached: none, held: none, exempt: none, fired: none, stopped: none };
  const reached = state.alive;
  const steps = blockSteps(block);
  const acted = steps
    ? runSteps(steps, reached, state, atoms)
    : runScript(scriptAtom(block.text, block.requires, block.before), reached, state, atoms);
  const stopped = reached.without(state.alive);
  const fired = acted.or(stopped);
  return { entry: block, reached, held: fired, exempt: none, fired, stopped };
}

/** Runs steps over the messages of `mask` that are not stopped; returns those for which any action was taken. */
function runSteps(steps: readonly Step[], mask: Bitmap, state: FlowState, atoms: AtomBitmaps): Bitmap {
  let acted = new Bitmap(state.count);
  for (const step of steps) {
    const here = mask.and(state.alive);
    switch (step.kind) {
      case 'act':
        actOn(step.action, here, state, atoms);
        acted = acted.or(here);
        break;
      case 'stop':
        state.stop(here);
        break;
      case 'choose': {
        let rest = here;
        for (const branch of step.branches) {
          const taken = rest.and(holds(branch.condition, atoms, state));
          rest = rest.without(taken);
          acted = acted.or(runSteps(branch.body, taken, state, atoms));
        }
        break;
      }
      default:
        step satisfies never;
    }
  }
  return acted;
}

function actOn(
  action: Action,
  messages: Bitmap,
  state: FlowState,
  atoms: AtomBitmaps,
  places = messages.places(),
): void {
  if (isFurther(action)) runScript(actionAtom(action), messages, state, atoms);
  else state.act(action, messages, places);
}

/** Does what the interpreter found a piece of script to do; returns the messages for which it did anything. */
function runScript(script: ScriptAtom, messages: Bitmap, state: FlowState, atoms: AtomBitmaps): Bitmap {
  const key = atomKey(script);
  if (!atoms.has(key)) throw new Error(`the script ${key} was never run`);
  const prefix = outcomePrefix(key);
  let acted = new Bitmap(state.count);
  for (const [outcome, having] of atoms) {
    if (!outcome.startsWith(prefix)) continue;
    const here = messages.and(having);
    const { taken, stopped, failed } = readOutcome(outcome);
    for (const action of taken) state.act(action, here);
    if (taken.length > 0) acted = acted.or(here);
    if (failed) state.fail(here);
    else if (stopped) state.stop(here);
  }
  return acted;
}
