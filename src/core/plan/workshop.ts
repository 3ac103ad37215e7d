import type { StoredMessage, Valued } from '../audit/stored';
import type { AtomBitmaps } from '../flow/conditions';
import { domainsOf } from '../mail/address';
import type { Chain } from '../rules/rule';
import { elementAt } from '../text/lookup';
import { foldersOfCopies } from './copies';
import type { Kept } from './filing';
import { projected, type Sample, sampleOf } from './sample';
import { type Evaluate, Trials } from './trials';

/** What all parts of a plan work with: a sample of the mailbox. Messages are named by their index in it. */
export interface Workshop {
  readonly trials: Trials;
  readonly mail: Valued;
  readonly sample: Sample;
  readonly messageOf: (index: number) => StoredMessage;
  readonly keptIn: (index: number) => Kept | null;
  /** How many messages it stands for. */
  readonly weightOf: (index: number) => number;
  /** The index of a message that is always in the sample. */
  readonly indexOf: (message: number) => number;
  /** Null for a message that is not in the sample. */
  readonly maybeIndexOf: (message: number) => number | null;
  /** Folders that only copies are filed into. */
  readonly copies: ReadonlySet<string>;
  /** The domains of the user's own addresses. */
  readonly ownDomains: ReadonlySet<string>;
}

/** The same with all mail as its own sample: exact, and slow. */
export function wholeOf({ mail, copies, ownDomains }: Workshop, whole: Trials, keptIn: KeptIn): Workshop {
  const all = Array.from({ length: mail.mail.messages.length }, (_, number) => number);
  return {
    trials: whole,
    mail,
    sample: { messages: all, weights: all.map(() => 1) },
    messageOf: (number) => mail.message(number),
    keptIn,
    weightOf: () => 1,
    indexOf: (message) => message,
    maybeIndexOf: (message) => message,
    copies,
    ownDomains,
  };
}

/** A chain and the mail that it runs over. */
interface Mailbox {
  readonly chain: Chain;
  readonly mail: Valued;
  readonly atoms: AtomBitmaps;
  readonly evaluate: Evaluate;
  readonly checkpoint?: () => void;
}

/** By the number of a message. */
type KeptIn = (message: number) => Kept | null;

/** `always` are the numbers of messages that must be in the sample. */
export function workshopFor(
  { chain, mail, atoms, evaluate, checkpoint = () => {} }: Mailbox,
  keptIn: KeptIn,
  always: readonly number[],
): Workshop {
  const sample = sampleOf(atoms, mail, keptIn, always);
  const { messages, weights } = sample;
  const indexes = new Map(messages.map((message, index) => [message, index]));
  const inSample: Evaluate = (wanted) => projected(evaluate(wanted), sample);
  const trials = new Trials(projected(atoms, sample), inSample, messages.length, checkpoint);
  return {
    trials,
    mail,
    sample,
    messageOf: (index) => mail.message(elementAt(messages, index)),
    keptIn: (index) => keptIn(elementAt(messages, index)),
    weightOf: (index) => elementAt(weights, index),
    indexOf: (message) => {
      const index = indexes.get(message);
      if (index === undefined) throw new Error(`message ${message} is not in the sample`);
      return index;
    },
    maybeIndexOf: (message) => indexes.get(message) ?? null,
    copies: foldersOfCopies(trials.flow(chain)),
    ownDomains: domainsOf(mail.mail.own),
  };
}
