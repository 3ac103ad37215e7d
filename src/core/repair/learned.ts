import { isFrom, ofDomain, ofList } from '../audit/senders';
import type { Valued } from '../audit/stored';
import type { Flow } from '../flow/flow';
import { domainOf } from '../mail/address';
import type { TestTree } from '../rules/rule';
import { canonicalFolder, INBOX } from '../sieve/interpret/fate';

/** A suggestion from the user's own filing: mail like this is in this folder, and no rule files it there. */
export interface Learned {
  readonly folder: string;
  readonly words: string;
  readonly tests: TestTree;
  /** All matches except sent mail, and those of them in the folder. */
  readonly caught: number;
  readonly right: number;
  /** Messages in the folder that no rule files there, and those of them that match. */
  readonly lying: number;
  readonly there: number;
}

/** The fewest messages that suggest a rule. */
const LEAST = 4;
/** The part of the mail of a sender, domain or list that must be in the folder. */
const PRECISION = 0.9;
const MOST_SENDERS = 20;

/**
 * Rules that the user's own filing suggests, those with the most messages first. The inbox and sent mail suggest
 * nothing.
 */
export function learnedFrom(mail: Valued, { fates }: Flow): Learned[] {
  const byFolder = new Map<string, number[]>();
  for (let number = 0; number < mail.mail.messages.length; number++) {
    const { folder } = mail.message(number);
    if (folder === null || canonicalFolder(folder) === INBOX || mail.sent.has(number)) continue;
    if (fates.folders.get(folder)?.messages.has(number)) continue;
    const there = byFolder.get(folder);
    if (there) there.push(number);
    else byFolder.set(folder, [number]);
  }
  return [...byFolder]
    .flatMap(([folder, numbers]) => (numbers.length < LEAST ? [] : proposalsOf(folder, numbers, mail)))
    .sort((a, b) => b.there - a.there || b.right / b.caught - a.right / a.caught);
}

type KeyOf = (number: number) => string;

function proposalsOf(folder: string, numbers: readonly number[], mail: Valued): Learned[] {
  const ways: [KeyOf, (keys: readonly string[]) => TestTree, (keys: readonly string[]) => string][] = [
    [(number) => mail.message(number).listId ?? '', ofList, (keys) => `of the list ${keys.join(' or ')}`],
    [(number) => senderDomain(mail, number), (keys) => ofDomain(keys), (keys) => `from ${few(keys)}`],
    [(number) => mail.message(number).sender, isFrom, (keys) => `from ${few(keys)}`],
  ];
  const found = ways.flatMap(([keyOf, testsOf, wordsOf]): Learned[] => {
    const keys = preciseKeys(folder, numbers, mail, keyOf);
    if (keys.size === 0 || keys.size > MOST_SENDERS) return [];
    const sums = [...keys.values()];
    const there = sums.reduce((sum, key) => sum + key.there, 0);
    if (there < LEAST) return [];
    const names = [...keys.keys()];
    return [
      {
        folder,
        words: wordsOf(names),
        tests: testsOf(names),
        there,
        caught: sums.reduce((sum, key) => sum + key.caught, 0),
        right: sums.reduce((sum, key) => sum + key.right, 0),
        lying: numbers.length,
      },
    ];
  });
  // Of tests with the same matches, the first is the clearest.
  const [best] = found.sort((a, b) => b.there - a.there || a.caught - b.caught);
  return best ? [best] : [];
}

const senderDomain = (mail: Valued, number: number): string => {
  const { sender } = mail.message(number);
  return sender.includes('@') ? domainOf(sender) : '';
};

/** The keys nearly all of whose mail is in the folder, with their ratios. */
function preciseKeys(folder: string, numbers: readonly number[], mail: Valued, keyOf: KeyOf) {
  const there = new Map<string, number>();
  for (const number of numbers) there.set(keyOf(number), (there.get(keyOf(number)) ?? 0) + 1);
  there.delete('');
  const all = new Map<string, { lying: number; caught: number }>();
  for (let number = 0; number < mail.mail.messages.length; number++) {
    const key = keyOf(number);
    if (!there.has(key) || mail.sent.has(number)) continue;
    const sum = all.get(key) ?? { lying: 0, caught: 0 };
    sum.caught++;
    if (mail.message(number).folder === folder) sum.lying++;
    all.set(key, sum);
  }
  return new Map(
    [...there].flatMap(([key, count]) => {
      const { lying, caught } = all.get(key) ?? { lying: count, caught: count };
      return count >= 2 && lying >= caught * PRECISION ? [[key, { there: count, caught, right: lying }] as const] : [];
    }),
  );
}

const few = (keys: readonly string[]): string =>
  keys.length <= 2 ? keys.join(' or ') : `${keys[0]} and ${keys.length - 1} others`;
