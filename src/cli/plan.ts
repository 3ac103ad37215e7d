import { readFile } from 'node:fs/promises';
import { z } from 'zod';
import { auditChain } from '../core/audit/catalogue';
import type { Finding } from '../core/audit/finding';
import { isConfirmed } from '../core/audit/grouping';
import { AuditMemory } from '../core/audit/memory';
import { addressedTo, inSubject, isFrom, ofList } from '../core/audit/senders';
import { MailGatherer, trafficIn, valued } from '../core/audit/stored';
import { canonicalDestination, type Destination, isDiscarded } from '../core/fates/destination';
import { type Atom, evaluateAtoms } from '../core/flow/atoms';
import { amongTraffic } from '../core/flow/conditions';
import { runFlow } from '../core/flow/flow';
import { keyUses } from '../core/flow/key-uses';
import { atomsOf } from '../core/flow/program';
import { readMessage } from '../core/mail/message';
import { summaryOf } from '../core/mail/summary';
import { endedBy } from '../core/plan/ended';
import { type MadeQuestion, metByText } from '../core/plan/made';
import { Planner } from '../core/plan/plan';
import type { Answer, PlannedQuestion } from '../core/plan/planned';
import { tidyFor } from '../core/plan/tidy-for';
import { PLAN_WORDS } from '../core/plan/wording';
import { leavesOf } from '../core/rules/rule';
import { sieveFromChain } from '../core/rules/to-sieve';
import { readSoundChain } from './files';
import { clockOf, columnsOfFile } from './flow';
import { CliError, localPath, type planOptions } from './options';

/** Prints the plan as one JSON object: what to do with the rules, in order, and what only the user can answer. */
export async function plan(options: z.infer<typeof planOptions>): Promise<number> {
  const chain = await readSoundChain(options.rules, options);
  const gatherer = new MailGatherer();
  const clock = clockOf(options.now);
  const columns = await columnsOfFile(
    [...atomsOf(chain), ...TRIED],
    options.messages,
    options.me,
    (found) => gatherer.add(found),
    (folder) => folder !== '' && gatherer.addFolder(folder),
  );
  const mail = gatherer.mail(options.me);
  const traffic = trafficIn(mail);
  const { answers, beside } =
    options.answers === undefined ? NOTHING : await readAnswers(options.answers, columns.count);
  const evaluate = (wanted: readonly Atom[]) =>
    amongTraffic(
      evaluateAtoms(wanted, columns, () => {}, clock),
      traffic,
    );
  const memory = new AuditMemory();
  const audited = (one: typeof chain, about?: readonly Finding[]) => {
    const atoms = evaluate(atomsOf(one));
    const flow = runFlow(one, atoms, columns.count);
    const usesOf = (wanted: Parameters<typeof keyUses>[0]) => keyUses(wanted, columns);
    const settings = { clock, memory, ...(about && { about }) };
    return { atoms, findings: auditChain({ chain: one, flow, atoms, mail, usesOf }, settings).findings };
  };
  const { atoms, findings } = audited(chain);
  const planner = new Planner({ chain, mail: valued(mail), atoms, evaluate, findings });
  const made = planner.plan({ answers, metBeside: metByText(beside, clock) });
  const now = audited(made.chain);
  const tidy = tidyFor({
    chain: made.chain,
    ...now,
    evaluate,
    count: columns.count,
    knowledge: memory.knowledge,
    answered: answers.map(({ message }) => message),
  });
  const all = [...made.steps, ...tidy.steps.map((step) => ({ ...step, part: 'tidy' as const, messages: [] }))];
  const { confirmed, gone } = endedBy(all, findings, audited(tidy.chain, findings.filter(isConfirmed)).findings);
  const steps = all.map(({ part, title, messages }, at) => {
    return { id: `s${at + 1}`, part, title, ends: gone.filter(({ step }) => step === at).length, messages };
  });
  const titleOf = (message: number) => {
    const { subject, sender } = mail.messages.at(message) ?? { subject: '', sender: '' };
    return PLAN_WORDS.question(subject, sender);
  };
  const printed = {
    findings: { confirmed, ended: gone.length, left: confirmed - gone.length },
    steps,
    questions: [
      ...made.questions.map((question) => printedQuestion(question, titleOf(question.message))),
      ...planner.made(memory.knowledge).map(printedMade),
    ],
    chain: sieveFromChain(tidy.chain, 'export').text,
  };
  process.stdout.write(`${JSON.stringify(printed)}\n`);
  return 0;
}

/** Tests of the fields that a plan tries, whatever the rules test. */
const TRIED: readonly Atom[] = [isFrom(['']), addressedTo(['to', 'cc'], ['']), ofList(['']), inSubject([''])]
  .flatMap(leavesOf)
  .filter((test): test is Exclude<typeof test, { test: 'hasflag' }> => test.test !== 'hasflag');

const printedQuestion = ({ message, options }: PlannedQuestion, title: string) => ({
  message,
  made: null,
  title,
  options: options.map(({ destination, asNow, messages }) => printedOption(destination, asNow, messages)),
});

/** It is about no stored message. */
const printedMade = ({ text, options }: MadeQuestion) => {
  const { subject, fromAddress } = summaryOf(readMessage(new TextEncoder().encode(text)));
  return {
    message: null,
    made: text,
    title: PLAN_WORDS.made(subject, fromAddress),
    options: options.map(({ destination, asNow }) => printedOption(destination, asNow, 0)),
  };
};

const printedOption = (destination: Destination, asNow: boolean, messages: number) => ({
  folders: destination.folders,
  redirects: destination.redirects,
  discarded: isDiscarded(destination),
  asNow,
  messages,
});

const destinationShape = {
  folders: z.array(z.string().min(1)).default([]),
  redirects: z.array(z.string().min(1)).default([]),
  discarded: z.boolean().default(false),
};
const answerShape = z.union([
  z.object({ message: z.int().min(0), ...destinationShape }),
  z.object({ made: z.string().min(1), ...destinationShape }),
]);

/** What the user answered, about stored messages and about others. */
interface Answered {
  readonly answers: readonly Answer[];
  readonly beside: readonly Beside[];
}

interface Beside {
  /** RFC 5322. */
  readonly text: string;
  readonly destination: Destination;
}

const NOTHING: Answered = { answers: [], beside: [] };

async function readAnswers(path: string, count: number): Promise<Answered> {
  const text = await readFile(await localPath(path), 'utf8').catch((error: Error) => {
    throw new CliError(`${path}: ${error.message}`);
  });
  const read = text.split('\n').flatMap((line, at): (Answer | Beside)[] => {
    if (line.trim() === '') return [];
    const fault = (words: string) => new CliError(`${path}:${at + 1}: ${words}`);
    const found = answerShape.safeParse(parsed(line));
    if (!found.success)
      throw fault('is not an answer: {"message":0,"folders":["Bills"],"redirects":[],"discarded":false}');
    const { folders, redirects, discarded } = found.data;
    if ('message' in found.data && found.data.message >= count)
      throw fault(`there are only ${count} messages, counted from 0`);
    const goesNowhere = folders.length + redirects.length === 0;
    if (discarded && !goesNowhere) throw fault('a message is either discarded, or has folders or redirects');
    // A message that goes nowhere and is not discarded was rejected.
    const destination = canonicalDestination({ folders, redirects, rejected: goesNowhere && !discarded });
    return [
      'made' in found.data ? { text: found.data.made, destination } : { message: found.data.message, destination },
    ];
  });
  return {
    answers: read.filter((one): one is Answer => 'message' in one),
    beside: read.filter((one): one is Beside => 'text' in one),
  };
}

function parsed(line: string): unknown {
  try {
    return JSON.parse(line);
  } catch {
    return null;
  }
}
