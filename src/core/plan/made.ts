import { type Destination, destinationKey, destinationOf } from '../fates/destination';
import type { Clock } from '../mail/arrival';
import { compareChains } from '../reason/equivalence';
import type { Knowledge } from '../reason/knowledge';
import { maybeWitness, type Witness } from '../reason/witness';
import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { interpreter } from '../sieve/interpret/interpret';
import { ARRIVAL, worldFor } from '../sieve/interpret/world';
import { elementAt } from '../text/lookup';
import { instead, MOST_OTHERS, type Stage } from './stage';
import { stepWords } from './step-words';
import type { Trials } from './trials';

/**
 * A made-up message that two changes treat differently which give the same answer and treat all stored mail alike: it asks
 * which of them is meant for mail to come.
 */
export interface MadeQuestion {
  /** RFC 5322. */
  readonly text: string;
  /** The index of the answer that the changes give. */
  readonly answer: number;
  readonly options: readonly MadeOption[];
}

export interface MadeOption {
  readonly destination: Destination;
  /** Whether it goes there with the chain as it is. */
  readonly asNow: boolean;
  /** What the change does; empty where the message goes there without any. */
  readonly title: string;
  /** With the change, and all other steps of the plan. */
  readonly chain: Chain;
}

interface Planned {
  /** The chain as it is, and with all steps of the plan. */
  readonly base: Chain;
  readonly now: Chain;
  /** All stored mail. */
  readonly whole: Trials;
  readonly knowledge: Knowledge;
  /** Whether a change breaks what the user expects. */
  readonly breaks: (before: Chain, after: Chain) => boolean;
}

/** How near in its score another change must be to be asked about, and how many questions there are at most. */
const NEAR = 1.5;
const MOST = 3;

/** One question for each answer that could be given in another way, as likely and alike for all stored mail. */
export function madeQuestions(stages: readonly Stage[], planned: Planned): MadeQuestion[] {
  const { now, whole, breaks } = planned;
  const found: MadeQuestion[] = [];
  const steps = stages.flatMap(({ step }) => step ?? []);
  for (const stage of stages) {
    if (found.length >= MOST) break;
    const { step, best, before, others } = stage;
    if (!step || !best) continue;
    const later = steps.slice(steps.indexOf(step) + 1);
    const near = others.filter(({ score }) => score > best.score - NEAR).slice(0, MOST_OTHERS);
    for (const other of near) {
      const chain = instead(stage, other, later);
      if (!chain || whole.changed(now, chain).length > 0 || breaks(now, chain)) continue;
      const ways = [
        { title: step.title, chain: now },
        { title: stepWords(before, other.edits), chain },
      ] as const;
      const question = maybeQuestion(ways, step.answer ?? 0, planned);
      if (!question) continue;
      found.push(question);
      break;
    }
  }
  return found;
}

interface Way {
  readonly title: string;
  readonly chain: Chain;
}

/** Null if every message goes to the same places, or that is undecided. */
function maybeQuestion(
  [taken, other]: readonly [Way, Way],
  answer: number,
  { base, knowledge }: Planned,
): MadeQuestion | null {
  const compared = compareChains(taken.chain, other.chain, { knowledge });
  if (compared.verdict !== 'different') return null;
  const clock: Clock = { ...ARRIVAL, fixed: knowledge.clock };
  const [underTaken, underOther] = [taken, other].map(({ chain }) => destinations(chain, clock)) as [Ends, Ends];
  const isTold = (one: Witness) => destinationKey(underTaken(one)) !== destinationKey(underOther(one));
  const witness = plainer(compared.witness).find(isTold);
  if (!witness) return null;
  const here = destinations(base, clock)(witness);
  const options = [taken, other].map(({ title, chain }, at): MadeOption => {
    const destination = (at === 0 ? underTaken : underOther)(witness);
    return { destination, asNow: destinationKey(destination) === destinationKey(here), title, chain };
  });
  if (!options.some(({ asNow }) => asNow)) options.push({ destination: here, asNow: true, title: '', chain: base });
  return { text: witness.text(), answer, options };
}

/** Names, by their indexes, the texts of messages that a chain brings where they are wanted. */
export function metByText(
  wanted: readonly { readonly text: string; readonly destination: Destination }[],
  clock: Clock,
): (chain: Chain) => ReadonlySet<number> {
  const witnesses = wanted.map(({ text }) => maybeWitness(new TextEncoder().encode(text), null));
  const known = new WeakMap<Chain, ReadonlySet<number>>();
  return (chain) => {
    const before = known.get(chain);
    if (before) return before;
    const end = destinations(chain, clock);
    const isMet = (witness: Witness | null, at: number) =>
      witness !== null && destinationKey(end(witness)) === destinationKey(elementAt(wanted, at).destination);
    const met = new Set(witnesses.flatMap((witness, at) => (isMet(witness, at) ? at : [])));
    known.set(chain, met);
    return met;
  };
}

type Ends = (witness: Witness) => Destination;

function destinations(chain: Chain, clock: Clock): Ends {
  const run = interpreter(sieveFromChain(chain).script);
  return ({ message, envelope }) => destinationOf(run(message, envelope, { world: worldFor(message, clock) }).fate);
}

/** Longer ones are not shown. */
const MOST_LETTERS = 20_000;
/** Rules are hardly ever about these. */
const PLAIN_SUBJECT = 'Subject: Hello';
const PLAIN_NAME = 'someone';

/** The same message, the plainest first: of a plain sender with a plain subject, with the subject, without padding, and as it is. */
function plainer(witness: Witness): Witness[] {
  const { open, envelope } = witness;
  const plain = open.replace(/^Subject:.*$/im, PLAIN_SUBJECT);
  const texts = [plain.replace(/^From:.*@([\w.-]+).*$/im, `From: ${PLAIN_NAME}@$1`), plain, open];
  const shorter = texts.flatMap((text) => maybeWitness(new TextEncoder().encode(text), envelope.to) ?? []);
  return [...shorter, witness].filter((one) => one.open.length <= MOST_LETTERS && one.text().length <= MOST_LETTERS);
}
