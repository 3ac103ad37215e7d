import { Bitmap } from '../flow/bitmap';
import { type Flow, runFlow } from '../flow/flow';
import { firing } from '../flow/trace';
import type { Clock } from '../mail/arrival';
import type { Witness } from '../reason/witness';
import { isFurther } from '../rules/further-action-nodes';
import { profileOf } from '../rules/profile';
import { type Chain, type ChainEntry, conditionOf, looksAtFlags, type Rule } from '../rules/rule';
import { fateKey } from '../sieve/interpret/fate';
import { worldFor } from '../sieve/interpret/world';
import { elementAt } from '../text/lookup';
import { type MailBody, mailBody } from './known-mail';
import type { AuditMemory } from './memory';

/** Results for example messages under a chain. */
export interface MadeUpBody extends MailBody {
  readonly witnesses: readonly Witness[];
  /** Whether the interpreter agrees with the fate of an example message. */
  readonly confirms: (index: number) => boolean;
  /** Messages that the user keeps to try on the chain. */
  readonly kept: Bitmap;
  /** A confirmed message of a set for which something holds, asked for one message at a time: a kept one, or the shortest. */
  readonly maybeFirst: (among: Bitmap, holds: (index: number) => boolean) => Witness | null;
}

/** The chain as a script for the interpreter, made when it is first needed. `checkpoint` may throw to cancel. */
export function firingOnDemand(chain: Chain, checkpoint: () => void): () => ReturnType<typeof firing> {
  let run: ReturnType<typeof firing> | null = null;
  return () => {
    run ??= firing(chain, checkpoint);
    return run;
  };
}

interface Asked {
  readonly memory: AuditMemory;
  readonly clock: Clock;
  readonly firing: () => ReturnType<typeof firing>;
  /** May throw to cancel. */
  readonly checkpoint: () => void;
}

/** The results for all stored example messages under a chain. */
export function madeUpBody(chain: Chain, { memory, clock, firing: run, checkpoint }: Asked): MadeUpBody {
  const witnesses = [...memory.witnesses];
  const atoms = memory.atomsFor(chain);
  const flow = runFlow(chain, atoms, witnesses.length, checkpoint);
  const known = new Map<number, boolean>();
  const confirm = (index: number): boolean => {
    checkpoint();
    const witness = elementAt(witnesses, index);
    const steps = profileOf(chain) ? null : maybeSteps(flow, index);
    if (steps && memory.wasSeen(witness, steps)) return true;
    const { fate, fired } = run()(witness.message, witness.envelope, worldFor(witness.message, clock));
    if (fateKey(fate) !== fateKey(flow.fates.fateOf(index))) return false;
    const ids = new Set([...fired].map(({ id }) => id));
    if (!flow.entries.every(({ entry, fired: own }) => own.has(index) === ids.has(entry.id))) return false;
    if (steps) memory.addSeen(witness, steps);
    return true;
  };
  const confirms = (index: number): boolean => {
    const before = known.get(index);
    if (before !== undefined) return before;
    const confirmed = confirm(index);
    known.set(index, confirmed);
    return confirmed;
  };
  const kept = Bitmap.of(
    witnesses.length,
    witnesses.flatMap((witness, index) => (memory.isKept(witness) ? [index] : [])),
  );
  const lengthOf = (index: number) => (kept.has(index) ? 0 : elementAt(witnesses, index).open.length);
  return {
    ...mailBody(chain, flow, atoms, checkpoint),
    witnesses,
    confirms,
    kept,
    maybeFirst: (among, holds) => {
      const shorterFirst = [...among.members()].sort((a, b) => lengthOf(a) - lengthOf(b));
      const found = shorterFirst.find((index) => holds(index) && confirms(index));
      return found === undefined ? null : elementAt(witnesses, found);
    },
  };
}

/**
 * What the interpreter must confirm for a message: whether each reached rule matches, and what the firing rules do in
 * sequence. Each is independent, so confirmations from other chains are reused. Null if tests read flags, or a script
 * block decides. Precondition: no profile.
 */
function maybeSteps({ entries, fates }: Flow, index: number): string[] | null {
  const steps: string[] = [];
  const effects: string[] = [];
  for (const { entry, reached, fired } of entries) {
    if (!entry.on || !reached.has(index)) continue;
    const texts = textsOf(entry);
    if (!texts) return null;
    const fires = fired.has(index);
    steps.push(fires ? texts.holds : texts.fails);
    if (fires) effects.push(texts.does);
  }
  return [...steps, `${effects.join()} ${fateKey(fates.fateOf(index))}`];
}

interface EntryTexts {
  readonly holds: string;
  readonly fails: string;
  readonly does: string;
}

const texts = new WeakMap<Rule, EntryTexts | null>();

function textsOf(entry: ChainEntry): EntryTexts | null {
  if (entry.kind === 'script') return null;
  const known = texts.get(entry);
  if (known !== undefined) return known;
  const { tests, unless, actions, ending } = entry;
  const opaque = looksAtFlags(conditionOf(entry)) || actions.some(isFurther);
  const condition = JSON.stringify([tests, unless]);
  const found = opaque
    ? null
    : { holds: `holds ${condition}`, fails: `fails ${condition}`, does: JSON.stringify([actions, ending]) };
  texts.set(entry, found);
  return found;
}
