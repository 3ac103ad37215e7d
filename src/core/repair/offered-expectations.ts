import { addressedTo, inSubject, isFrom, ofList } from '../audit/senders';
import type { Valued } from '../audit/stored';
import type { Flow } from '../flow/flow';
import type { TestTree } from '../rules/rule';
import { INBOX } from '../sieve/interpret/fate';
import type { Expectation } from './expectations';

/** The most people suggested, those answered most first. */
const MOST_PEOPLE = 3;
const MOST_LISTS = 3;
/** A list is suggested if this part of its mail has one destination, and it has this many messages. */
const SHARE = 0.9;
const LEAST = 10;
/** A correspondent was written to at least this often. */
const WRITTEN = 3;

const ALL: TestTree = { kind: 'all', children: [] };

/** Expectations that the stored mail suggests, most general first. */
export function offeredExpectations(mail: Valued, flow: Flow, own: readonly string[]): Expectation[] {
  return [
    { name: 'Nothing is lost', tests: ALL, must: { must: 'be kept' } },
    ...(own.length > 0
      ? [
          { name: 'No mail leaves', tests: ALL, must: { must: 'not be sent outside' } } as const,
          { name: 'Mail to me alone', tests: toMeAlone(own), must: { must: 'reach the inbox' } } as const,
        ]
      : []),
    ...correspondents(mail),
    ...lists(mail, flow),
    {
      name: 'Urgent mail is not discarded',
      tests: inSubject(['urgent']),
      must: { must: 'not be dropped' },
    },
  ];
}

/** Addressed to the user, with nobody in Cc and by no mailing list. */
function toMeAlone(own: readonly string[]): TestTree {
  const absent = (header: string): TestTree => ({
    kind: 'none',
    children: [{ kind: 'leaf', test: { test: 'exists', headers: [header] } }],
  });
  return { kind: 'all', children: [addressedTo(['to'], own), absent('cc'), absent('list-id')] };
}

/** People the user writes to, those whose mail was answered or flagged most first. */
function correspondents(mail: Valued): Expectation[] {
  const marked = new Map<string, number>();
  for (const number of mail.known.members()) {
    const { sender } = mail.message(number);
    marked.set(sender, (marked.get(sender) ?? 0) + (mail.marked.has(number) ? 1 : 0));
  }
  const written = new Map<string, number>();
  for (const number of mail.sent.members()) {
    for (const address of mail.message(number).recipients) written.set(address, (written.get(address) ?? 0) + 1);
  }
  return [...marked]
    .filter(([sender]) => (written.get(sender) ?? 0) >= WRITTEN)
    .sort(([a, first], [b, second]) => second - first || (written.get(b) ?? 0) - (written.get(a) ?? 0))
    .slice(0, MOST_PEOPLE)
    .map(([sender]) => ({ name: `Mail from ${sender}`, tests: isFrom([sender]), must: { must: 'not be dropped' } }));
}

/** Lists whose mail has one destination. */
function lists(mail: Valued, { fates }: Flow): Expectation[] {
  const found: { id: string; folder: string; count: number }[] = [];
  for (const [id, numbers] of mail.byList) {
    if (id === '' || numbers.length < LEAST) continue;
    for (const [folder, { messages }] of fates.folders) {
      const there = numbers.filter((number) => messages.has(number)).length;
      if (folder !== INBOX && there >= numbers.length * SHARE) found.push({ id, folder, count: numbers.length });
    }
  }
  return found
    .sort((a, b) => b.count - a.count)
    .slice(0, MOST_LISTS)
    .map(({ id, folder }) => ({ name: `The list ${id}`, tests: ofList([id]), must: { must: 'end in', folder } }));
}
