import { expect, test } from 'vitest';
import { addFile, FROM, id, simulated, store, withAudit, work } from '../../../test/harness';
import { maybeBetterProfile, profilesView } from './profile-view';

withAudit();

const RULES = `require "fileinto";
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; }
# Beams
if header :contains "subject" "beam" { fileinto "Beams"; }
`;

const mail = (subject: string, count: number) =>
  Array.from(
    { length: count },
    (_, at) =>
      `${FROM}\nFrom: a@b.example\nMessage-ID: <${subject.replace(' ', '')}${at}@b>\nSubject: ${subject}\n\nx\n\n`,
  ).join('');

test('stored mail that only the first rule filed speaks for a program in which the first rule ends it', async () => {
  await addFile('rules.sieve', RULES);
  await addFile('Oak.mbox', mail('oak beam', 6));
  await addFile('Beams.mbox', mail('beam', 4));
  await work();
  await simulated();
  const { choices } = profilesView(store, id);
  expect(Object.fromEntries(choices.map(({ id: way, agreement }) => [way, agreement?.lying]))).toMatchObject({
    sieve: 10,
    first: 10,
  });
  expect(maybeBetterProfile(store, id)).toMatchObject({
    title: 'Only the first rule that matches acts',
    lying: 10,
    of: 10,
  });
});

test('where the rules explain the mail as they run, nothing is proposed', async () => {
  await addFile('rules.sieve', RULES.replace('"Oak"; }', '"Oak"; stop; }'));
  await addFile('Oak.mbox', mail('oak beam', 6));
  await addFile('Beams.mbox', mail('beam', 4));
  await work();
  await simulated();
  expect(maybeBetterProfile(store, id)).toBeNull();
});
