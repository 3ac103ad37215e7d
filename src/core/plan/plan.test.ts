import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { type Letters, plannerOver } from '../../../test/letters';
import { isFrom } from '../audit/senders';
import { type Destination, destinationOf, isDiscarded } from '../fates/destination';
import { evaluateAtoms } from '../flow/atoms';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import type { Expectation } from '../repair/expectations';
import type { Chain } from '../rules/rule';
import { isSame } from '../rules/same';
import { Planner } from './plan';
import type { Answer, Plan } from './planned';
import { Trials } from './trials';

const letters = (count: number, from: string, subject: string, folder: string): Letters => ({
  count,
  from,
  subject,
  folder,
});

/** Plans for rules over letters in the order given. */
function planned(script: string, mail: readonly Letters[], answers: readonly Answer[] = []) {
  const { input, columns } = plannerOver(script, mail);
  const plan = new Planner(input).plan({ answers });
  const placesUnder = (one: Chain): Destination[] => {
    const run = runFlow(one, evaluateAtoms(atomsOf(one), columns), columns.count);
    return Array.from({ length: columns.count }, (_, at) => destinationOf(run.fates.fateOf(at)));
  };
  return { plan, input, before: placesUnder(input.chain), after: placesUnder(plan.chain) };
}

const into = (folder: string): Destination => ({ folders: [folder], redirects: [], rejected: false });
const ORDER = `
# School
if address :domain :is "from" "school.example" { fileinto "School"; stop; }
# Bookings
if header :contains "subject" "booking" { fileinto "Bookings"; stop; }
`;
const SCHOOL = [
  letters(8, 'office@school.example', 'Booking of the hall', 'INBOX'),
  letters(12, 'office@school.example', 'Term dates', 'School'),
  letters(5, 'hall@village.example', 'Booking', 'Bookings'),
];

describe('a plan', () => {
  test('mends what the own filing is one-sided about, and moves nothing else', () => {
    const script = '# Bills\nif address :domain :is "from" "power.example" { fileinto "Bils"; stop; }';
    const mail = [letters(20, 'bill@power.example', 'Your bill', 'Bills'), letters(9, 'ann@a.example', 'Hi', 'INBOX')];
    const { plan, after } = planned(script, mail);
    expect(plan.steps.map(({ part }) => part)).toEqual(['mend']);
    expect(plan.steps[0]?.messages).toHaveLength(20);
    expect(after.slice(0, 20).every(({ folders }) => folders.join() === 'Bills')).toBe(true);
    expect(after.slice(20).every(({ folders }) => folders.join() === 'INBOX')).toBe(true);
  });

  test('mail of one sender that came into the inbox while the rule filed that of others was taken back there', () => {
    const script = '# Club\nif header :contains "subject" "choir" { fileinto "Club"; stop; }';
    const club = letters(6, 'board@club.example', 'Choir minutes', 'Club');
    const ann = letters(7, 'ann@friends.example', 'Choir tonight', 'INBOX');
    const late = planned(script, [club, ann]);
    expect(late.plan.steps.map(({ part, messages }) => [part, messages.length])).toEqual([['mend', 7]]);
    expect(late.after.map(({ folders }) => folders.join())).toEqual([
      ...Array(6).fill('Club'),
      ...Array(7).fill('INBOX'),
    ]);
    // What came before the rule filed anything may only be older than the rule.
    expect(planned(script, [ann, club]).plan.steps).toEqual([]);
  });

  test('looks again after it mended: mail filed twice by then is mended too', () => {
    const script = `
# Paid
if header :contains "subject" "paid" { fileinto "Paid"; stop; }
# Shop
if address :domain :is "from" "shop.example" { fileinto "Shop"; }
`;
    const mail = [
      letters(12, 'till@shop.example', 'Order paid', 'Shop'),
      letters(6, 'bank@bank.example', 'Paid', 'Paid'),
    ];
    const { plan, after } = planned(script, mail);
    expect(plan.steps.every(({ part }) => part === 'mend')).toBe(true);
    expect(after.slice(0, 12).every(({ folders }) => folders.join() === 'Shop')).toBe(true);
    expect(after.slice(12).every(({ folders }) => folders.join() === 'Paid')).toBe(true);
  });

  test('of several ways to mend, one that sends copies of mail away is not taken', () => {
    const script = `
# Paid
if header :contains "subject" "paid" { fileinto "Paid"; stop; }
# Till
if address :is "from" "till@shop.example" { redirect :copy "ann@home.example"; fileinto "Shop"; stop; }
`;
    const mail = [
      letters(12, 'till@shop.example', 'Order paid', 'Shop'),
      letters(6, 'bank@bank.example', 'Paid', 'Paid'),
    ];
    const { plan, after } = planned(script, mail);
    expect(plan.steps).toHaveLength(1);
    expect(after.slice(0, 12)).toEqual(Array(12).fill(into('Shop')));
  });

  test('asks where the evidence is not one-sided, and the order of two rules is settled by one answer', () => {
    const { plan } = planned(ORDER, SCHOOL);
    const question = plan.questions.find(({ message }) => message < 8);
    expect(question?.options.map(({ destination }) => destination.folders.join())).toContain('Bookings');
    expect(question?.options.filter(({ asNow }) => asNow)).toHaveLength(1);
    const answered = planned(ORDER, SCHOOL, [{ message: 3, destination: into('Bookings') }]);
    expect(answered.after.slice(0, 8).every(({ folders }) => folders.join() === 'Bookings')).toBe(true);
    expect(answered.after.slice(8, 20).every(({ folders }) => folders.join() === 'School')).toBe(true);
  });

  test('a user who answers “as it is now” keeps all mail where it is, but for what is mended', () => {
    const answers: Answer[] = [];
    for (let round = 0; round < 6; round++) {
      const { plan, before, after } = planned(ORDER, SCHOOL, answers);
      expect(plan.steps.filter(({ part }) => part === 'answer')).toEqual([]);
      const mended = new Set(plan.steps.flatMap(({ messages }) => messages));
      before.forEach((place, at) => {
        if (!mended.has(at)) expect(after[at]).toEqual(place);
      });
      const [question] = plan.questions;
      const now = question?.options.find(({ asNow }) => asNow);
      if (!question || !now) break;
      answers.push({ message: question.message, destination: now.destination });
    }
    expect(new Set(answers.map(({ message }) => message)).size).toBe(answers.length);
  });

  test('every answer is kept, also where it needs an exception and a rule of its own', () => {
    const mail = [
      letters(6, 'ann@friends.example', 'Minutes of the choir', 'INBOX'),
      letters(6, 'board@club.example', 'Minutes', 'Club'),
    ];
    const script = '# Minutes\nif header :contains "subject" "minutes" { fileinto "Club"; stop; }';
    const answers: Answer[] = [
      { message: 2, destination: into('Choir') },
      { message: 8, destination: into('Club') },
    ];
    const { after } = planned(script, mail, answers);
    for (const { message, destination } of answers) expect(after[message]).toEqual(destination);
  });

  test('mail is only discarded where the user says so', () => {
    const script = '# Offers\nif header :contains "subject" "offer" { fileinto "Offers"; stop; }';
    const mail = [
      letters(10, 'shop@tools.example', 'Offer of the week', 'Offers'),
      letters(10, 'ann@friends.example', 'My offer', 'Offers'),
    ];
    const nowhere: Destination = { folders: [], redirects: [], rejected: false };
    const { after } = planned(script, mail, [{ message: 4, destination: nowhere }]);
    expect(after.slice(0, 10).every(isDiscarded)).toBe(true);
    expect(after.slice(10).some(isDiscarded)).toBe(false);
  });

  test('one planner asked again and again takes the steps that a new one takes', () => {
    const answers: Answer[] = [
      { message: 3, destination: into('Bookings') },
      { message: 10, destination: into('School') },
      { message: 21, destination: into('Village') },
    ];
    const { input } = planned(ORDER, SCHOOL);
    const planner = new Planner(input);
    const orders = [answers.slice(0, 1), answers.slice(0, 2), answers, answers.slice(1), []];
    for (const some of orders) {
      const [again, fresh] = [planner.plan({ answers: some }), new Planner(input).plan({ answers: some })];
      expect(again.chain).toEqual(fresh.chain);
      expect(again.steps.map(({ title }) => title)).toEqual(fresh.steps.map(({ title }) => title));
    }
  });

  test('who answers every question with “as it is now” changes nothing but what is mended', () => {
    const script = `${ORDER}
# Bills
if address :domain :is "from" "power.example" { fileinto "Bils"; stop; }
# Hall
if header :contains "subject" "hall" { fileinto "Hall"; }`;
    const mail = [...SCHOOL, letters(20, 'bill@power.example', 'Your bill', 'Bills')];
    const { input } = planned(script, mail);
    const planner = new Planner(input);
    const mended = planner.plan({ answers: [] });
    const answers: Answer[] = [];
    for (let plan = mended; plan.questions[0] && answers.length < 40; plan = planner.plan({ answers })) {
      const [{ message, options }] = plan.questions;
      const now = given(options.find(({ asNow }) => asNow));
      answers.push({ message, destination: now.destination });
    }
    expect(answers.length).toBeGreaterThan(1);
    const plan = planner.plan({ answers });
    expect(plan.questions).toEqual([]);
    expect(plan.steps.map(({ part }) => part)).toEqual(['mend']);
    expect(plan.chain).toEqual(mended.chain);
  });

  test('what the user expects keeps a step from being taken', () => {
    const script = '# Bills\nif address :domain :is "from" "power.example" { fileinto "Bils"; stop; }';
    const mail = [letters(20, 'bill@power.example', 'Your bill', 'Bills'), letters(9, 'ann@a.example', 'Hi', 'INBOX')];
    const { input, plan } = planned(script, mail);
    const [step] = plan.steps;
    expect(step?.part).toBe('mend');
    const tests = isFrom(['bill@power.example']);
    const expectation: Expectation = { name: 'Bills', tests, must: { must: 'end in', folder: 'Bils' } };
    expect(new Planner(input).plan({ answers: [], expectations: [expectation] }).steps).toEqual([]);
    // Nor is one that the user left out.
    expect(new Planner(input).plan({ answers: [], left: new Set([given(step).title]) }).steps).toEqual([]);
  });

  test('an answer for more messages than one change brings there asks for further changes', () => {
    const { input } = planned(ORDER, SCHOOL);
    const scope = isFrom(['office@school.example']);
    const { steps, chain, unmet } = new Planner(input).plan({
      answers: [{ message: 0, destination: into('Village'), scope }],
    });
    expect(unmet).toEqual([]);
    expect(steps.every(({ answer }) => answer === 0)).toBe(true);
    const after = new Trials(input.atoms, input.evaluate, 25);
    const ends = Array.from({ length: 25 }, (_, at) => after.placeOf(chain, at).destination);
    expect(ends.slice(0, 20)).toEqual(Array(20).fill(into('Village')));
    expect(ends.slice(20)).toEqual(Array(5).fill(into('Bookings')));
  });

  test('what was skipped is not asked about in another guise', () => {
    const { input, plan } = planned(ORDER, SCHOOL);
    const [question] = plan.questions;
    const message = given(question).message;
    const { questions } = new Planner(input).plan({ answers: [], skipped: [message] });
    const moved = (one: Plan['questions'][number]) => one.options.flatMap(({ edits }) => edits);
    expect(questions.map((one) => one.message)).not.toContain(message);
    expect(questions.some((one) => isSame(moved(one), moved(given(question))))).toBe(false);
  });

  test('without mail and rules there is nothing to do', () => {
    const empty: Pick<Plan, 'steps' | 'questions'> = planned('', []).plan;
    expect(empty.steps).toEqual([]);
    expect(empty.questions).toEqual([]);
  });
});
