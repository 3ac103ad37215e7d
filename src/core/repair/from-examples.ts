import { getDomain } from 'tldts';
import { addressedTo, inSubject, isFrom, ofDomain, ofList } from '../audit/senders';
import type { StoredMessage, Valued } from '../audit/stored';
import type { Bitmap } from '../flow/bitmap';
import { domainOf } from '../mail/address';
import type { LeafTest, TestTree } from '../rules/rule';
import { elementAt } from '../text/lookup';

/** A test that some messages have in common. */
export interface Proposal {
  readonly words: string;
  readonly tests: TestTree;
}

/** A test with its matches. */
export interface Weighed extends Proposal {
  /** Among the selected messages. */
  readonly ofChosen: number;
  /** Among all others, except sent mail. */
  readonly others: number;
}

/** The most senders written into a rule. */
const MOST_SENDERS = 20;
/** Shorter words and phrases are not typical of a subject. */
const SHORTEST = 4;
const MOST_WORDS = 6;

/**
 * Tests that the selected messages suggest: their senders, their domains with and without subdomains, their mailing
 * list, the detail address they were sent to (RFC 5233), common words of their subjects, and mail from or to these
 * people.
 */
export function proposalsFor(chosen: readonly StoredMessage[], mail: Valued): Proposal[] {
  const own = mail.mail.own;
  const senders = distinct(chosen.map(({ sender }) => sender)).filter((sender) => sender !== '' && !own.has(sender));
  const people = senders.length > 0 && senders.length <= MOST_SENDERS ? senders : [];
  const domains = distinct(people.filter((sender) => sender.includes('@')).map((sender) => domainOf(sender)));
  const lists = distinct(chosen.flatMap(({ listId }) => listId ?? []));
  const details = distinct(chosen.flatMap(({ recipients }) => recipients)).filter((address) =>
    isDetailed(address, own),
  );
  const inCommon = commonWords(chosen.map(({ subject }) => subject));
  const parents = distinct(domains.map(parentOf));
  const bySender: Proposal[] =
    people.length === 0
      ? []
      : [
          { words: `from ${spoken(people)}`, tests: isFrom(people) },
          { words: `from or to ${spoken(people)}`, tests: bothWays(people) },
        ];
  const bySubject = [
    ...patterns(chosen.map(({ subject }) => subject)),
    ...inCommon.map((words) => ({ words: `with “${words}” in the subject`, tests: inSubject([words]) })),
  ];
  const byDomain: Proposal[] =
    people.length === 0
      ? []
      : [
          { words: `from any address at ${spoken(domains)}`, tests: ofDomain(domains) },
          {
            words: `from any address at ${spoken(parents)} and its subdomains`,
            tests: either(
              ofDomain(parents),
              ofDomain(
                parents.map((domain) => `*.${domain}`),
                'matches',
              ),
            ),
          },
          ...inCommon.map((words) => ({
            words: `from ${spoken(people)}, with “${words}” in the subject`,
            tests: both(isFrom(people), inSubject([words])),
          })),
        ];
  // Messages of several people were probably selected for their subject.
  const first = people.length > 1 ? [...bySubject, ...bySender] : [...bySender, ...bySubject];
  const proposals: Proposal[] = [
    ...lists.map((id) => ({ words: `of the list ${id}`, tests: ofList([id]) })),
    ...details.map((address) => ({ words: `to ${address}`, tests: addressedTo(['to', 'cc'], [address]) })),
    ...first,
    ...byDomain,
  ];
  const keys = new Set<string>();
  return proposals.filter(({ tests }) => {
    const key = JSON.stringify(tests);
    return keys.has(key) ? false : keys.add(key);
  });
}

/** A test that matches this part of all mail, and more than this many messages, was probably not intended. */
const FLOOD = 0.2;
const LEAST_FLOOD = 20;

/**
 * Proposals with their matches, most fitting first: those that match more of the selected messages; then those that do
 * not match a large part of all mail; then simpler ones, in the order proposed. `caught`: the messages that match a
 * proposal, by index.
 */
export function ranked(
  proposals: readonly Proposal[],
  caught: readonly Bitmap[],
  chosen: Bitmap,
  sent: Bitmap,
): Weighed[] {
  const isFlood = ({ others }: Weighed) => others > Math.max(LEAST_FLOOD, chosen.size * FLOOD);
  return proposals
    .map((proposal, index): Weighed => {
      const all = elementAt(caught, index);
      return { ...proposal, ofChosen: all.and(chosen).count(), others: all.without(chosen).without(sent).count() };
    })
    .filter(({ ofChosen }) => ofChosen > 0)
    .sort((a, b) => b.ofChosen - a.ofChosen || Number(isFlood(a)) - Number(isFlood(b)));
}

const distinct = (values: readonly string[]): string[] => [...new Set(values)];
const both = (...children: TestTree[]): TestTree => ({ kind: 'all', children });
const either = (...children: TestTree[]): TestTree => ({ kind: 'any', children });
const bothWays = (people: readonly string[]): TestTree => either(isFrom(people), addressedTo(['to', 'cc'], people));

function spoken(names: readonly string[]): string {
  return names.length <= 2 ? names.join(' or ') : `${names[0]} or ${names.length - 1} others`;
}

/** An own address with a detail after a plus sign (RFC 5233 section 4; the sign is common practice). */
function isDetailed(address: string, own: ReadonlySet<string>): boolean {
  const plain = address.replace(/^([^+@]+)\+[^@]*@/, '$1@');
  return plain !== address && (own.has(plain) || own.size === 0);
}

/**
 * The domain that its owner registered, below a public suffix such as `com` or `co.uk`; the domain itself if there is
 * none. For suffixes that are not known, such as `example`, the last two labels.
 */
export const parentOf = (domain: string): string => getDomain(domain, { validateHostname: false }) ?? domain;

/** Words or phrases that all subjects contain, longest first, without reply prefixes. */
function commonWords(subjects: readonly string[]): string[] {
  const bare = subjects.map((subject) => withoutMarks(subject));
  const [first, ...others] = bare;
  if (!first || first === '') return [];
  const held = (words: string) => others.every((other) => other.toLowerCase().includes(words.toLowerCase()));
  const words = first.split(/\s+/);
  const found: string[] = [];
  const taken = new Set<number>();
  for (let length = Math.min(words.length, MOST_WORDS); length > 0; length--) {
    for (let at = 0; at + length <= words.length; at++) {
      const places = Array.from({ length }, (_, index) => at + index);
      const phrase = words
        .slice(at, at + length)
        .join(' ')
        .replace(/^[\s:,;.!?-]+|[\s:,;.!?-]+$/g, '');
      if ([...phrase].length < SHORTEST || /^\d+$/.test(phrase) || !held(phrase)) continue;
      // A part of a longer phrase is less specific.
      if (places.some((place) => taken.has(place))) continue;
      found.push(phrase);
      for (const place of places) taken.add(place);
    }
  }
  return found.slice(0, MOST_PHRASES);
}

const MOST_PHRASES = 3;

/** The pattern of subjects that are equal except for numbers. */
function patterns(subjects: readonly string[]): Proposal[] {
  const forms = distinct(
    subjects.map((subject) =>
      withoutMarks(subject)
        .replace(/[\\*?]/g, '\\$&')
        .replace(/\d+/g, '*'),
    ),
  );
  const [form, another] = forms;
  if (
    form === undefined ||
    another !== undefined ||
    !form.includes('*') ||
    form.replace(/[\s*]/g, '').length < SHORTEST
  ) {
    return [];
  }
  const test: LeafTest = {
    test: 'header',
    headers: ['subject'],
    match: 'matches',
    comparator: 'i;ascii-casemap',
    keys: [`*${form}`],
  };
  return [{ words: `with a subject like “${form}”`, tests: { kind: 'leaf', test } }];
}

/** Without the prefixes of replies and forwarded mail (common practice). */
export const withoutMarks = (subject: string): string =>
  subject.replace(/^(\s*(re|fw|fwd|aw|wg|tr|sv|antw)\s*:)+\s*/i, '').trim();
