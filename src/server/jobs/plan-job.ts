import { sql } from 'drizzle-orm';
import type { Finding } from '../../core/audit/finding';
import { isConfirmed, withoutRepeated } from '../../core/audit/grouping';
import { endedBy } from '../../core/plan/ended';
import { Planner } from '../../core/plan/plan';
import type { Plan, PlanStep } from '../../core/plan/planned';
import type { TidyStep } from '../../core/plan/tidy';
import { tidyFor } from '../../core/plan/tidy-for';
import { Knowledge } from '../../core/reason/knowledge';
import { BUDGET } from '../../core/reason/solve/solver';
import { askingChain } from '../../core/repair/expectations';
import { rebase } from '../../core/rules/rebase';
import type { Chain } from '../../core/rules/rule';
import { type Audit, getAudit } from '../audits/audits';
import { Region } from '../cache/region';
import { evaluating, flowAtOnce, maybeAtomBitmaps } from '../chain/simulation';
import type { Store } from '../database/open';
import { auditOnce, maybeFindingsWithRepairs, maybeResult, memoryOf } from '../findings/results';
import { setAsideAmong } from '../findings/set-aside';
import { probeLine, probesMet } from '../mail/probes';
import { valuedMail } from '../mail/stored-mail';
import {
  afterStep,
  type Counted,
  type KeptMade,
  type KeptPlan,
  type KeptStep,
  type KeptTidy,
  keepPlan,
  madeKey,
  maybePlan,
  planBase,
  stepKey,
} from '../plan/kept';
import { type GivenAnswer, type Said, saidKey, saidOf } from '../plan/said';
import { answer, evaluateChains, simulate } from './chain-jobs';
import type { JobContext } from './job';
import type { Sharer } from './sharer';

/** What is known of one draft. */
interface Desk {
  readonly planner: Planner;
  readonly findings: readonly Finding[];
  tidy: KeptTidy | null;
  /** Throws once the job that is running now is cancelled. */
  checkpoint: () => void;
}

const desks = new Region<Desk>({ name: 'plans', most: 1, weigh: () => 1, entries: 1 });

/** The plan was worked out for what is not true any more: another job follows. */
class Outdated extends Error {}

/** Milliseconds between two looks whether the audit has changed. */
const LOOK = 200;

/** Works out the plan for the draft, in steps that are kept as soon as they are known. */
export async function workOutPlan(store: Store, job: JobContext, sharer: Sharer | null): Promise<string> {
  const before = getAudit(store, job.auditId);
  if (before.draft.entries.length === 0) return 'there are no rules';
  if (!maybeResult(store, before, before.draft)) await simulate(store, job, sharer);
  const audit = getAudit(store, job.auditId);
  const said = saidOf(store, audit.id);
  const known = maybePlan(store, audit, said);
  if (known?.isCurrent && known.plan.counted) return 'the plan is known';
  try {
    return await new WorkedOut(store, audit, said, watching(store, job, audit, said), sharer).run();
  } catch (error) {
    if (error instanceof Outdated) return 'the audit was changed meanwhile';
    throw error;
  }
}

/** The job, ended early by any change of the audit that has a plan of its own. */
function watching(store: Store, job: JobContext, { id }: Audit, said: Said): JobContext {
  const base = planBase(getAudit(store, id));
  // Changes when another connection writes (SQLite, “PRAGMA data_version”): reading the audit takes much longer.
  const version = () => store.get<{ data_version: number }>(sql`pragma data_version`)?.data_version;
  let seen: number | undefined;
  let looked = Date.now();
  return {
    ...job,
    checkpoint: () => {
      job.checkpoint();
      if (Date.now() - looked < LOOK) return;
      looked = Date.now();
      const now = version();
      if (now === seen) return;
      seen = now;
      const isSame = planBase(getAudit(store, id)) === base && saidKey(saidOf(store, id)) === saidKey(said);
      if (!isSame) throw new Outdated();
    },
  };
}

/** What the job tells once the questions about stored mail are kept. */
export const ASKED = 'looking for example messages to ask about';

/** What tidying does to mail. */
const UNMOVED = { messages: 0, agreeing: [], opposing: [], answer: null };

class WorkedOut {
  constructor(
    readonly store: Store,
    readonly audit: Audit,
    readonly said: Said,
    readonly job: JobContext,
    readonly sharer: Sharer | null,
  ) {}

  async run(): Promise<string> {
    const { store, audit, said, job } = this;
    // The scopes of answers may have tests of their own.
    await evaluateChains(store, job, [audit.draft], this.sharer);
    this.#report('trying changes to the rules');
    const desk = this.#desk();
    const { left, skipped, expectations } = said;
    const answers = this.#usableAnswers();
    const plan = desk.planner.plan({
      answers,
      left: new Set(left.keys()),
      skipped,
      expectations,
      metBeside: probesMet(store, audit),
    });
    const steps = this.#stepsOf(plan, answers);
    const unmet = plan.unmet.flatMap((at) => answers[at]?.id ?? []);
    const { questions, settled } = plan;
    // Those of the plan before are shown until they are known anew, so that nothing vanishes that is being answered.
    let made: readonly KeptMade[] = maybePlan(store, audit, said)?.plan.made ?? [];
    const keep = (tidy: KeptTidy | null, counted: Counted | null): KeptPlan => {
      const kept: KeptPlan = { tidy, steps, questions, made, unmet, settled, counted };
      keepPlan(store, audit, said, kept);
      return kept;
    };
    keep(desk.tidy, null);
    this.#report(ASKED);
    made = this.#made(desk.planner, answers);
    this.#report('looking for what can be tidied');
    desk.tidy ??= this.#tidy(desk);
    keep(desk.tidy, null);
    keep(desk.tidy, await this.#count(desk.tidy, plan, steps, desk.findings));
    answer(store, job, audit, audit.draft);
    return `${steps.length + desk.tidy.steps.length} steps, ${questions.length} questions`;
  }

  #report(phase: string): void {
    this.job.checkpoint();
    this.job.report({ phase, done: 0, total: 1, unit: 'steps' });
  }

  /** The planner for the draft, with what it knows already. */
  #desk(): Desk {
    const { store, audit, job } = this;
    const findings = this.#openFindings();
    const name = `${audit.id} ${planBase(audit)} ${JSON.stringify(this.said.aside)}`;
    const known = desks.get(name);
    if (known) {
      known.checkpoint = job.checkpoint;
      return known;
    }
    const atoms = maybeAtomBitmaps(store, audit, audit.draft);
    if (!atoms) throw new Error('the chain was not simulated before it was planned for');
    const checkpoint = () => desk.checkpoint();
    const evaluate = evaluating(store, audit, checkpoint);
    const mail = valuedMail(store, audit);
    const planner = new Planner({ chain: audit.draft, mail, atoms, evaluate, findings, checkpoint });
    const desk: Desk = { planner, findings, tidy: null, checkpoint: job.checkpoint };
    desks.set(name, desk);
    return desk;
  }

  #made(planner: Planner, answers: readonly GivenAnswer[]): KeptMade[] {
    const { audit, job } = this;
    // Only automata are shared: what else is known has the checkpoint of the job that found it.
    const knowledge = new Knowledge(BUDGET, memoryOf(audit).knowledge, audit.clock.fixed, job.checkpoint);
    return planner.made(knowledge).map(({ text, answer: at, options }) => ({
      key: madeKey(text),
      text,
      answer: answers[at]?.id ?? null,
      options: options.map(({ destination, asNow, title, chain }) => {
        return { destination, asNow, title, line: probeLine(audit, chain, text) };
      }),
    }));
  }

  /** Answers about mail that is there: in an audit that was opened from a file, a number may mean another message. */
  #usableAnswers(): GivenAnswer[] {
    const { store, audit, said } = this;
    const flow = flowAtOnce(store, audit, askingChain(said.answers.map(({ scope }) => ({ tests: scope }))));
    return said.answers.flatMap((answer, at) => {
      const held = flow?.entries[at]?.held;
      if (held?.has(answer.message)) return [answer];
      const [message] = held?.members() ?? [];
      return message === undefined ? [] : [{ ...answer, message }];
    });
  }

  /**
   * What the audit found, without what the user set aside, and what repeats that: findings that others repeat in stronger words
   * have repairs of their own.
   */
  #openFindings(): Finding[] {
    const { store, audit } = this;
    const all = maybeFindingsWithRepairs(store, audit, audit.draft) ?? [];
    const aside = setAsideAmong(store, audit, all);
    const rulesOf = (finding: Finding) => finding.rules.toSorted().join(' ');
    const named = new Set(all.flatMap((finding) => (aside.has(finding.key) ? rulesOf(finding) : [])));
    const shown = new Set(withoutRepeated(all).map(({ key }) => key));
    return all.filter((one) => !aside.has(one.key) && (shown.has(one.key) || !named.has(rulesOf(one))));
  }

  #stepsOf({ steps }: Plan, answers: readonly GivenAnswer[]): KeptStep[] {
    let chain = this.audit.draft;
    return steps.map((step) => {
      const kept = this.#kept(chain, step.part, step, {
        messages: step.messages.length,
        agreeing: step.effect.agreeing,
        opposing: step.effect.opposing,
        answer: step.answer === null ? null : (answers[step.answer]?.id ?? null),
        assumes: [],
      });
      chain = afterStep(chain, step);
      return kept;
    });
  }

  #kept(
    chain: Chain,
    part: KeptStep['part'],
    { title, edits, findings }: Pick<PlanStep | TidyStep, 'title' | 'edits' | 'findings'>,
    effect: Pick<KeptStep, 'messages' | 'agreeing' | 'opposing' | 'answer' | 'assumes'>,
  ): KeptStep {
    const { draft } = this.audit;
    const found = chain === draft ? { ok: true as const, edits } : rebase(chain, edits, draft);
    const alone = found.ok && found.edits.length > 0 ? found.edits : null;
    return { key: stepKey(part, title, effect.answer), part, title, edits, alone, findings, ...effect };
  }

  #tidy({ findings }: Desk): KeptTidy {
    const { store, audit, job, said } = this;
    const atoms = maybeAtomBitmaps(store, audit, audit.draft);
    if (!atoms) throw new Error('the chain was not simulated before it was tidied');
    const { knowledge } = memoryOf(audit);
    // That of the job which audited the chain would end this one.
    knowledge.checkpoint = job.checkpoint;
    const tidied = tidyFor({
      chain: audit.draft,
      atoms,
      evaluate: evaluating(store, audit, job.checkpoint),
      count: audit.messageCount,
      findings,
      knowledge,
      answered: said.answers.map(({ message }) => message),
      checkpoint: job.checkpoint,
    });
    let chain = audit.draft;
    const steps = tidied.steps.map((step) => {
      const kept = this.#kept(chain, 'tidy', step, { ...UNMOVED, assumes: step.assumes });
      chain = step.chain;
      return kept;
    });
    const { assumes, before, after: size } = tidied;
    return { steps, assumes, before, after: size };
  }

  /** Audits the chain with all steps, to say which findings are gone then. */
  async #count(tidy: KeptTidy, plan: Plan, steps: readonly KeptStep[], findings: readonly Finding[]): Promise<Counted> {
    const { store, audit, job, sharer } = this;
    const left = (step: KeptStep) => !this.said.left.has(step.title);
    let [from, chain] = [audit.draft, plan.chain];
    for (const step of tidy.steps) {
      const found = left(step) ? rebase(from, step.edits, chain) : null;
      if (found?.ok) chain = found.chain;
      from = afterStep(from, step);
    }
    await evaluateChains(store, job, [chain], sharer);
    const { findings: then } =
      maybeResult(store, audit, chain) ??
      auditOnce(store, audit, chain, {
        about: findings.filter(isConfirmed),
        progress: (done, total) => {
          job.checkpoint();
          job.report({ phase: 'counting what the plan resolves', done, total, unit: 'steps' });
        },
      });
    const all = [...steps, ...tidy.steps.filter(left)];
    const { confirmed, gone } = endedBy(all, findings, then);
    const ended = gone.map(({ key, step }) => ({ key, step: step === null ? null : (all[step]?.key ?? null) }));
    return { confirmed, ended };
  }
}
