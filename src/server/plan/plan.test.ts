import { describe, expect, test, vi } from 'vitest';
import { given } from '../../../test/given';
import { addFile, audit, goTo, id, job, store, withAudit, work } from '../../../test/harness';
import { canonicalDestination, type Destination, destinationOf } from '../../core/fates/destination';
import { archiveOf, auditFromArchive } from '../audits/archive';
import { createAudit } from '../audits/audits';
import { flowAtOnce } from '../chain/simulation';
import { history, makeChange, makeChanges, takingBack } from '../changes/changes';
import { dropExpectation, listExpectations } from '../changes/expectations';
import { openStore } from '../database/open';
import { findingsAtHand, setAside } from '../findings/set-aside';
import { perform } from '../jobs/perform';
import { dropProbe, keepProbe } from '../mail/probes';
import { getPlan, maybePlan } from './kept';
import { decline, reconsider, saidOf } from './said';
import { giveAnswer, scopesView } from './scopes';
import { takeAnswerBack, takeSteps } from './take';
import { planView } from './view';

withAudit();

const into = (...folders: string[]): Destination => canonicalDestination({ folders, redirects: [], rejected: false });
const plan = () => perform(store, job(), { kind: 'plan' });
const shown = () => given(planView(store, id).plan);
const endOf = (message: number): Destination =>
  destinationOf(given(flowAtOnce(store, audit(), audit().draft)).fates.fateOf(message));

const RULES = `require ["fileinto"];
# School
if address :domain :is "from" "school.example" { fileinto "School"; stop; }
# Bookings
if header :contains "subject" "booking" { fileinto "Bookings"; stop; }
# Power
if address :domain :is "from" "power.example" { fileinto "Bils"; stop; }
# Twice
if header :contains "subject" ["rota", "the rota"] { fileinto "Rota"; stop; }
`;

interface Letters {
  readonly count: number;
  readonly from: string;
  readonly subject: string;
}

/** One file a folder, as clients export them. */
const MAIL: Readonly<Record<string, readonly Letters[]>> = {
  INBOX: [{ count: 8, from: 'office@school.example', subject: 'Booking of the hall' }],
  School: [{ count: 12, from: 'office@school.example', subject: 'Term dates' }],
  Bookings: [{ count: 5, from: 'hall@village.example', subject: 'Booking' }],
  Bills: [{ count: 20, from: 'bill@power.example', subject: 'Your bill' }],
};

/** The first messages of each folder, in the order in which they were imported. */
const [HALL, TERM, BILL] = [0, 8, 25];

async function begin(rules = RULES, mail = MAIL): Promise<void> {
  goTo(createAudit(store, 'plan'));
  await addFile('rules.sieve', rules);
  let number = 0;
  for (const [folder, letters] of Object.entries(mail)) {
    const texts = letters.flatMap(({ count, from, subject }) =>
      Array.from({ length: count }, (_, at) => {
        number++;
        return `From x@y.example Thu Jan  1 10:00:00 2026\nFrom: ${from}\nTo: kit@home.example\nSubject: ${subject} ${at}\nMessage-ID: <${number}@home.example>\nStatus: RO\n\nText ${number}.\n\n`;
      }),
    );
    await addFile(`${folder}.mbox`, texts.join(''));
    await work();
  }
}

describe('the plan of an audit', () => {
  test('is worked out, followed by answers, taken step by step, and each step is undone alone', async () => {
    await begin();
    expect(planView(store, id)).toMatchObject({ ruled: true, plan: null, isAwaited: true });
    await plan();
    const view = planView(store, id);
    expect(view.isAwaited).toBe(false);
    expect(view.plan?.tidy?.steps.map(({ title }) => title)).toEqual(['In “Twice”, remove the key “the rota”']);
    expect(view.plan?.tidy).toMatchObject({ before: { keys: 5 }, after: { keys: 4 } });
    expect(view.plan?.mend).toMatchObject([{ messages: 20, agree: 20, against: 0 }]);
    const question = given(view.plan?.questions.find(({ subject }) => subject.startsWith('Booking of the hall')));
    expect(question.options.some(({ asNow, destination }) => asNow && destination.folders[0] === 'School')).toBe(true);

    // What the user says of the hall is kept as an expectation, and asks for a change.
    const scopes = scopesView(store, id, { message: question.message, destination: into('Bookings') });
    const scope = given(scopes.scopes[scopes.chosen]);
    expect(scope).toMatchObject({ messages: 8, there: 8, against: null });
    const answer = giveAnswer(store, id, {
      message: question.message,
      destination: into('Bookings'),
      scope: scope.tests,
      name: 'Hall',
    });
    expect(answer).toHaveProperty('id');
    expect(planView(store, id).isAwaited).toBe(true);
    // The next question is there before the plan follows.
    expect(shown().questions.some(({ message }) => message === question.message)).toBe(false);
    await plan();
    const [given1] = planView(store, id).answers;
    expect(given1).toMatchObject({ isUnmet: false });
    expect(given1?.steps).toHaveLength(1);

    const mend = given(shown().mend[0]);
    takeSteps(store, id, [mend.key]);
    expect(endOf(BILL)).toEqual(into('Bills'));
    expect(endOf(HALL)).toEqual(into('School'));
    await plan();
    takeSteps(
      store,
      id,
      given(planView(store, id).answers[0]).steps.map(({ key }) => key),
    );
    expect(endOf(HALL)).toEqual(into('Bookings'));
    expect(endOf(TERM)).toEqual(into('School'));
    const { done } = planView(store, id);
    expect(done.map(({ part, messages }) => [part, messages])).toEqual([
      ['answer', 8],
      ['mend', 20],
    ]);
    // The first of them is undone; the later one stays.
    const { edits, words } = takingBack(store, audit(), given(done[1]).id);
    makeChanges(store, id, [{ edits, why: '', words, undoes: given(done[1]).id }]);
    expect(endOf(BILL)).toEqual(into('Bils'));
    expect(endOf(HALL)).toEqual(into('Bookings'));
    expect(planView(store, id).done.map(({ part }) => part)).toEqual(['answer']);
    // An audit that is exported and opened again knows all of it.
    const again = auditFromArchive(store, JSON.parse(JSON.stringify(archiveOf(store, id))));
    expect(archiveOf(store, again)).toEqual(archiveOf(store, id));
    // The answer was wrong: its change goes with it.
    takeAnswerBack(store, id, given(planView(store, id).answers[0]).id);
    expect(endOf(HALL)).toEqual(into('School'));
    expect(planView(store, id)).toMatchObject({ answers: [], done: [] });
  });

  test('leaves out what is not wanted, and proposes it again', async () => {
    await begin();
    await plan();
    const { title } = given(shown().mend[0]);
    decline(store, id, { kind: 'step', what: title, reason: 'the folder is meant' });
    expect(shown().mend).toEqual([]);
    await plan();
    expect(planView(store, id)).toMatchObject({ left: [{ title, reason: 'the folder is meant' }], isAwaited: false });
    expect(shown().mend).toEqual([]);
    reconsider(store, id, { kind: 'step', what: title });
    await plan();
    expect(shown().mend.map((step) => step.title)).toEqual([title]);
  });

  test('considers repairs of findings that a stronger one repeats, unless that was set aside', async () => {
    const rules = `require ["fileinto"];
# Numbers
if header :contains "subject" "order" { fileinto "Shop"; }
# Cards
if address :domain :is "from" "pay.example" { fileinto "Payments"; stop; }
`;
    await begin(rules, {
      Payments: [{ count: 12, from: 'card@pay.example', subject: 'Paid for order' }],
      Shop: [{ count: 6, from: 'till@shop.example', subject: 'New order' }],
    });
    await plan();
    const kinds = findingsAtHand(store, audit()).map(({ kind }) => kind);
    expect(kinds).toContain('runs-on');
    expect(kinds).not.toContain('order-conflict');
    expect(shown().mend.map(({ title }) => title)).toEqual(['Move “Cards” directly before “Numbers”']);
    for (const { key } of findingsAtHand(store, audit())) setAside(store, id, key, 'meant so');
    expect(planView(store, id).isAwaited).toBe(true);
    await plan();
    // The user's filing still speaks for it, but no finding does.
    expect(getPlan(store, audit(), saidOf(store, id)).steps.flatMap(({ findings }) => findings)).toEqual([]);
  });

  test('takes no step that a kept probe speaks against', async () => {
    await begin();
    keepProbe(store, id, 'bill', Buffer.from('From: other@power.example\nSubject: A bill\n\nx\n'), 'Bils');
    await plan();
    expect(shown().mend).toEqual([]);
  });

  test('asks about a made-up message where stored mail does not tell which change is meant, and follows the answer', async () => {
    await begin();
    await plan();
    const wanted = { message: HALL, destination: into('Village') };
    const { scopes, chosen } = scopesView(store, id, wanted);
    giveAnswer(store, id, { ...wanted, scope: given(scopes[chosen]).tests, name: 'Hall' });
    await plan();
    const [made] = shown().made;
    const { key, text, options, answer } = given(made);
    expect(answer).toContain('Village');
    const other = given(options[1]);
    const probe = keepProbe(store, id, 'to come', Buffer.from(text), other.line);
    await perform(store, job(), { kind: 'simulate' });
    await plan();
    expect(shown().made.map((one) => one.key)).not.toContain(key);
    const [step] = given(planView(store, id).answers[0]).steps;
    expect(step?.title).toBe(other.title);
    expect(planView(store, id).beside).toEqual([{ id: probe, name: 'to come', expected: other.line }]);
    // Skipped instead, it is not asked again either.
    dropProbe(store, id, probe);
    decline(store, id, { kind: 'made', what: key });
    await perform(store, job(), { kind: 'simulate' });
    await plan();
    expect(shown().made.map((one) => one.key)).not.toContain(key);
    expect(planView(store, id).skipped).toBe(1);
  });

  test('is given up once another thread changes what it is about', async () => {
    await begin();
    await perform(store, job(), { kind: 'simulate' });
    const other = openStore(given(process.env.YSOMERIS_DATABASE));
    let [time, looks] = [Date.now(), 0];
    vi.spyOn(Date, 'now').mockImplementation(() => {
      time += 1000;
      return time;
    });
    const checkpoint = () => {
      looks++;
      if (looks === 5) decline(other, id, { kind: 'question', what: HALL });
    };
    expect(await perform(store, { ...job(), checkpoint }, { kind: 'plan' })).toBe('the audit was changed meanwhile');
    vi.restoreAllMocks();
    other.$client.close();
    await plan();
    expect(planView(store, id).skipped).toBe(1);
  });

  test('does not ask again what was skipped', async () => {
    await begin();
    await plan();
    const { message } = given(shown().questions[0]);
    decline(store, id, { kind: 'question', what: message });
    await plan();
    expect(shown().questions.map((question) => question.message)).not.toContain(message);
    expect(planView(store, id).skipped).toBe(1);
  });

  test('an answer that contradicts an earlier one is not kept, and says which', async () => {
    await begin();
    await plan();
    const all = scopesView(store, id, { message: HALL, destination: into('Bookings') }).scopes;
    const sender = given(all.find(({ by }) => by === 'sender' || by === 'domain'));
    const first = { message: TERM, destination: into('School'), scope: sender.tests, name: 'Terms' };
    const kept = giveAnswer(store, id, first);
    const second = { message: HALL, destination: into('Bookings'), scope: sender.tests, name: 'Hall' };
    const refused = giveAnswer(store, id, second);
    expect(refused).toMatchObject({ against: { message: TERM, shared: 20 } });
    expect(listExpectations(store, id)).toHaveLength(1);
    // Both messages alone are in the scope of the first: it is taken back.
    if ('id' in kept) dropExpectation(store, id, kept.id);
    expect(giveAnswer(store, id, second)).toHaveProperty('id');
  });

  test('an answer that no change gives is said to be one', async () => {
    await begin();
    await plan();
    // The two differ in nothing by which people would tell them apart.
    for (const [message, folder] of [[HALL, 'Bookings'] as const, [HALL + 1, 'Elsewhere'] as const]) {
      const [alone] = scopesView(store, id, { message, destination: into(folder) }).scopes;
      const said = { message, destination: into(folder), scope: given(alone).tests, name: folder };
      expect(giveAnswer(store, id, said)).toHaveProperty('id');
    }
    await plan();
    expect(planView(store, id).answers.map(({ isUnmet }) => isUnmet)).toEqual([false, true]);
  });

  test('a change by hand makes a plan of its own', async () => {
    await begin();
    await plan();
    const before = getPlan(store, audit(), saidOf(store, id));
    makeChange(store, id, [{ kind: 'switch', id: given(audit().draft.entries[3]).id, on: false }], 'by hand');
    expect(maybePlan(store, audit(), saidOf(store, id))).toBeNull();
    await plan();
    expect(getPlan(store, audit(), saidOf(store, id)).tidy?.steps).not.toEqual(before.tidy?.steps);
    expect(history(store, id).map(({ origin }) => origin)).toEqual([null]);
  });
});
