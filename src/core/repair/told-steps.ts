import type { Flow } from '../flow/flow';
import { firing } from '../flow/trace';
import type { Clock } from '../mail/arrival';
import { Knowledge } from '../reason/knowledge';
import { profileOf } from '../rules/profile';
import { cannotBeDone } from '../rules/profile-words';
import type { Chain, ChainEntry } from '../rules/rule';
import { sentenceOf } from '../rules/sentence';
import { quoted } from '../rules/words';
import { worldFor } from '../sieve/interpret/world';
import { isWorse, maybeTestOf, reachesOf, type Step, stepsBetween } from './steps';

/** A step by hand, as it is told. */
export interface ToldStep {
  readonly do: Step['do'];
  /** The name of the rule. */
  readonly rule: string;
  /** Whether it is on after the step. */
  readonly isOn: boolean;
  /** Counted from 1; null if the rule is gone, or where order means nothing. */
  readonly place: number | null;
  /** What the rule says before and after, in sentences; null where there is no rule. */
  readonly before: string | null;
  readonly after: string | null;
  /** What the program cannot do of it, with the nearest that it can. */
  readonly cannot: readonly string[];
  /** A message that shows whether the step was done right once all are done, and the folders where it must arrive. */
  readonly test: { readonly message: string; readonly folders: readonly string[] } | null;
}

export interface ToldSteps {
  readonly steps: readonly ToldStep[];
  /** Whether no state between the two chains loses, redirects or hides a message that neither of them does. */
  readonly isSafe: boolean;
}

interface Settings {
  /** The flow of the stored mail under the two chains. */
  readonly ends: readonly [Flow, Flow];
  /** The same under a state between them; a state for which it is null is taken to be unsafe. */
  readonly flowOf: (chain: Chain) => Flow | null;
  readonly clock: Clock;
  readonly knowledge?: Knowledge;
}

/** The steps by hand from one chain to the other, in an order that is safe for stored mail and by proof. */
export function toldSteps(from: Chain, to: Chain, settings: Settings): ToldSteps {
  const { ends, flowOf, clock, knowledge = new Knowledge() } = settings;
  const isUnsafe = (state: Chain) => {
    const flow = flowOf(state);
    return !flow || isWorse(flow, ends);
  };
  const { steps, isSafe } = stepsBetween(from, to, { knowledge, isUnsafe });
  const reachOf = reachesOf(knowledge);
  const profile = profileOf(to);
  const said = (entry: ChainEntry | null) => entry && sentenceOf(entry, profile);
  const run = firing(to);
  return {
    isSafe,
    steps: steps.map((step): ToldStep => {
      const { before, after, place } = step;
      const witness = maybeTestOf(step, from, to, reachOf);
      const fate = witness && run(witness.message, witness.envelope, worldFor(witness.message, clock)).fate;
      return {
        do: step.do,
        rule: (after ?? before)?.name ?? '',
        isOn: after?.on ?? false,
        place,
        before: said(before),
        after: said(after),
        cannot: profile && after?.kind === 'rule' ? cannotBeDone(after, profile) : [],
        test: witness && { message: witness.text(), folders: fate?.deliveries.map(({ folder }) => folder) ?? [] },
      };
    }),
  };
}

/** What is to be done, in a few words. */
export function stepTitle({ do: what, rule, place, isOn }: ToldStep): string {
  const at = place === null ? '' : ` at place ${place}`;
  switch (what) {
    case 'change':
      return `Change the rule ${quoted(rule)}`;
    case 'add':
      return `Add the rule ${quoted(rule)}${at}`;
    case 'move':
      return `Move the rule ${quoted(rule)}${place === null ? '' : ` to place ${place}`}`;
    case 'switch':
      return `Switch the rule ${quoted(rule)} ${isOn ? 'on' : 'off'}`;
    case 'delete':
      return `Delete the rule ${quoted(rule)}`;
    default:
      what satisfies never;
      return '';
  }
}
