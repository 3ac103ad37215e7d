import { readFileSync } from 'node:fs';
import { demoMail } from '../demo/mail';
import { OWN } from '../demo/people';
import { auditChain } from '../src/core/audit/catalogue';
import { MailGatherer, trafficIn, valued } from '../src/core/audit/stored';
import { type Destination, destinationKey, isDiscarded } from '../src/core/fates/destination';
import { type Atom, evaluateAtoms } from '../src/core/flow/atoms';
import { Bitmap } from '../src/core/flow/bitmap';
import { amongTraffic } from '../src/core/flow/conditions';
import { runFlow } from '../src/core/flow/flow';
import { atomsOf } from '../src/core/flow/program';
import { readMessage } from '../src/core/mail/message';
import { Planner } from '../src/core/plan/plan';
import type { Answer, Plan } from '../src/core/plan/planned';
import { chainFromSieve } from '../src/core/rules/from-sieve';
import type { Chain } from '../src/core/rules/rule';
import { elementAt } from '../src/core/text/lookup';
import { figure } from './figures';
import { type IntentCase, intentCase } from './intent-cases';
import { corpusTrial } from './intent-corpus';
import { columnsOf, destinationsIn, type Trial } from './trial';

/** How much of the stored and of the fresh mail ends as intended. */
export interface Recovery {
  readonly name: string;
  /** Shares by number of answers; -1 stands for the rules as they are, 0 for what needs no answer. */
  readonly stored: ReadonlyMap<number, number>;
  readonly fresh: ReadonlyMap<number, number>;
  /** Stored messages that the intended rules keep, and the last plan loses or sends away though the rules so far do not. */
  readonly harmed: number;
  readonly plan: Plan;
  readonly answers: readonly Answer[];
  /** What each plan took. */
  readonly seconds: readonly number[];
}

export const RULES_AS_THEY_ARE = -1;

/** Answers each plan's first question as the intended rules would treat the message, until none is left. */
export function recoveryOf(trial: Trial, after: readonly number[]): Recovery {
  const { name, intended, faulty, me } = trial;
  const columns = columnsOf(
    trial.stored.map(({ raw }) => raw),
    me,
  );
  const freshColumns = columnsOf(trial.fresh, me);
  const gatherer = new MailGatherer();
  for (const { raw, folder, flags } of trial.stored) gatherer.add({ message: readMessage(raw), folder, flags });
  const stored = gatherer.mail(me);
  const traffic = trafficIn(stored);
  const evaluate = (wanted: readonly Atom[]) => amongTraffic(evaluateAtoms(wanted, columns), traffic);
  const atoms = evaluate(atomsOf(faulty));
  const flow = runFlow(faulty, atoms, columns.count);
  const { findings } = auditChain({ chain: faulty, flow, atoms, mail: stored });
  const mail = valued(stored);
  const [meant, meantFresh] = [destinationsIn(intended, columns), destinationsIn(intended, freshColumns)];
  const counted = traffic ?? Bitmap.full(columns.count);
  const shares = { stored: new Map<number, number>(), fresh: new Map<number, number>() };
  const note = (answers: number, chain: Chain) => {
    shares.stored.set(answers, shareOf(destinationsIn(chain, columns), meant, counted));
    const all = Bitmap.full(freshColumns.count);
    shares.fresh.set(answers, shareOf(destinationsIn(chain, freshColumns), meantFresh, all));
  };
  note(RULES_AS_THEY_ARE, faulty);
  const answers: Answer[] = [];
  const seconds: number[] = [];
  const planner = new Planner({ chain: faulty, mail, atoms, evaluate, findings });
  const most = Math.max(...after);
  for (;;) {
    const from = performance.now();
    const plan = planner.plan({ answers });
    seconds.push((performance.now() - from) / 1000);
    const [question] = plan.questions;
    const isLast = question === undefined || answers.length >= most;
    if (answers.length === 0 || after.includes(answers.length)) note(answers.length, plan.chain);
    if (isLast) {
      for (const count of after) if (!shares.stored.has(count)) note(count, plan.chain);
      const [before, now] = [destinationsIn(faulty, columns), destinationsIn(plan.chain, columns)];
      const isHarmed = (message: number) => {
        const [wanted, is, was] = [meant, now, before].map((all) => elementAt(all, message)) as [
          Destination,
          Destination,
          Destination,
        ];
        return wanted.folders.length > 0 && isAway(is, wanted) && !isAway(was, wanted);
      };
      const harmed = [...counted.members()].filter(isHarmed).length;
      return { name, ...shares, harmed, plan, answers, seconds };
    }
    answers.push({ message: question.message, destination: elementAt(meant, question.message) });
  }
}

/** Whether a message is lost, or sent where it is not meant to go. */
const isAway = (is: Destination, wanted: Destination): boolean =>
  isDiscarded(is) || is.redirects.some((to) => !wanted.redirects.includes(to));

function shareOf(found: readonly Destination[], wanted: readonly Destination[], among: Bitmap): number {
  const right = [...among.members()].filter((at) => {
    return destinationKey(elementAt(found, at)) === destinationKey(elementAt(wanted, at));
  });
  return among.count() === 0 ? 1 : right.length / among.count();
}

const encoder = new TextEncoder();

/** `filed`: whether the mail is in folders, as the user filed it, or its folders are unknown. */
export function trialOf(one: IntentCase, filed = true): Trial {
  const [{ chain: intended }, { chain: faulty }] = [chainFromSieve(one.intended), chainFromSieve(one.faulty)];
  const raws = one.stored.map(({ text }) => encoder.encode(text));
  const columns = columnsOf(raws, [one.me]);
  const [meant, put] = [destinationsIn(intended, columns), destinationsIn(faulty, columns)];
  const main = ({ folders }: Destination) => folders.find((folder) => folder !== 'Large') ?? 'INBOX';
  return {
    name: one.name,
    intended,
    faulty,
    me: [one.me],
    stored: one.stored.map(({ seen, answered }, at) => ({
      raw: elementAt(raws, at),
      folder: filed ? one.lyingIn(at, main(elementAt(meant, at)), main(elementAt(put, at))) : null,
      flags: [...(seen ? ['\\seen'] : []), ...(answered ? ['\\answered'] : [])],
    })),
    fresh: one.fresh.map(({ text }) => encoder.encode(text)),
  };
}

export function demoTrial(): Trial {
  const chainIn = (name: string) =>
    chainFromSieve(readFileSync(new URL(`../demo/${name}.sieve`, import.meta.url), 'utf8')).chain;
  return {
    name: 'the demo',
    intended: chainIn('intended'),
    faulty: chainIn('rules'),
    me: OWN,
    stored: demoMail().map(({ raw, folder }) => ({ raw, folder, flags: [] })),
    fresh: [],
  };
}

const percent = (share: number | undefined) => `${((share ?? 0) * 100).toFixed(1)}%`;
const CASES = 20;
const AFTER = [5, 10, 15] as const;

/** How much of what users mean a plan recovers, with so many of its questions answered. */
export function benchIntent(): void {
  const demo = recoveryOf(demoTrial(), [4, 8, 12]);
  const shares = Array.from(demo.stored, ([answers, share]) => `${wordsOf(answers)} ${percent(share)}`);
  figure('intent of the demo recovered', shares.join(', '), 'after 12 answers 99%');
  recover('made-up users', (seed) => trialOf(intentCase(seed)));
  recover('users with real mail', corpusTrial);
}

function recover(who: string, trialFor: (seed: number) => Trial): void {
  const all = Array.from({ length: CASES }, (_, at) => recoveryOf(trialFor(at + 1), AFTER));
  for (const which of ['stored', 'fresh'] as const) {
    const lines = [RULES_AS_THEY_ARE, 0, ...AFTER].map((answers) => {
      const sorted = all.map((one) => one[which].get(answers) ?? 0).sort((a, b) => a - b);
      return `${wordsOf(answers)} ${percent(sorted[CASES >> 1])} (least ${percent(sorted[0])})`;
    });
    const wanted = which === 'stored' ? '98%' : '97%';
    figure(`${CASES} ${who}, ${which} mail, in the middle`, lines.join(', '), wanted);
  }
  const worse = all.filter(({ stored }) => AFTER.some((count) => (stored.get(count) ?? 0) < (stored.get(-1) ?? 0)));
  const harmed = all.reduce((sum, one) => sum + one.harmed, 0);
  figure('  worse than before; messages lost or sent away', `${worse.length}; ${harmed}`, '0; 0');
}

const wordsOf = (answers: number): string =>
  answers === RULES_AS_THEY_ARE ? 'as they are' : `after ${answers} answers`;
