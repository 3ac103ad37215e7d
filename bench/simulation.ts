import { createWriteStream, statSync } from 'node:fs';
import { join } from 'node:path';
import { finished } from 'node:stream/promises';
import PostalMime from 'postal-mime';
import type { StoredMessage, Valued } from '../src/core/audit/stored';
import { Verifier } from '../src/core/handover/verify';
import { writeMboxEntry } from '../src/core/mail/mbox';
import { envelopeOf, readMessage } from '../src/core/mail/message';
import { learnSet } from '../src/core/repair/learned-set';
import { type Edit, moveBefore } from '../src/core/rules/edit';
import { editingText, readRewrite } from '../src/core/rules/rewrite';
import type { Rule, TestTree } from '../src/core/rules/rule';
import { sieveFromChain } from '../src/core/rules/to-sieve';
import { readTold } from '../src/core/rules/told/read';
import { interpreter } from '../src/core/sieve/interpret/interpret';
import { parse } from '../src/core/sieve/parse';
import { elementAt } from '../src/core/text/lookup';
import { getAudit } from '../src/server/audits/audits';
import { maybeFlow } from '../src/server/chain/simulation';
import { trialView } from '../src/server/chain/trial-view';
import { typedView } from '../src/server/chain/typed-view';
import { chainView } from '../src/server/chain/view';
import { makeChange, previewEdits, undo } from '../src/server/changes/changes';
import { maybeExamples } from '../src/server/changes/examples-view';
import { keepExpectation, listExpectations, standings } from '../src/server/changes/expectations';
import { expectationsView } from '../src/server/changes/expectations-view';
import { workOutReasoned } from '../src/server/changes/verdicts';
import { changesView } from '../src/server/changes/view';
import type { Store } from '../src/server/database/open';
import { findingsView } from '../src/server/findings/list-view';
import { fileBody } from '../src/server/gather/import-file';
import { placeFieldView } from '../src/server/gather/place-field';
import { gatherView } from '../src/server/gather/view';
import type { JobContext } from '../src/server/jobs/job';
import { perform } from '../src/server/jobs/perform';
import { ASKED } from '../src/server/jobs/plan-job';
import { messagePage } from '../src/server/mail/list-view';
import { maybeRaw } from '../src/server/mail/raw';
import { refilePlan } from '../src/server/mail/refile-plan';
import { gatherAhead, valuedMail } from '../src/server/mail/stored-mail';
import { giveAnswer, scopesView } from '../src/server/plan/scopes';
import { planView } from '../src/server/plan/view';
import { helpers, openBench } from './application';
import { figure, inMegabytes, largestMemory, milliseconds, seconds, secondsOf } from './figures';
import { type Goals, goalsFor } from './goals';
import { madeUpMail, madeUpScript } from './made-up';

const RULES = 500;
const AGREEING = 20_000;

/** Import, first simulation, changes and pages, on an audit of this size; returns the time of the simulation. */
export async function benchSimulation(count: number, whole: boolean): Promise<number> {
  const { store, id, job, folder, database, bring, work, end } = openBench();
  const source = madeUpScript(RULES);
  await bring('rules.sieve', octets(source));
  const mbox = join(folder, 'mail.mbox');
  await writeMail(mbox, count);
  const megabytes = statSync(mbox).size / 1e6;
  await bring('mail.mbox', fileBody(mbox));
  const importing = await secondsOf(work);
  const goals = goalsFor(count);
  const rate = `${importing.toFixed(1)} s, ${(megabytes / importing).toFixed(1)} MB/s, ${(count / importing).toFixed(0)} a second`;
  figure(`import of ${count} messages, ${megabytes.toFixed(0)} MB`, rate, whole ? goals.import : '');
  const alone = await libraryRate();
  figure(
    '  the MIME library alone',
    `${alone.toFixed(1)} MB/s, ${(megabytes / importing / alone).toFixed(1)} times slower`,
    '5 times',
  );
  figure('  the database per message', `${(statSync(database).size / count).toFixed(0)} octets`);

  const audit = () => getAudit(store, id);
  const simulating = await secondsOf(() => perform(store, job, { kind: 'weigh', edits: [] }, helpers));
  const flowing = seconds(() => maybeFlow(store, audit(), audit().draft));
  const first = simulating + flowing;
  figure(`first simulation, ${RULES} rules, ${count} messages`, `${first.toFixed(2)} s`, whole ? goals.simulation : '');
  if (whole) {
    const perMessage = interpretedSeconds(source, count);
    figure(
      '  the interpreter, message by message',
      `${perMessage.toFixed(0)} s, ${(perMessage / first).toFixed(0)} times`,
      '100 times',
    );
    benchPages(store, id, goals);
    await benchChanges(store, id, job, goals);
    await benchGathering(store, id);
    benchTyping(store, id, goals);
    benchTelling(store, id);
    figure('memory after all this, generator and bench included', inMegabytes(largestMemory()), goals.memory);
    benchAgreement(store, id);
    benchLearning(store, id, count);
    benchRefiling(store, id, count);
    await benchPlan(store, id, job);
    await benchMending(store, id, job);
    await benchScriptBlock(store, id, job);
  }
  end();
  return first;
}

/** Megabytes a second of the MIME library alone, message by message. */
async function libraryRate(): Promise<number> {
  const some = [...madeUpMail(3000)].map(({ raw }) => raw);
  const took = await secondsOf(async () => {
    for (const raw of some) await PostalMime.parse(raw);
  });
  return some.reduce((sum, { length }) => sum + length, 0) / 1e6 / took;
}

async function* octets(text: string): AsyncGenerator<Uint8Array> {
  yield new TextEncoder().encode(text);
}

async function writeMail(file: string, count: number): Promise<void> {
  const out = createWriteStream(file);
  for (const entry of madeUpMail(count)) {
    if (!out.write(writeMboxEntry(entry))) await new Promise<void>((resolve) => out.once('drain', () => resolve()));
  }
  out.end();
  await finished(out);
}

/** The interpreter on some of the messages, extrapolated to all. */
function interpretedSeconds(source: string, count: number): number {
  const run = interpreter(parse(source).script);
  const some = [...madeUpMail(300)].map(({ raw }) => raw);
  const took = seconds(() => {
    for (const raw of some) {
      const message = readMessage(raw);
      run(message, envelopeOf(message, null));
    }
  });
  return (took / some.length) * count;
}

/** Both engines on the same 20,000 stored messages, the interpreter from their raw octets. */
function benchAgreement(store: Store, id: string): void {
  const audit = { ...getAudit(store, id), withSent: true };
  const flow = maybeFlow(store, audit, audit.draft);
  if (!flow) throw new Error('the chain was not simulated');
  const verifier = new Verifier(sieveFromChain(audit.draft).text, flow.fates, audit.clock);
  for (let number = 0; number < Math.min(AGREEING, audit.messageCount); number++) {
    const message = readMessage(maybeRaw(store, id, number) ?? Buffer.alloc(0));
    verifier.check(number, message, envelopeOf(message, audit.recipient));
  }
  const { messages, sameFate } = verifier.record();
  figure(`  the same fate by both engines, ${RULES} rules`, `${sameFate} of ${messages}`, 'all');
}

async function benchChanges(store: Store, id: string, job: JobContext, goals: Goals): Promise<void> {
  const audit = getAudit(store, id);
  const { draft } = audit;
  const flowAfter = (edit: Edit) => maybeFlow(store, audit, previewEdits(store, audit, [edit]).after);
  const move = moveBefore(draft, draft.entries[400]?.id as string, draft.entries[20]?.id as string) as Edit;
  figure('a rule moved, to the new flow', milliseconds(seconds(() => flowAfter(move))), goals.move);
  const off: Edit = { kind: 'switch', id: draft.entries[9]?.id as string, on: false };
  figure('a rule switched off, to the new flow', milliseconds(seconds(() => flowAfter(off))), goals.move);
  for (const [what, old, made, wanted] of [
    ['header', 'header :contains', 'header :contains "subject" "lade", header :contains', goals.header],
    ['text', 'body :contains', 'body :contains "lade", body :contains', goals.text],
  ] as const) {
    const rule = draft.entries.find(
      (entry) => editingText(draft, [entry.id]).includes(`allof (`) && editingText(draft, [entry.id]).includes(old),
    );
    if (!rule) throw new Error(`no rule with ${old}`);
    const { edit } = readRewrite(draft, [rule.id], editingText(draft, [rule.id]).replace(old, made));
    if (!edit) throw new Error(`${what} was not edited`);
    const took = await secondsOf(async () => {
      await perform(store, job, { kind: 'weigh', edits: [edit] }, helpers);
      flowAfter(edit);
    });
    figure(`one edited test of the ${what}, to the new flow`, milliseconds(took), wanted);
  }
}

/** A rule that tests a header field while its keys are typed: the whole view after each letter. */
function benchTyping(store: Store, id: string, goals: Goals): void {
  const { draft } = getAudit(store, id);
  const rule = draft.entries.find((entry) => entry.kind === 'rule' && entry.tests.kind === 'leaf');
  if (rule?.kind !== 'rule' || rule.tests.kind !== 'leaf') throw new Error('no rule with one test');
  const typed = (word: string): Rule => ({
    ...rule,
    tests: {
      kind: 'leaf',
      test: { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap', keys: [word] },
    },
  });
  // The requests of the editor when it opens, and then for each letter.
  const opened = seconds(() => trialView(store, id, { rule, begun: rule, behind: null }));
  figure('what a rule does, when its desk is opened', milliseconds(opened), goals.page);
  const word = 'mortar samples';
  const times = Array.from(word, (_, at) =>
    seconds(() => trialView(store, id, { rule: typed(word.slice(0, at + 1)), begun: rule, behind: null })),
  );
  times.sort((a, b) => a - b);
  const [median, worst] = [times[times.length >> 1] ?? 0, times.at(-1) ?? 0];
  figure(
    'a rule while it is typed, per letter',
    `${milliseconds(median)}, at most ${milliseconds(worst)}`,
    goals.letter,
  );
}

/**
 * The data a server computes after a simulation, in steps between responses: pages wait at most for the longest step.
 */
async function benchGathering(store: Store, id: string): Promise<void> {
  let longest = 0;
  let last = performance.now();
  const look = () => {
    const now = performance.now();
    longest = Math.max(longest, now - last);
    last = now;
    timer = setImmediate(look);
  };
  let timer = setImmediate(look);
  const took = await secondsOf(() => gatherAhead(store, getAudit(store, id)));
  clearImmediate(timer);
  figure(
    'the mail as a whole, gathered ahead',
    `${took.toFixed(1)} s, no answer waits more than ${longest.toFixed(0)} ms`,
    '300 ms',
  );
}

/** The plan once the chain is audited: what to do, what can be tidied, what both resolve. */
async function benchPlan(store: Store, id: string, job: JobContext): Promise<void> {
  const audited = await secondsOf(() => perform(store, job, { kind: 'simulate' }, helpers));
  figure(`audit of ${RULES} rules with their mail`, `${audited.toFixed(1)} s`);
  const took = new Map<string, number>();
  const start = performance.now();
  const report: JobContext['report'] = ({ phase }) => took.set(phase, took.get(phase) ?? performance.now());
  const planned = await secondsOf(() => perform(store, { ...job, report }, { kind: 'plan' }, helpers));
  const tidied = (took.get(ASKED) ?? start) - start;
  figure('its plan: first questions, all of it', `${(tidied / 1000).toFixed(1)} s, ${planned.toFixed(1)} s`, '15 s');
  const question = planView(store, id).plan?.questions[0];
  const now = question?.options.find(({ asNow }) => asNow);
  if (!question || !now) return;
  const { message } = question;
  const { destination } = now;
  const { scopes, chosen } = scopesView(store, id, { message, destination });
  giveAnswer(store, id, { message, destination, scope: elementAt(scopes, chosen).tests, name: 'bench' });
  took.clear();
  const asked = performance.now();
  await perform(store, { ...job, report }, { kind: 'plan' }, helpers);
  const followed = (took.get(ASKED) ?? asked) - asked;
  figure('  after an answer', milliseconds(followed / 1000), '1 s');
}

async function benchMending(store: Store, id: string, job: JobContext): Promise<void> {
  const { draft } = getAudit(store, id);
  const off: Edit = { kind: 'switch', id: draft.entries[2]?.id as string, on: false };
  await perform(store, job, { kind: 'weigh', edits: [off] });
  makeChange(store, id, [off], 'bench');
  figure('baseline beside draft', milliseconds(seconds(() => changesView(store, id))), '300 ms');
  const test = { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap' } as const;
  const tests: TestTree = { kind: 'leaf', test: { ...test, keys: ['grant'] } };
  keepExpectation(store, id, { name: 'Grants', tests, must: { must: 'not be dropped' } });
  const asked = seconds(() => expectationsView(store, id));
  figure('an expectation on all stored mail, and more offered', milliseconds(asked));
  const { reasoned } = standings(store, getAudit(store, id), draft, null)[0] ?? {};
  if (!reasoned) {
    const audit = getAudit(store, id);
    const [kept] = listExpectations(store, id);
    if (!kept) throw new Error('no expectation was kept');
    const took = seconds(() => workOutReasoned(store, audit, audit.draft, kept));
    figure(`an expectation for all messages, ${RULES} rules`, milliseconds(took));
  }
  const examples = seconds(() => maybeExamples(store, id, [1, 2, 3]));
  figure('what three messages have in common', milliseconds(examples));
  undo(store, id);
}

/** What thirty rules in sentences catch, letter by letter of the last one. */
function benchTelling(store: Store, id: string): void {
  const told = (line: string, at: number) => readTold(line, `told-${at}`, { me: [], folders: [] })?.rule ?? [];
  const rules = Array.from({ length: 29 }, (_, at) => {
    return `from person${at}@orchard.example or with grant${at} in the subject into Folder ${at}`;
  }).flatMap(told);
  const last = 'from newsletter@lantern.example with "weekly letter" in the subject into Reading';
  const took = Array.from({ length: 20 }, (_, at) => {
    const line = `${last.slice(0, 60 + at)}`;
    return seconds(() => typedView(store, id, [...rules, ...[told(line, 30)].flat()]));
  });
  took.sort((a, b) => a - b);
  const [median, worst] = [took[took.length >> 1] ?? 0, took.at(-1) ?? 0];
  figure(
    'counts beside 30 rules in sentences, per letter',
    `${milliseconds(median)}, at most ${milliseconds(worst)}`,
    '200 ms',
  );
}

/** A whole set of rules from mail in folders: here each sender has one, and a tenth of the mail stays in the inbox. */
function benchLearning(store: Store, id: string, count: number): void {
  const audit = getAudit(store, id);
  const mail = valuedMail(store, audit);
  const filed = (number: number): StoredMessage => {
    const message = mail.message(number);
    if (number % 10 === 0) return message;
    return Object.create(message, { folder: { value: message.sender.split('@')[1] ?? 'Other' } });
  };
  const messages = Array.from({ length: count }, (_, number) => filed(number));
  const valued: Valued = {
    ...mail,
    mail: { ...mail.mail, messages },
    message: (number) => messages[number] ?? mail.message(number),
  };
  let rules = 0;
  const took = seconds(() => {
    rules = learnSet(valued).rules.length;
  });
  figure('a whole set of rules learned from filed mail', `${took.toFixed(1)} s, ${rules} rules`, '20 s');
}

/** The chain and one rule of it applied to all stored mail, and fields that could name places. */
function benchRefiling(store: Store, id: string, count: number): void {
  const { draft } = getAudit(store, id);
  const scopes = [{ mail: 'all' }, { mail: 'all' }, { mail: 'inbox', rule: draft.entries[0]?.id }] as const;
  const [first, again, one] = scopes.map((scope) => milliseconds(seconds(() => refilePlan(store, id, scope))));
  figure(`${count} messages filed anew, with the balance`, `${first}, again ${again}, by one rule ${one}`, '1 s');
  figure('fields that could name places', milliseconds(seconds(() => placeFieldView(store, id))));
}

/** A script block that rules cannot express, on all messages, by one thread and by two. */
async function benchScriptBlock(store: Store, id: string, job: JobContext): Promise<void> {
  const { draft } = getAudit(store, id);
  const rule = draft.entries[0]?.id as string;
  const took: number[] = [];
  for (const [place, threads] of [undefined, helpers].entries()) {
    const text = `require ["variables", "fileinto"];\nset "kind" "Oak ${place}";\nif header :contains "subject" "oak" { fileinto "\${kind}"; }\n`;
    const { edit } = readRewrite(draft, [rule], text);
    if (!edit) throw new Error('nothing was edited');
    took.push(await secondsOf(() => perform(store, job, { kind: 'weigh', edits: [edit] }, threads)));
  }
  const [alone, shared] = took as [number, number];
  figure('a piece of script on all messages, two threads', `${shared.toFixed(1)} s, alone ${alone.toFixed(1)} s`);
}

/** The pages of the draft and of messages, without proofs: the first time and again. */
function benchPages(store: Store, id: string, goals: Goals): void {
  const query = { offset: getAudit(store, id).messageCount / 2, limit: 100, part: 'fired' as const };
  const pages: [string, () => unknown][] = [
    ['Gather', () => gatherView(store, id)],
    ['the chain', () => chainView(store, id)],
    ['a hundred messages of the list', () => messagePage(store, id, query)],
    ['those that one rule fires', () => messagePage(store, id, { ...query, offset: 0, rule: 'r3' })],
    ['the findings', () => findingsView(store, id)],
  ];
  for (const [what, show] of pages) {
    const [first, again] = [seconds(show), seconds(show)];
    figure(`page: ${what}, the first time and again`, `${milliseconds(first)}, ${milliseconds(again)}`, goals.page);
  }
}
