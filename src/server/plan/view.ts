import { isConfirmed } from '../../core/audit/grouping';
import type { Destination } from '../../core/fates/destination';
import { addressText } from '../../core/mail/address';
import { addressesOf, fieldsNamed, readMessage } from '../../core/mail/message';
import { summaryOf } from '../../core/mail/summary';
import type { Size } from '../../core/plan/tidy';
import type { Assumption } from '../../core/reason/solve/assumptions';
import { expectationWords } from '../../core/repair/expectations';
import type { Edit } from '../../core/rules/edit';
import { type Audit, getAudit } from '../audits/audits';
import { folderOffers } from '../chain/rule-view';
import { standingChanges } from '../changes/changes';
import type { Store } from '../database/open';
import { type FindingLine, lineOf } from '../findings/list-view';
import { maybeResult } from '../findings/results';
import { findingsAtHand } from '../findings/set-aside';
import { gateView } from '../handover/gate';
import { listProbes } from '../mail/probes';
import { valuedMail } from '../mail/stored-mail';
import { trafficSize } from '../mail/traffic';
import {
  endsOf,
  type KeptMade,
  type KeptMadeOption,
  type KeptOption,
  type KeptPlan,
  type KeptStep,
  maybePlan,
} from './kept';
import { type GivenAnswer, reasonFor, type Said, saidOf } from './said';

/** What to do with the rules, in order. */
export interface PlanView {
  readonly audited: boolean;
  /** Whether there are rules to plan for. */
  readonly ruled: boolean;
  /** Null while no plan for the draft is known. */
  readonly plan: PlanShown | null;
  /** Whether the plan is not worked out to the end, or no longer follows what was said. */
  readonly isAwaited: boolean;
  /** Stored messages that take part. */
  readonly total: number;
  readonly confirmed: number;
  readonly answers: readonly AnswerLine[];
  readonly beside: readonly BesideLine[];
  /** Steps that were not wanted, with the reasons. */
  readonly left: readonly { readonly title: string; readonly reason: string }[];
  /** How many questions were skipped. */
  readonly skipped: number;
  /** Steps of plans that were applied, newest first. */
  readonly done: readonly DoneLine[];
  /** What holds the script back, in plain words. */
  readonly held: readonly string[];
  /** Folders that an answer may name. */
  readonly folders: readonly string[];
}

export interface PlanShown {
  /** Confirmed findings that all steps end; null while they are not counted. */
  readonly ended: number | null;
  /** Further ones that the answers have settled, and that the questions settle. */
  readonly answered: number;
  readonly settled: number;
  readonly tidy: TidyShown | null;
  readonly mend: readonly StepLine[];
  readonly questions: readonly QuestionLine[];
  /** Questions about messages that are not stored; they come after the others. */
  readonly made: readonly MadeLine[];
}

export interface TidyShown {
  readonly steps: readonly StepLine[];
  readonly assumes: readonly Assumption[];
  readonly before: Size;
  readonly after: Size;
}

export interface StepLine {
  readonly key: string;
  readonly part: KeptStep['part'];
  readonly title: string;
  readonly why: string;
  readonly messages: number;
  readonly agree: number;
  readonly against: number;
  /** Confirmed findings that it ends; null while they are not counted. */
  readonly ends: number | null;
  /** For the draft; null if it needs the steps above it. */
  readonly edits: readonly Edit[] | null;
}

export interface AnswerLine {
  readonly id: number;
  readonly name: string;
  readonly message: number;
  readonly words: string;
  /** The changes that give it, if any are needed. */
  readonly steps: readonly StepLine[];
  /** Whether no change was found that gives it. */
  readonly isUnmet: boolean;
}

export interface QuestionLine {
  readonly message: number;
  readonly subject: string;
  readonly sender: string;
  readonly options: readonly OptionLine[];
  readonly findings: readonly FindingLine[];
}

export interface OptionLine {
  readonly destination: Destination;
  readonly asNow: boolean;
  readonly messages: number;
  /** What the change behind it does; empty if there is none. */
  readonly title: string;
  /** How many findings it resolves or, for as it is now, shows to be meant. */
  readonly findings: number;
}

export interface MadeLine {
  readonly key: string;
  readonly subject: string;
  readonly sender: string;
  readonly recipient: string;
  readonly body: string;
  /** RFC 5322. */
  readonly text: string;
  /** The answer that could be given by either of two changes, in words. */
  readonly answer: string;
  readonly options: readonly KeptMadeOption[];
}

/** What the user expects of a message that is not stored. */
export interface BesideLine {
  readonly id: number;
  readonly name: string;
  /** The expected fate. */
  readonly expected: string;
}

export interface DoneLine {
  readonly id: number;
  readonly part: 'tidy' | 'mend' | 'answer';
  readonly words: string;
  readonly why: string;
  readonly messages: number;
  /** Confirmed findings that it ended; null if they were not counted. */
  readonly ends: number | null;
  readonly createdAt: number;
}

export function planView(store: Store, auditId: string): PlanView {
  const audit = getAudit(store, auditId);
  const said = saidOf(store, auditId);
  const found = maybePlan(store, audit, said);
  const confirmed = findingsAtHand(store, audit).filter(isConfirmed);
  const lineFor = (step: KeptStep) => stepLine(step, said, found?.plan ?? null);
  const answerSteps = (id: number) => found?.plan.steps.filter(({ answer }) => answer === id) ?? [];
  return {
    audited: maybeResult(store, audit, audit.draft) !== null,
    ruled: audit.draft.entries.length > 0,
    plan: found && shown(store, audit, found.plan, said, lineFor),
    isAwaited: !(found?.isCurrent && found.plan.counted),
    total: trafficSize(store, audit),
    confirmed: confirmed.length,
    answers: said.answers.map((answer) => ({
      id: answer.id,
      name: answer.name,
      message: answer.message,
      words: answerWords(answer),
      steps: answerSteps(answer.id).map(lineFor),
      isUnmet: found?.plan.unmet.includes(answer.id) ?? false,
    })),
    beside: listProbes(store, auditId).flatMap(({ id, name, expected }) =>
      expected === null ? [] : [{ id, name, expected }],
    ),
    left: [...said.left].map(([title, reason]) => ({ title, reason })),
    skipped: said.skipped.length + said.skippedMade.size,
    done: standingChanges(store, auditId)
      .flatMap(({ id, words, why, origin, changedMessages, createdAt }): DoneLine[] =>
        origin ? [{ id, part: origin.part, words, why, messages: changedMessages, ends: origin.ends, createdAt }] : [],
      )
      .reverse(),
    held: heldBack(store, audit),
    folders: folderOffers(store, audit),
  };
}

function heldBack(store: Store, audit: Audit): readonly string[] {
  const { reasons, override } = gateView(store, audit);
  return override ? [] : reasons;
}

const answerWords = ({ destination, scope }: GivenAnswer): string =>
  expectationWords({ tests: scope, must: { must: 'end only in', destination } });

function shown(
  store: Store,
  audit: Audit,
  plan: KeptPlan,
  said: Said,
  lineFor: (step: KeptStep) => StepLine,
): PlanShown {
  const { tidy, steps, questions, counted } = plan;
  const byKey = new Map(findingsAtHand(store, audit).map((finding) => [finding.key, finding]));
  const ended = new Set(counted?.ended.map(({ key }) => key));
  const over = new Set([...said.answers.map(({ message }) => message), ...said.skipped]);
  const open = questions.filter(({ message }) => !over.has(message));
  const isLeft = (key: string) => !ended.has(key) && byKey.has(key);
  const answered = new Set(plan.settled.filter(isLeft));
  const settled = new Set(open.flatMap(({ findings }) => findings).filter((key) => isLeft(key) && !answered.has(key)));
  const mail = valuedMail(store, audit);
  return {
    ended: counted && ended.size,
    answered: answered.size,
    settled: settled.size,
    tidy: tidy && { ...tidy, steps: tidy.steps.filter(({ title }) => !said.left.has(title)).map(lineFor) },
    mend: steps.filter(({ part, title }) => part === 'mend' && !said.left.has(title)).map(lineFor),
    questions: open.map(({ message, options, findings }) => {
      const { subject, sender } = mail.message(message);
      const lines = findings.flatMap((key) => byKey.get(key) ?? []).map(lineOf);
      return { message, subject, sender, options: options.map(optionLine), findings: lines };
    }),
    made: plan.made.filter(({ key }) => !said.skippedMade.has(key)).map((one) => madeLine(one, said)),
  };
}

const optionLine = ({ destination, asNow, messages, title, findings }: KeptOption): OptionLine => {
  return { destination, asNow, messages, title, findings: findings.length };
};

function madeLine({ key, text, answer: id, options }: KeptMade, { answers }: Said): MadeLine {
  const message = readMessage(new TextEncoder().encode(text));
  const { subject, fromAddress: sender } = summaryOf(message);
  const answer = answers.find((one) => one.id === id);
  const [to] = fieldsNamed(message, 'to').flatMap(addressesOf);
  const recipient = to ? addressText(to) : '';
  const body = new TextDecoder().decode(message.body).trim();
  return { key, subject, sender, recipient, body, text, answer: answer ? answerWords(answer) : '', options };
}

function stepLine(step: KeptStep, said: Said, plan: KeptPlan | null): StepLine {
  const { key, part, title, messages, agreeing, opposing, alone } = step;
  return {
    key,
    part,
    title,
    why: reasonFor(step, said),
    messages,
    agree: agreeing.length,
    against: opposing.length,
    ends: plan && endsOf(plan, key),
    edits: alone,
  };
}
