import type { Finding } from '../audit/finding';
import type { Valued } from '../audit/stored';
import { destinationKey } from '../fates/destination';
import type { AtomBitmaps } from '../flow/conditions';
import type { Flow } from '../flow/flow';
import { domainsOf } from '../mail/address';
import type { Knowledge } from '../reason/knowledge';
import { brokenIn, type Expectation } from '../repair/expectations';
import type { Edit } from '../rules/edit';
import { rebase } from '../rules/rebase';
import type { Chain } from '../rules/rule';
import { elementAt } from '../text/lookup';
import { type Candidate, candidatesAfter, candidatesFor, openCandidates } from './candidates';
import { keptPlaces } from './filing';
import { type MadeQuestion, madeQuestions } from './made';
import { isNearlyAll, isOneSided } from './one-sided';
import type { Answer, MetBeside, Plan, PlannedOption, PlannedQuestion, PlanStep, Said } from './planned';
import { type Question, questionsFor } from './questions';
import { isSameWish, likeIt, otherwise, type Stage, strayIn } from './stage';
import { stepWords } from './step-words';
import { isMet, type Proposal, proposalsFor, type Wish } from './synthesis';
import { type Evaluate, Trials } from './trials';
import { concerned, effectOf, sendsCopies } from './weigh';
import { type Workshop, wholeOf, workshopFor } from './workshop';

export interface PlanInput {
  readonly chain: Chain;
  readonly mail: Valued;
  /** The tests of the chain over the stored mail. */
  readonly atoms: AtomBitmaps;
  readonly evaluate: Evaluate;
  readonly findings: readonly Finding[];
  /** May throw to cancel. */
  readonly checkpoint?: () => void;
}

const MOST_QUESTIONS = 12;
/** How often the chain is looked at again after it was mended. */
const MOST_ROUNDS = 4;
/** How many changes that give an answer are weighed. */
const MOST_WEIGHED = 120;
/** How many of them are tried on all mail. */
const MOST_EXACT = 8;
/** How many more messages like the one asked about are brought where it belongs, if one change does not do it. */
const MOST_MORE = 3;

const NOTHING_BESIDE: MetBeside = () => new Set();

/**
 * Works out what to do with a chain, from what the audit found, what the user's filing tells and what they answered: for one
 * chain and one mailbox. What needs no answer is worked out once, so that each answer is followed at once.
 */
export class Planner {
  readonly #input: PlanInput;
  readonly #whole: Trials;
  #always: readonly number[] = [];
  #known: Prepared | null = null;
  #last: Last | null = null;
  #expectations: readonly Expectation[] = [];
  #metBeside: MetBeside = NOTHING_BESIDE;

  constructor(input: PlanInput) {
    this.#input = input;
    const { atoms, evaluate, mail, checkpoint } = input;
    this.#whole = new Trials(atoms, evaluate, mail.mail.messages.length, checkpoint);
  }

  plan({ answers, left = new Set(), skipped = [], expectations = [], metBeside = NOTHING_BESIDE }: Said): Plan {
    const { chain } = this.#input;
    this.#expectations = expectations;
    this.#metBeside = metBeside;
    const prepared = this.#preparedFor(
      answers.map(({ message }) => message),
      left,
    );
    const { workshop } = prepared;
    const wishes = answers.map(({ message, destination }) => ({ index: workshop.indexOf(message), destination }));
    const metBy = (one: Chain) => wishes.filter((wish) => isMet(one, wish, workshop));
    const isKept =
      metBy(chain).every((wish) => isMet(prepared.mended.chain, wish, workshop)) &&
      !this.#breaks(chain, prepared.mended.chain);
    const mended = isKept ? prepared.mended : this.#mended(prepared, prepared.first, left, metBy);
    const stages = this.#stages(mended, answers, wishes, prepared);
    const current = stages.at(-1)?.after ?? mended.chain;
    const steps = [...mended.steps, ...stages.flatMap(({ step }) => step ?? [])];
    const met = metBy(current);
    const known = this.#candidates(mended, current, stages, workshop, met);
    this.#last = { mended, stages, known, chain: current };
    let later = mended.steps.length;
    const others = stages.flatMap((stage) => {
      if (!stage.step) return [];
      later++;
      return otherwise(stage, current, steps.slice(later), workshop);
    });
    const wanted = [...known, ...others].filter(({ title }) => !left.has(title));
    const fixed = new Set(answers.flatMap((answer) => likeIt(answer, current, workshop)));
    const candidates = openCandidates(wanted, current, met, fixed, workshop);
    const open = new Set(candidates.flatMap(({ findings }) => findings));
    const decided = new Set(known.flatMap(({ findings }) => findings.filter((key) => !open.has(key))));
    const asked = new Set(wishes.map(({ index }) => index));
    const passed = new Set(skipped.flatMap((message) => workshop.maybeIndexOf(message) ?? []));
    const questions = questionsFor(current, candidates, workshop, { asked, skipped: passed }, MOST_QUESTIONS);
    return {
      steps,
      questions: questions.map((one) => exactly(one, current, workshop, this.#whole)),
      chain: current,
      settled: [...decided],
      unmet: wishes.flatMap((wish, at) => (isMet(current, wish, workshop) ? [] : [at])),
    };
  }

  /** What the last plan would ask about messages that are not stored. */
  made(knowledge: Knowledge): MadeQuestion[] {
    const { stages = [], chain: now } = this.#last ?? {};
    if (!now) return [];
    const { chain: base } = this.#input;
    const whole = this.#whole;
    return madeQuestions(stages, {
      base,
      now,
      whole,
      knowledge,
      breaks: (before, after) => this.#breaks(before, after),
    });
  }

  /** What each answer changes, one after the other; what earlier plans found for the same answers is kept. */
  #stages(mended: Mended, answers: readonly Answer[], wishes: readonly Wish[], prepared: Prepared): Stage[] {
    const { workshop } = prepared;
    const stages: Stage[] = [];
    let current = mended.chain;
    const known = this.#last?.mended === mended ? this.#last.stages : [];
    const take = (wish: Wish, answer: number): Stage => {
      const met = [...wishes, ...stages.map((stage) => stage.wish)].filter((one) => isMet(current, one, workshop));
      const before = known[stages.length];
      const isSame = before && before.before === current && isSameWish(before.wish, wish);
      // What was chosen then must keep the answers given since.
      const isKept = isSame && met.every((one) => isMet(before.after, one, workshop));
      const stage = isKept ? before : this.#stage(wish, answer, current, met, prepared);
      stages.push(stage);
      current = stage.after;
      return stage;
    };
    for (const [at, { scope, destination }] of answers.entries()) {
      const wish = wishes[at];
      if (wish) take(wish, at);
      for (let more = 0; scope && more < MOST_MORE; more++) {
        const index = strayIn(scope, destination, current, workshop);
        if (index === null || !take({ index, destination }, at).step) break;
      }
    }
    return stages;
  }

  #stage(wish: Wish, answer: number, before: Chain, met: readonly Wish[], prepared: Prepared): Stage {
    const none = { wish, before, after: before, step: null, best: null, others: [] };
    if (isMet(before, wish, prepared.workshop)) return none;
    const proposals = proposalsFor(before, wish, prepared.workshop, met, MOST_WEIGHED);
    const best = this.#harmless(proposals, before, wish, prepared);
    if (!best) return none;
    const title = stepWords(before, best.edits);
    const step = { ...this.#step('answer', before, { ...best, title, findings: [] }, prepared.exact), answer };
    return { wish, before, after: best.chain, step, best, others: proposals.filter((one) => one !== best) };
  }

  /** Candidates for the chain as the answers leave it: from those of the last plan, if it led there, else from the mended chain. */
  #candidates(
    mended: Mended,
    chain: Chain,
    stages: readonly Stage[],
    workshop: Workshop,
    met: readonly Wish[],
  ): readonly Candidate[] {
    const { chain: base, findings } = this.#input;
    const last = this.#last;
    const isOnTheWay =
      last?.mended === mended && stages.some(({ before, after }) => before === last.chain || after === last.chain);
    if (last && isOnTheWay) {
      const earlier = { base, findings, known: last.known, before: last.chain };
      return last.chain === chain ? last.known : candidatesAfter(earlier, chain, workshop, met);
    }
    const { known, chain: before } = mended;
    return chain === before ? known : candidatesAfter({ base, findings, known, before }, chain, workshop, met);
  }

  /** What needs no answer, with these messages in the sample and without changes that are not wanted. */
  #preparedFor(messages: readonly number[], left: ReadonlySet<string>): Prepared {
    const known = this.#known;
    const isSampled = messages.every((message) => known?.workshop.maybeIndexOf(message) !== null);
    if (known && isSampled) {
      const isSame = known.left.size === left.size && [...left].every((title) => known.left.has(title));
      return isSame ? known : this.#prepare(known, known.first, left);
    }
    this.#always = [...new Set([...this.#always, ...messages])];
    const { chain, mail, findings } = this.#input;
    const keptIn = keptPlaces(chain, mail, this.#whole.flow(chain));
    const workshop = workshopFor(this.#input, keptIn, this.#always);
    const exact = wholeOf(workshop, this.#whole, keptIn);
    return this.#prepare({ workshop, exact }, candidatesFor(chain, findings, workshop), left);
  }

  #prepare(
    { workshop, exact }: Pick<Prepared, 'workshop' | 'exact'>,
    first: readonly Candidate[],
    left: ReadonlySet<string>,
  ): Prepared {
    const mended = this.#mended({ workshop, exact }, first, left, () => []);
    this.#last = null;
    this.#known = { workshop, exact, first, left, mended };
    return this.#known;
  }

  /** `metBy`: the wishes that a chain meets; no mend takes one of them back. */
  #mended(
    { workshop, exact }: Pick<Prepared, 'workshop' | 'exact'>,
    first: readonly Candidate[],
    left: ReadonlySet<string>,
    metBy: (chain: Chain) => readonly Wish[],
  ): Mended {
    const { chain: base, findings } = this.#input;
    const steps: PlanStep[] = [];
    let [current, known] = [base, first];
    // With some faults out of the way, the user's filing may speak clearly about others.
    for (let round = 0; round < MOST_ROUNDS; round++) {
      const before = current;
      // What people mean more often comes first; the rest may not be needed any more then.
      // What rests on earlier mends takes clearer evidence than they did.
      const isClear = (one: Pick<Candidate, 'edits' | 'effect'>) =>
        isOneSided(one) && (round === 0 || isNearlyAll(one.effect));
      const wanted = known.filter((one) => isClear(one) && !left.has(one.title));
      for (const candidate of wanted.toSorted((a, b) => doubtOf(a) - doubtOf(b))) {
        // Something that sends none may serve as well by now.
        if (sendsCopies(candidate.effect) && current !== before) break;
        const again = maybeOnto(before, candidate, current, workshop);
        if (!again || !isClear(again)) continue;
        if (!metBy(current).every((wish) => isMet(again.chain, wish, workshop))) continue;
        // A sample may lack the one message that a change would harm.
        const step = this.#step('mend', current, again, exact);
        if (!isClear(step) || this.#breaks(current, again.chain) || this.#disuses(again, current)) continue;
        steps.push(step);
        current = again.chain;
      }
      if (current === before) break;
      known = candidatesAfter({ base, findings, known, before }, current, workshop, metBy(current));
    }
    return { steps, chain: current, known };
  }

  /**
   * The likeliest change that loses no mail and sends none away unasked, of those that meet most of what is expected beside
   * stored mail; if there is none among a few, the likeliest.
   */
  #harmless(proposals: readonly Proposal[], chain: Chain, wish: Wish, { workshop, exact }: Prepared): Proposal | null {
    const message = elementAt(workshop.sample.messages, wish.index);
    const isHarmless = ({ chain: after, edits }: Proposal) => {
      if (this.#breaks(chain, after)) return false;
      const { moved } = effectOf(exact, [chain, after], edits);
      const asked = moved.find(({ index }) => index === message)?.harm ?? null;
      return moved.every(({ harm }) => (harm !== 'lost' && harm !== 'leaked') || harm === asked);
    };
    const met = ({ chain: after }: Proposal) => this.#metBeside(after).size;
    const few = proposals.slice(0, MOST_EXACT).toSorted((a, b) => met(b) - met(a));
    return few.find(isHarmless) ?? proposals[0] ?? null;
  }

  /** Whether some message meets an expectation before a change and not after it. */
  #breaks(before: Chain, after: Chain): boolean {
    const beside = this.#metBeside(after);
    if (![...this.#metBeside(before)].every((one) => beside.has(one))) return true;
    const ownDomains = domainsOf(this.#input.mail.mail.own);
    return this.#expectations.some((expectation) => {
      const about = this.#whole.holding(expectation.tests);
      if (about.isEmpty()) return false;
      const [now, then] = [before, after].map((chain) =>
        brokenIn(expectation.must, this.#whole.flow(chain), ownDomains).and(about),
      );
      return now !== undefined && then !== undefined && !then.without(now).isEmpty();
    });
  }

  /** Whether a rule that a change rewrites acts on no mail any more: only the user can say that they do not want it. */
  #disuses({ chain, edits }: Pick<Candidate, 'chain' | 'edits'>, before: Chain): boolean {
    const rewritten = edits.flatMap((edit) => (edit.kind === 'rewrite' ? edit.after.map(({ id }) => id) : []));
    if (rewritten.length === 0) return false;
    const [was, is] = [before, chain].map((one) => actingIn(this.#whole.flow(one)));
    return rewritten.some((id) => was?.has(id) && !is?.has(id));
  }

  #step(part: PlanStep['part'], before: Chain, { title, edits, chain, findings }: Taken, exact: Workshop): PlanStep {
    const messages = changedBetween(this.#whole, [before, chain], edits);
    return { part, title, edits, findings, effect: effectOf(exact, [before, chain], edits), messages, answer: null };
  }
}

/** The ids of the entries that act on any message. */
const actingIn = ({ entries }: Flow): ReadonlySet<string> =>
  new Set(entries.flatMap(({ entry, fired }) => (fired.isEmpty() ? [] : entry.id)));

/** What needs no answer. */
interface Prepared {
  readonly workshop: Workshop;
  /** With all mail. */
  readonly exact: Workshop;
  /** For the chain as it is. */
  readonly first: readonly Candidate[];
  /** Titles of changes that are not wanted. */
  readonly left: ReadonlySet<string>;
  readonly mended: Mended;
}

interface Mended {
  readonly steps: readonly PlanStep[];
  readonly chain: Chain;
  /** Candidates for the mended chain. */
  readonly known: readonly Candidate[];
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
  const counted = options.map(({ destination, asNow, candidate, findings }): PlannedOption => {
    if (!candidate) return { destination, asNow, messages: 1, edits: [], title: '', findings };
    const { chain: after, edits } = candidate;
    const key = destinationKey(destination);
    const messages = changedBetween(whole, [chain, after], edits).filter(
      (one) => whole.placeOf(chain, one) === here && whole.placeOf(after, one).key === key,
    ).length;
    return { destination, asNow, messages, edits, title: candidate.title, findings };
  });
  const most = Math.max(...counted.map(({ messages }) => messages));
  return { ...rest, message, options: counted.map((one) => (one.asNow ? { ...one, messages: most } : one)) };
}

/** The stored messages whose fate differs between two chains; `edits` lead from the one to the other. */
function changedBetween(whole: Trials, chains: readonly [Chain, Chain], edits: readonly Edit[]): number[] {
  return whole.changed(...chains, concerned(whole, chains, edits) ?? undefined);
}

type Taken = Pick<Candidate, 'title' | 'edits' | 'chain' | 'findings'>;

/** The last plan: the next one mostly has one answer more. */
interface Last {
  readonly mended: Mended;
  readonly stages: readonly Stage[];
  /** Candidates for the chain. */
  readonly known: readonly Candidate[];
  readonly chain: Chain;
}

const UNSURE = 1;
const LAST = 100;

/** What a change costs, and more the more of its mail no act of the user speaks for; what sends copies comes last. */
function doubtOf({ cost, effect }: Candidate): number {
  const { agree, count } = effect;
  return cost + UNSURE * (1 - agree / Math.max(count, 1)) + (sendsCopies(effect) ? LAST : 0);
}

/** A candidate made for one chain, with its effect on another. */
function maybeOnto(base: Chain, candidate: Candidate, onto: Chain, workshop: Workshop): Candidate | null {
  if (onto === base) return candidate;
  const found = rebase(base, candidate.edits, onto);
  if (!found.ok || found.chain === onto) return null;
  const effect = effectOf(workshop, [onto, found.chain], found.edits);
  return { ...candidate, edits: found.edits, chain: found.chain, effect };
}
