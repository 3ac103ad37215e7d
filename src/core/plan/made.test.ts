import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { plannerOver } from '../../../test/letters';
import type { Destination } from '../fates/destination';
import { destinationKey, destinationOf } from '../fates/destination';
import { readMessage } from '../mail/message';
import { Knowledge } from '../reason/knowledge';
import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { interpreter } from '../sieve/interpret/interpret';

const into = (folder: string): Destination => ({ folders: [folder], redirects: [], rejected: false });
const RULES = `
# Club
if header :contains "subject" "choir" { fileinto "Club"; stop; }
`;
const LETTERS = [
  { count: 6, from: 'board@club.example', subject: 'Choir minutes', folder: 'Club' },
  { count: 4, from: 'ann@friends.example', subject: 'Choir tonight', folder: 'Club' },
];

/** Where a text ends, by the interpreter. */
function endOf(chain: Chain, text: string): Destination {
  const message = readMessage(new TextEncoder().encode(text));
  return destinationOf(interpreter(sieveFromChain(chain).script)(message, { from: null, to: null }).fate);
}

describe('questions about made-up messages', () => {
  const { planner } = plannerOver(RULES, LETTERS);
  const answers = [{ message: 7, destination: into('INBOX') }];
  const plan = planner.plan({ answers });
  const questions = planner.made(new Knowledge());

  test('ask which of two changes is meant that treat all stored mail alike', () => {
    const [question] = questions;
    const { text, options, answer } = given(question);
    expect(answer).toBe(0);
    expect(new Set(options.map(({ destination }) => destinationKey(destination))).size).toBe(options.length);
    expect(options.filter(({ asNow }) => asNow)).toHaveLength(1);
    // The interpreter confirms what each option says.
    for (const { chain, destination } of options) expect(endOf(chain, text)).toEqual(destination);
    expect(endOf(plan.chain, text)).toEqual(given(options[0]).destination);
  });

  test('are not asked without an answer', () => {
    const again = plannerOver(RULES, LETTERS).planner;
    expect(again.made(new Knowledge())).toEqual([]);
    again.plan({ answers: [] });
    expect(again.made(new Knowledge())).toEqual([]);
  });

  test.each([0, 1])('the answer chooses the change, and is not asked for again', (at) => {
    const { text, options } = given(questions[0]);
    const wanted = given(options[at]).destination;
    const metBeside = (chain: Chain) =>
      new Set(destinationKey(endOf(chain, text)) === destinationKey(wanted) ? [1] : []);
    const after = plannerOver(RULES, LETTERS).planner;
    const chosen = after.plan({ answers, metBeside });
    expect(endOf(chosen.chain, text)).toEqual(wanted);
    expect(chosen.unmet).toEqual([]);
    expect(after.made(new Knowledge()).map((one) => one.text)).not.toContain(text);
  });
});
