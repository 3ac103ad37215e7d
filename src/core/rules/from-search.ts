import { maybeSingleAddress } from '../mail/address';
import { WITH_ATTACHMENT } from './ready-tests';
import type { LeafTest, TestTree, TextMatch } from './rule';
import { ANYWHERE } from './sheet-conditions';
import { offersUnsubscribing } from './unsubscribing';

/** How a list of stored messages is narrowed, as far as a rule may say the same. */
export interface Search {
  /** Words that must all occur; those in quotation marks in a row. */
  readonly search?: string | undefined;
  /** Parts of sender and subject. */
  readonly from?: string | undefined;
  readonly subject?: string | undefined;
  /** An address that the message came from or went to. */
  readonly person?: string | undefined;
  readonly list?: string | undefined;
  /** The own address it was delivered to. */
  readonly account?: string | undefined;
  /** The first and last day of its date, as YYYY-MM-DD. */
  readonly since?: string | undefined;
  readonly until?: string | undefined;
  readonly isAttached?: boolean;
  readonly unsubscribe?: 'offered' | 'none' | undefined;
  /** The words for unsubscribing in the languages of the stored mail. */
  readonly unsubscribing: readonly string[];
  readonly tests?: TestTree | undefined;
  /** Names of narrowings that look at more than the message: where it is, or what rules do to it. */
  readonly others: readonly string[];
}

export interface Searched {
  /** Null if nothing of it can be said by a rule. */
  readonly tests: TestTree | null;
  /** A name for the rule. */
  readonly name: string;
  /** Where a rule says something slightly else, in sentences. */
  readonly inexact: readonly string[];
  /** What no rule can say, by name. */
  readonly unsaid: readonly string[];
}

const COMPARATOR = 'i;ascii-casemap';
const leaf = (test: LeafTest): TestTree => ({ kind: 'leaf', test });
const text = (match: TextMatch['match'], keys: readonly string[]) => ({ match, comparator: COMPARATOR, keys });
const contains = (headers: readonly string[], key: string): TestTree =>
  leaf({ test: 'header', headers, ...text('contains', [key]) });

/** The tests of a rule for the messages of a search, in the nearest form. */
export function ruleOfSearch(search: Search): Searched {
  const inexact: string[] = [];
  const names: string[] = [];
  const trees: TestTree[] = [];
  const add = (name: string, tree: TestTree, remark?: string) => {
    names.push(name);
    trees.push(tree);
    if (remark !== undefined) inexact.push(remark);
  };
  const { from, subject, person, list, account, since, until, unsubscribe, tests } = search;
  if (tests) add('', tests);
  const words = wordsOf(search.search ?? '');
  if (words.length > 0) add(words.join(' '), all(words.map((word) => ANYWHERE([word]))), WORDS);
  if (from) add(from, contains(['from'], from));
  if (subject) add(subject, contains(['subject'], subject));
  if (person) add(person, addressed(['from', 'to', 'cc'], person));
  if (list) add(list, contains(['list-id'], list));
  if (account) add(account, addressed(['delivered-to', 'to', 'cc'], account), ACCOUNT);
  if (since) add(`since ${since}`, dated('ge', since), DATES);
  if (until) add(`until ${until}`, dated('le', until), since ? undefined : DATES);
  if (search.isAttached) add('attachments', leaf(WITH_ATTACHMENT), ATTACHED);
  if (unsubscribe) {
    const offers = offersUnsubscribing(search.unsubscribing);
    add('unsubscribing', unsubscribe === 'offered' ? offers : { kind: 'none', children: [offers] }, UNSUBSCRIBING);
  }
  const name = names.filter((one) => one !== '').join(', ');
  return {
    tests: trees.length === 0 ? null : all(trees),
    name: name.slice(0, LONGEST),
    inexact,
    unsaid: search.others,
  };
}

const LONGEST = 80;
const WORDS =
  'The search finds words from their beginning, in all of a message; the rule finds them within longer words too, in Subject, From, To, Cc and the body.';
const ACCOUNT = 'The rule looks for this address in Delivered-To, To and Cc.';
const DATES = 'The rule compares the date that the sender wrote.';
const ATTACHED = 'The rule looks for parts that are marked as attachments.';
const UNSUBSCRIBING = 'The search finds whole words; the rule finds them within longer words too.';

const all = (trees: readonly TestTree[]): TestTree =>
  trees.length === 1 && trees[0] ? trees[0] : { kind: 'all', children: trees };

/** Words, and words in quotation marks as one. */
const wordsOf = (asked: string): string[] =>
  [...asked.matchAll(/"([^"]*)"|([^\s"]+)/g)]
    .map(([, exact, word]) => (exact ?? word ?? '').trim())
    .filter((word) => /[\p{L}\p{N}]/u.test(word));

function addressed(headers: readonly string[], address: string): TestTree {
  if (!maybeSingleAddress(address)) return contains(headers, address);
  return leaf({ test: 'address', headers, part: 'all', ...text('is', [address]) });
}

/** Days are compared in universal time, as the search does (RFC 5260 section 4). */
const dated = (relation: 'ge' | 'le', day: string): TestTree =>
  leaf({
    test: 'compared',
    subject: { of: 'date', header: 'date', part: 'date', zone: '+0000' },
    by: { match: 'value', relation, comparator: COMPARATOR, keys: [day] },
  });
