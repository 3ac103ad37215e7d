import { addressedTo, inSubject, isFrom, ofList } from '../audit/senders';
import type { Valued } from '../audit/stored';
import { counted } from '../audit/wording';
import type { TestTree } from '../rules/rule';
import { INBOX } from '../sieve/interpret/fate';
import type { Expectation } from './expectations';

/** An expectation, with what the user did that suggests it; null for one that most users have. */
export interface OfferedExpectation extends Expectation {
  readonly because: string | null;
}

/** The most people suggested, those answered most first. */
const MOST_PEOPLE = 3;
const MOST_LISTS = 3;
/** A list is suggested if this part of its mail is kept in one folder, and it has this many messages. */
const SHARE = 0.9;
const LEAST = 10;
/** A correspondent was written to at least this often. */
const WRITTEN = 3;

const ALL: TestTree = { kind: 'all', children: [] };

/**
 * What most users expect, most general first, and what the user's own acts show: whom they write to and answer, and where
 * they keep mail. Nothing follows from what the chain does now.
 */
export function offeredExpectations(mail: Valued, own: readonly string[]): OfferedExpectation[] {
  const common: Expectation[] = [
    { name: 'Nothing is lost', tests: ALL, must: { must: 'be kept' } },
    ...(own.length > 0
      ? [
          { name: 'No mail leaves', tests: ALL, must: { must: 'not be sent outside' } } as const,
          { name: 'Mail to me alone', tests: toMeAlone(own), must: { must: 'reach the inbox' } } as const,
        ]
      : []),
    { name: 'Urgent mail is not discarded', tests: inSubject(['urgent']), must: { must: 'not be dropped' } },
  ];
  return [...common.map((one) => ({ ...one, because: null })), ...correspondents(mail), ...lists(mail)];
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
function correspondents(mail: Valued): OfferedExpectation[] {
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
    .map(([sender, count]) => ({
      name: `Mail from ${sender}`,
      tests: isFrom([sender]),
      must: { must: 'not be dropped' },
      because: becauseWritten(written.get(sender) ?? 0, count),
    }));
}

function becauseWritten(written: number, marked: number): string {
  const wrote = `you wrote to this address ${written === 1 ? 'once' : `${written} times`}`;
  return marked === 0 ? wrote : `${wrote}, and answered or flagged ${counted(marked, 'message')} from it`;
}

/** Lists whose mail the user keeps in one folder. */
function lists(mail: Valued): OfferedExpectation[] {
  if (mail.isOneFolder) return [];
  const found: { id: string; folder: string; there: number; all: number }[] = [];
  for (const [id, numbers] of mail.byList) {
    if (numbers.length < LEAST) continue;
    const counts = new Map<string, number>();
    for (const number of numbers) {
      const { folder } = mail.message(number);
      if (folder === null || folder === INBOX || mail.purposeOf(folder) !== null) continue;
      counts.set(folder, (counts.get(folder) ?? 0) + 1);
    }
    const [most] = [...counts].sort(([, a], [, b]) => b - a);
    if (most && most[1] >= numbers.length * SHARE) {
      found.push({ id, folder: most[0], there: most[1], all: numbers.length });
    }
  }
  return found
    .sort((a, b) => b.all - a.all)
    .slice(0, MOST_LISTS)
    .map(({ id, folder, there, all }) => ({
      name: `The list ${id}`,
      tests: ofList([id]),
      must: { must: 'end in', folder },
      because: `you keep ${there} of its ${counted(all, 'message')} in “${folder}”`,
    }));
}
