import { expect, test } from 'vitest';
import { cli, write } from '../../test/cli';
import { ownJson } from '../core/text/lookup';

const rules = write(
  'plan.sieve',
  `require "fileinto";
# School
if address :domain :is "from" "school.example" { fileinto "School"; stop; }
# Bookings
if header :contains "subject" "booking" { fileinto "Bookings"; stop; }
`,
);
const letter = (at: number, subject: string) =>
  `From office@school.example Thu Jan  1 00:00:00 2026
From: office@school.example
To: kit@home.example
Subject: ${subject} ${at}
Message-ID: <${at}@school.example>

Text.

`;
const mail = write(
  'plan.mbox',
  Array.from({ length: 12 }, (_, at) => letter(at, at < 5 ? 'Booking of the hall' : 'Term dates')).join(''),
);

interface Printed {
  readonly findings: { readonly confirmed: number; readonly ended: number; readonly left: number };
  readonly steps: readonly { readonly id: string; readonly part: string; readonly messages: readonly number[] }[];
  readonly questions: readonly {
    readonly message: number | null;
    readonly made: string | null;
    readonly options: readonly {
      readonly folders: readonly string[];
      readonly asNow: boolean;
      readonly messages: number;
    }[];
  }[];
  readonly chain: string;
}

const planned = (...more: string[]): Printed => {
  const { status, out, err } = cli('plan', '--rules', rules, '--messages', mail, '--me', 'kit@home.example', ...more);
  expect([status, err]).toEqual([0, '']);
  return ownJson<Printed>(out);
};

test('a plan asks about mail that a rule never gets, and an answer moves the rule up', () => {
  const { findings, questions } = planned();
  expect(findings.left).toBe(findings.confirmed - findings.ended);
  const [question] = questions;
  expect(question?.message).toBeLessThan(5);
  expect(question?.options.map(({ folders, asNow }) => [folders, asNow])).toEqual(
    expect.arrayContaining([
      [['Bookings'], false],
      [['School'], true],
    ]),
  );
  const answers = write('answers.jsonl', `{"message":${question?.message},"folders":["Bookings"]}\n\n`);
  const { steps, chain } = planned('--answers', answers);
  expect(steps).toMatchObject([{ id: 's1', part: 'answer', messages: [0, 1, 2, 3, 4] }]);
  const script = write('planned.sieve', chain);
  expect(cli('check', script)).toEqual({ status: 0, out: '', err: '' });
  const fates = cli('simulate', '--rules', script, '--messages', mail).out.trim().split('\n');
  const folders = fates.map((line) =>
    ownJson<{ deliveries: { folder: string }[] }>(line).deliveries.map(({ folder }) => folder),
  );
  expect(folders).toEqual(Array.from({ length: 12 }, (_, at) => [at < 5 ? 'Bookings' : 'School']));
});

test('a question about a made-up message is answered by its text', () => {
  const first = '{"message":0,"folders":["Village"]}\n';
  const { questions } = planned('--answers', write('village.jsonl', first));
  const made = questions.filter((one) => one.made !== null);
  expect(made.length).toBeGreaterThan(0);
  const [{ made: text, options }] = made as [Printed['questions'][number]];
  for (const { folders } of options) {
    const second = JSON.stringify({ made: text, folders });
    const { chain } = planned('--answers', write('both.jsonl', `${first}${second}\n`));
    const messages = write('made.eml', text ?? '');
    const { out } = cli('simulate', '--rules', write('both.sieve', chain), '--messages', messages);
    const { deliveries } = ownJson<{ deliveries: { folder: string }[] }>(out);
    expect(deliveries.map(({ folder }) => folder)).toEqual(folders);
  }
});

test('answers that cannot be read are refused with their line', () => {
  const refused = (text: string) => {
    const file = write('refused.jsonl', text);
    const { status, err } = cli('plan', '--rules', rules, '--messages', mail, '--answers', file);
    expect(status).toBe(1);
    return err.trim();
  };
  expect(refused('{"message":0,"folders":["A"]}\nnonsense\n')).toMatch(/refused\.jsonl:2: is not an answer/);
  expect(refused('{"message":99,"folders":["A"]}')).toMatch(/:1: there are only 12 messages/);
  expect(refused('{"message":1,"folders":["A"],"discarded":true}')).toMatch(/:1: a message is either discarded/);
});
