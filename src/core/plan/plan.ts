import type { Finding } from '../audit/finding';
import type { Valued } from '../audit/stored';
import type { AtomBitmaps } from '../flow/conditions';
import { applyEdits, type Edit } from '../rules/edit';
import { rebase } from '../rules/rebase';
import type { Chain } from '../rules/rule';
import { elementAt } from '../text/lookup';
import { type Candidate, candidatesAfter, candidatesFor, openCandidates, silences } from './candidates';
import { type Destination, destinationKey } from './destination';
import { type Question, questionsFor } from './questions';
import { stepWords } from './step-words';
import { isMet, type Proposal, proposalsFor, type Wish } from './synthesis';
import { type Evaluate, Trials } from './trials';
import { concerned, type Effect, effectOf } from './weigh';
import { type Workshop, wholeOf, workshopFor } from './workshop';

export interface PlanInput {
  readonly chain: Chain;
  readonly mail: Valued;
  /** The tests of the chain over the stored mail. */
  readonly atoms: AtomBitmaps;
  readonly evaluate: Evaluate;
  readonly findings: readonly Finding[];
  readonly answers: readonly Answer[];
  /** May throw to cancel. */
  readonly checkpoint?: () => void;
}

/** So must a stored message end, and those like it. */
export interface Answer {
  readonly message: number;
  readonly destination: Destination;
}

export interface PlanStep {
  readonly part: 'tidy' | 'mend' | 'answer';
  readonly title: string;
  /** For the chain with the steps before. */
  readonly edits: readonly Edit[];
  /** Keys of the findings that it answers. */
  readonly findings: readonly string[];
  /** What it does to all stored mail; messages are named by their numbers. */
  readonly effect: Effect;
  /** Numbers of the stored messages whose fate it changes. */
  readonly messages: readonly number[];
}

export interface PlannedQuestion {
  readonly message: number;
  readonly options: readonly PlannedOption[];
  /** Keys of the findings that the answer settles. */
  readonly findings: readonly string[];
  readonly worth: number;
}

export interface PlannedOption {
  readonly destination: Destination;
  readonly asNow: boolean;
  /** Stored messages that would go there with it; for as it is now, those that would stay. */
  readonly messages: number;
  /** The change behind it, for the chain of the plan; none for as it is now, and where no change is known. */
  readonly edits: readonly Edit[];
}

export interface Plan {
  readonly steps: readonly PlanStep[];
  readonly questions: readonly PlannedQuestion[];
  /** With all steps taken. */
  readonly chain: Chain;
}

const MOST_QUESTIONS = 12;
/** How many changes that give an answer are weighed. */
const MOST_WEIGHED = 120;
/** How many of them are tried on all mail. */
const MOST_EXACT = 8;

/** Works out what to do with a chain, from what the audit found, what the user's filing tells and what they answered. */
export const planFor = ({ answers, ...input }: PlanInput): Plan => new Planner(input).plan(answers);

/** Plans for one chain and one mailbox. What needs no answer is worked out once, so that each answer is followed at once. */
export class Planner {
  readonly #input: Omit<PlanInput, 'answers'>;
  readonly #whole: Trials;
  #always: readonly number[] = [];
  #known: Prepared | null = null;
  #last: Last | null = null;

  constructor(input: Omit<PlanInput, 'answers'>) {
    this.#input = input;
    const { atoms, evaluate, mail, checkpoint } = input;
    this.#whole = new Trials(atoms, evaluate, mail.mail.messages.length, checkpoint);
  }

  plan(answers: readonly Answer[]): Plan {
    const { chain } = this.#input;
    const prepared = this.#preparedFor(answers.map(({ message }) => message));
    const { workshop } = prepared;
    const wishes = answers.map(({ message, destination }) => ({ index: workshop.indexOf(message), destination }));
    const metBy = (one: Chain) => wishes.filter((wish) => isMet(one, wish, workshop));
    const isKept = metBy(chain).every((wish) => isMet(prepared.mended.chain, wish, workshop));
    const mended = isKept ? prepared.mended : this.#mended(prepared, prepared.first, metBy);
    const stages = this.#stages(mended, wishes, prepared);
    const current = stages.at(-1)?.after ?? mended.chain;
    const steps = [...mended.steps, ...stages.flatMap(({ step }) => step ?? [])];
    const met = metBy(current);
    const known = this.#candidates(mended, current, stages, { prepared, met, isKept });
    this.#last = { mended, stages, known, chain: current };
    let later = mended.steps.length;
    const others = stages.flatMap((stage) => {
      if (!stage.step) return [];
      later++;
      return otherwise(stage, current, steps.slice(later), workshop);
    });
    const candidates = openCandidates([...known, ...others], current, met, workshop);
    const asked = new Set(wishes.map(({ index }) => index));
    const questions = questionsFor(current, candidates, workshop, asked, MOST_QUESTIONS);
    return { steps, questions: questions.map((one) => exactly(one, current, workshop, this.#whole)), chain: current };
  }

  /** What each answer changes, one after the other; what earlier plans found for the same answers is kept. */
  #stages(mended: Mended, wishes: readonly Wish[], prepared: Prepared): Stage[] {
    const { workshop } = prepared;
    const metBy = (one: Chain) => wishes.filter((wish) => isMet(one, wish, workshop));
    const stages: Stage[] = [];
    let current = mended.chain;
    const known = this.#last?.mended === mended ? this.#last.stages : [];
    for (const [at, wish] of wishes.entries()) {
      const before = known[at];
      const isSame = before && before.before === current && isSameWish(before.wish, wish);
      // What was chosen then must keep the answers given since.
      if (isSame && metBy(current).every((one) => isMet(before.after, one, workshop))) stages.push(before);
      else stages.push(this.#stage(wish, current, metBy(current), prepared));
      current = stages.at(-1)?.after ?? current;
    }
    return stages;
  }

  #stage(wish: Wish, before: Chain, met: readonly Wish[], prepared: Prepared): Stage {
    const none = { wish, before, after: before, step: null, best: null, others: [] };
    if (isMet(before, wish, prepared.workshop)) return none;
    const proposals = proposalsFor(before, wish, prepared.workshop, met, MOST_WEIGHED);
    const best = this.#harmless(proposals, before, wish, prepared);
    if (!best) return none;
    const title = stepWords(before, best.edits);
    const step = this.#step('answer', before, { ...best, title, findings: [] }, prepared.exact);
    return { wish, before, after: best.chain, step, best, others: proposals.filter((one) => one !== best) };
  }

  /** Candidates for the chain as the answers leave it: from those of the last plan, if it led there, else from the mended chain. */
  #candidates(
    mended: Mended,
    chain: Chain,
    stages: readonly Stage[],
    { prepared, met, isKept }: { readonly prepared: Prepared; readonly met: readonly Wish[]; readonly isKept: boolean },
  ): readonly Candidate[] {
    const { chain: base, findings } = this.#input;
    const last = this.#last;
    const isOnTheWay =
      last?.mended === mended && stages.some(({ before, after }) => before === last.chain || after === last.chain);
    if (last && isOnTheWay) {
      const earlier = { base, findings, known: last.known, before: last.chain };
      return last.chain === chain ? last.known : candidatesAfter(earlier, chain, prepared.workshop, met);
    }
    const first = { base, findings, known: prepared.first, before: base };
    const known = isKept ? prepared.after : candidatesAfter(first, mended.chain, prepared.workshop, met);
    if (chain === mended.chain) return known;
    return candidatesAfter({ base, findings, known, before: mended.chain }, chain, prepared.workshop, met);
  }

  /** What needs no answer, with these messages in the sample. */
  #preparedFor(messages: readonly number[]): Prepared {
    const isSampled = messages.every((message) => this.#known?.workshop.sample.messages.includes(message));
    if (this.#known && isSampled) return this.#known;
    this.#always = [...new Set([...this.#always, ...messages])];
    const { chain, mail, atoms, evaluate, findings, checkpoint } = this.#input;
    const workshop = workshopFor(chain, mail, atoms, evaluate, this.#always, checkpoint);
    const exact = wholeOf(workshop, chain, this.#whole);
    const first = candidatesFor(chain, findings, workshop);
    const mended = this.#mended({ workshop, exact }, first, () => []);
    const after = candidatesAfter({ base: chain, findings, known: first, before: chain }, mended.chain, workshop, []);
    this.#last = null;
    this.#known = { workshop, exact, first, mended, after };
    return this.#known;
  }

  /** `metBy`: the wishes that a chain meets; no mend takes one of them back. */
  #mended(
    { workshop, exact }: Pick<Prepared, 'workshop' | 'exact'>,
    first: readonly Candidate[],
    metBy: (chain: Chain) => readonly Wish[],
  ): Mended {
    const { chain } = this.#input;
    const steps: PlanStep[] = [];
    let current = chain;
    // What people mean more often comes first; the rest may not be needed any more then.
    for (const candidate of first.filter(isOneSided).toSorted((a, b) => a.cost - b.cost)) {
      const again = maybeOnto(chain, candidate, current, workshop);
      if (!again || !isOneSided(again)) continue;
      if (!metBy(current).every((wish) => isMet(again.chain, wish, workshop))) continue;
      // A sample may lack the one message that a change would harm.
      const step = this.#step('mend', current, again, exact);
      if (!isOneSided(step)) continue;
      steps.push(step);
      current = again.chain;
    }
    return { steps, chain: current };
  }

  /** The likeliest change that loses no mail and sends none away unasked; if there is none among a few, the likeliest. */
  #harmless(proposals: readonly Proposal[], chain: Chain, wish: Wish, { workshop, exact }: Prepared): Proposal | null {
    const message = elementAt(workshop.sample.messages, wish.index);
    const isHarmless = ({ chain: after, edits }: Proposal) => {
      const { moved } = effectOf(exact, [chain, after], edits);
      const asked = moved.find(({ index }) => index === message)?.harm ?? null;
      return moved.every(({ harm }) => (harm !== 'lost' && harm !== 'leaked') || harm === asked);
    };
    return proposals.slice(0, MOST_EXACT).find(isHarmless) ?? proposals[0] ?? null;
  }

  #step(part: PlanStep['part'], before: Chain, { title, edits, chain, findings }: Taken, exact: Workshop): PlanStep {
    const messages = changedBetween(this.#whole, [before, chain], edits);
    return { part, title, edits, findings, effect: effectOf(exact, [before, chain], edits), messages };
  }
}

/** What needs no answer. */
interface Prepared {
  readonly workshop: Workshop;
  /** With all mail. */
  readonly exact: Workshop;
  /** For the chain as it is. */
  readonly first: readonly Candidate[];
  readonly mended: Mended;
  /** For the mended chain. */
  readonly after: readonly Candidate[];
}

interface Mended {
  readonly steps: readonly PlanStep[];
  readonly chain: Chain;
}

/** A question with what its options would do to all stored mail. */
function exactly(
  { index, options, ...rest }: Question,
  chain: Chain,
  { sample }: Workshop,
  whole: Trials,
): PlannedQuestion {
  const message = elementAt(sample.messages, index);
  const here = whole.placeOf(chain, message);
  const counted = options.map(({ destination, asNow, candidate }): PlannedOption => {
    if (!candidate) return { destination, asNow, messages: 1, edits: [] };
    const { chain: after, edits } = candidate;
    const key = destinationKey(destination);
    const messages = changedBetween(whole, [chain, after], edits).filter(
      (one) => whole.placeOf(chain, one) === here && whole.placeOf(after, one).key === key,
    ).length;
    return { destination, asNow, messages, edits };
  });
  const most = Math.max(...counted.map(({ messages }) => messages));
  return { ...rest, message, options: counted.map((one) => (one.asNow ? { ...one, messages: most } : one)) };
}

/** The stored messages whose fate differs between two chains; `edits` lead from the one to the other. */
function changedBetween(whole: Trials, chains: readonly [Chain, Chain], edits: readonly Edit[]): number[] {
  return whole.changed(...chains, concerned(whole, chains, edits) ?? undefined);
}

type Taken = Pick<Candidate, 'title' | 'edits' | 'chain' | 'findings'>;

/** What one answer changes. */
interface Stage {
  readonly wish: Wish;
  readonly before: Chain;
  readonly after: Chain;
  /** Null if the answer is met already, or no change gives it. */
  readonly step: PlanStep | null;
  /** The change that was chosen, and others that would have given the answer too, most likely first. */
  readonly best: Proposal | null;
  readonly others: readonly Proposal[];
}

const isSameWish = (a: Wish, b: Wish): boolean =>
  a.index === b.index && destinationKey(a.destination) === destinationKey(b.destination);

/** The last plan: the next one mostly has one answer more. */
interface Last {
  readonly mended: Mended;
  readonly stages: readonly Stage[];
  /** Candidates for the chain. */
  readonly known: readonly Candidate[];
  readonly chain: Chain;
}

/** How much less likely than the chosen change another may be, and how many are considered. */
const MARGIN = 4;
const MOST_OTHERS = 6;
/** How little a difference of scores tells, where the user's filing does not. */
const WARMTH = 1.5;

/** The chain as it were if one of the others had been chosen, where stored mail tells them apart. */
function otherwise(
  { before, best, others }: Stage,
  now: Chain,
  later: readonly PlanStep[],
  workshop: Workshop,
): Candidate[] {
  if (!best) return [];
  const near = others.filter(({ score }) => score > best.score - MARGIN).slice(0, MOST_OTHERS);
  return near.flatMap((other): Candidate[] => {
    let [from, chain] = [best.chain, other.chain];
    for (const { edits } of later) {
      const found = rebase(from, edits, chain);
      const next = applyEdits(from, edits);
      if (!found.ok || !next.ok) return [];
      [from, chain] = [next.chain, found.chain];
    }
    const effect = effectOf(workshop, [now, chain], [...best.edits, ...other.edits]);
    if (effect.count === 0) return [];
    const score = other.score - best.score;
    const chance = 1 / (1 + Math.exp(-score / WARMTH));
    const title = stepWords(before, other.edits);
    return [{ ...other, chain, effect, score, title, findings: [], chance, weight: effect.count }];
  });
}

/** A candidate made for one chain, with its effect on another. */
function maybeOnto(base: Chain, candidate: Candidate, onto: Chain, workshop: Workshop): Candidate | null {
  if (onto === base) return candidate;
  const found = rebase(base, candidate.edits, onto);
  if (!found.ok || found.chain === onto) return null;
  const effect = effectOf(workshop, [onto, found.chain], found.edits);
  return { ...candidate, edits: found.edits, chain: found.chain, effect };
}

/** Agreement of at least this many messages, and of hardly any against it. */
const LEAST_AGREEING = 5;
const FOR_ONE_AGAINST = 12;
/** Before a rule is silenced, nearly all of its mail speaks for that. */
const NEARLY_ALL = 0.9;

function isOneSided({ edits, effect: { agree, against, moved, count } }: Pick<Candidate, 'edits' | 'effect'>): boolean {
  if (moved.some(({ harm }) => harm !== null)) return false;
  if (edits.some(silences) && agree < count * NEARLY_ALL) return false;
  return agree >= LEAST_AGREEING && against * FOR_ONE_AGAINST <= agree && agree * 2 >= count;
}
