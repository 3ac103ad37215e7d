import type { Assumption } from '../reason/solve/assumptions';
import { figure } from '../text/figure';
import type { Certainty } from './finding';

/**
 * Every sentence of findings: what each kind claims about rules and messages, its evidence, and what a repair would do. The files of the
 * kinds contain no sentences, so that all wording can be read and corrected here. Rules are given by their names.
 */

/** What a proof may assume about messages (`core/reason/solve/assumptions.ts`). */
export const ASSUMPTION_WORDS: Readonly<Record<Assumption, string>> = {
  'one-from': 'From names at most one address',
  'plain-address': 'addresses are written without comments or quotation marks inside',
  'single-fields': 'Subject, Date, To, Cc, Reply-To, Sender and Message-ID each occur at most once',
  'well-formed': 'the message follows RFC 5322 in every detail',
};

/** What one proof assumes. */
export const assumingWords = (assumes: readonly Assumption[]): string =>
  assumes.length === 0
    ? 'The proof assumes nothing about how messages are written.'
    : `The proof assumes that ${assumedThat(assumes)}.`;

const assumedThat = (assumes: readonly Assumption[]): string =>
  assumes.map((one) => ASSUMPTION_WORDS[one]).join(' and that ');

/** A proved claim, with what its proof assumes. */
export const assuming = (claim: string, assumes: readonly Assumption[]): string =>
  assumes.length === 0 ? claim : `${claim}, assuming that ${assumedThat(assumes)}`;

/** What all proofs may assume. */
export const PROOF_ASSUMES = `Any field may be missing, empty, repeated or badly written. A proof names what it assumes beyond that: that ${ASSUMPTION_WORDS['one-from']}, or that ${ASSUMPTION_WORDS['plain-address']}; a comparison of two chains may also assume that ${ASSUMPTION_WORDS['single-fields']}.`;

export const counted = (count: number, one: string, many = `${one}s`): string =>
  `${figure(count)} ${count === 1 ? one : many}`;

/** Names in quotation marks, the rest as a number: “a”, “b” and 3 more. */
export function listed(names: readonly string[], most = 3): string {
  const quoted = names.slice(0, most).map((name) => `“${name}”`);
  const more = names.length - quoted.length;
  if (more > 0) return `${quoted.join(', ')} and ${more} more`;
  const last = quoted.pop();
  return quoted.length === 0 ? (last ?? '') : `${quoted.join(', ')} and ${last}`;
}

const MADE_UP = 'mail like the example message';

/** A number of stored messages; if zero, the example message is named instead. */
const mailOf = (count: number): string => (count > 0 ? counted(count, 'stored message') : MADE_UP);

/** A number of messages with the property that distinguishes them. */
export type Reason = readonly [count: number, words: string];
const reasonsOf = (reasons: readonly Reason[], between: string): string =>
  reasons.map(([count, words]) => `${count} ${words}`).join(between);

/** The stored messages that a rule matches, and the rules that kept them from it. */
function takenBy(held: number, takers: readonly Reason[]): string {
  const named = takers.slice(0, MOST_TAKERS).map(([count, name]) => `“${name}” (${figure(count)})`);
  const others = takers.slice(MOST_TAKERS).reduce((sum, [count]) => sum + count, 0);
  if (others > 0) named.push(`other rules (${figure(others)})`);
  const last = named.pop();
  const matches = `It matches ${counted(held, 'stored message')}`;
  if (last === undefined) return `${matches}.`;
  return `${matches}, which went to ${named.length > 0 ? `${named.join(', ')} and ` : ''}${last}.`;
}

const MOST_TAKERS = 3;

export const CLAIMS = {
  contradiction: (rule: string, cause: 'tests' | 'exceptions'): string =>
    `No message can match “${rule}”: ${cause === 'tests' ? 'its tests contradict each other' : 'its exceptions exempt everything it tests for'}.`,
  shadowed: (rule: string, blamed: readonly string[], held: number, takers: readonly Reason[] = []): string => {
    const names = blamed.map((name) => `“${name}”`).join(' and ') || 'earlier rules';
    const stop = blamed.length === 1 ? 'stops' : 'stop';
    const never = `“${rule}” never acts: ${names} ${stop} every message that it matches.`;
    return held > 0 ? `${never} ${takenBy(held, takers)}` : never;
  },
  'shadowed undecided': (rule: string, reason: string): string =>
    `Whether “${rule}” can ever act is undecided: ${reason}. It acts on no stored message.`,
  loss: (rule: string, does: 'discards' | 'rejects', count: number): string =>
    `“${rule}” ${does} ${mailOf(count)}, and no copy is left.`,
  'forward-risk': (rule: string, targets: readonly string[], risks: readonly string[]): string =>
    `“${rule}” redirects mail to ${targets.join(' and ')}: ${risks.join('; ')}.`,
  unprotected: (rule: string, does: 'loses' | 'files unseen', count: number, reasons: readonly Reason[]): string =>
    does === 'loses'
      ? `“${rule}” loses ${counted(count, 'message')} that you value: ${reasonsOf(reasons, ', ')}.`
      : `“${rule}” files ${counted(count, 'message')} that you value where you have not seen ${count === 1 ? 'it' : 'them'}: ${reasonsOf(reasons, ', ')}.`,
  'exception-bypassed': (
    first: string,
    second: string,
    does: 'discards' | 'rejects' | 'takes away',
    count: number,
  ): string => `“${first}” exempts ${mailOf(count)} that “${second}” ${does} anyway.`,
  'exception-uneven': (first: string, second: string, count: number): string =>
    `“${first}” exempts ${mailOf(count)}; “${second}” has no such exception and has the same destination.`,
  'exception-void': (rule: string, exception: string, applies: 'never' | 'always'): string =>
    applies === 'never'
      ? `“${rule}” has an exception that never applies (${exception}): no message matches both the rule and this exception.`
      : `“${rule}” has an exception that always applies (${exception}): every message that matches the rule is exempt.`,
  'exception-narrow': (rule: string, count: number, reasons: readonly Reason[]): string =>
    `“${rule}” acts on ${counted(count, 'message')} closely related to mail that it exempts: ${reasonsOf(reasons, '; ')}.`,
  'cut-short': (first: string, second: string, missed: readonly string[], count: number): string =>
    `“${first}” stops ${mailOf(count)} before “${second}” can ${missed.join(' and ')}.`,
  'order-conflict': (first: string, second: string, changed: number, both: number): string => {
    const mail =
      changed > 0
        ? `${figure(changed)} of the ${counted(both, 'stored message')} that match both would be treated differently`
        : `${MADE_UP} would be treated differently`;
    return `“${first}” comes before “${second}”; in the other order, ${mail}.`;
  },
  'runs-on': (first: string, second: string, what: Conflict, count: number): string => {
    const mail = count > 0 ? `the same ${count === 1 ? 'message' : `${figure(count)} messages`}` : MADE_UP;
    return `“${first}” does not stop, so it and “${second}” conflict: ${CONFLICTS[what](mail)}.`;
  },
  'runs-on each': (first: string, second: string, what: Conflict, count: number): string => {
    const mail = count > 0 ? `the same ${count === 1 ? 'message' : `${figure(count)} messages`}` : MADE_UP;
    return `“${first}” and “${second}” both act, and conflict: ${CONFLICTS[what](mail)}.`;
  },
  'hidden-unread': (rule: string, unseen: number, folders: readonly string[]): string =>
    `“${rule}” files past the inbox, and ${counted(unseen, 'message')} of it ${unseen === 1 ? 'is' : 'are'} still unseen in ${listed(folders)}.`,
  'placement-disagrees': (rule: string, folders: readonly string[], count: number, folder: string): string =>
    `“${rule}” files into ${listed(folders)}, but you keep ${counted(count, 'message')} of this mail in “${folder}”.`,
  'too-broad': (
    rule: string,
    key: string,
    where: 'subject' | 'sender' | 'body',
    count: number,
    words: readonly string[],
    domains: number,
  ): string => {
    const senders = domains > 1 ? `, from ${counted(domains, 'unrelated domain')} in all` : '';
    const field = where === 'sender' ? 'From' : `the ${where}`;
    return `“${rule}” looks for “${key}” in ${field} and also matches ${counted(count, 'message')} where it is only part of ${listed(words)}${senders}.`;
  },
  'too-narrow': (rule: string, count: number, reasons: readonly Reason[]): string =>
    `“${rule}” misses ${counted(count, 'message')} that ${count === 1 ? 'belongs' : 'belong'} to the mail it matches: ${reasonsOf(reasons, ', ')}.`,
  'too-narrow key': (rule: string, key: string, why: string): string => `“${rule}” looks for “${key}”: ${why}.`,
  'unknown field': (rule: string, name: string, near: string): string =>
    `“${rule}” tests the field ${name}, which no stored message has; some have ${near}.`,
  'bulk-word': (rule: string, word: string, count: number): string => {
    const looks = `“${rule}” takes mail for bulk mail because it contains “${word}”`;
    return count > 0
      ? `${looks}; ${counted(count, 'stored message')} of these ${count === 1 ? 'is' : 'are'} from people you know.`
      : `${looks}; people who quote such mail write it too.`;
  },
  'missing-folder': (rule: string, missing: readonly string[]): string =>
    `“${rule}” files into ${listed(missing)}, and no imported message is in such a folder.`,
  redundant: (rule: string, certainty: Certainty, count: number): string => {
    const acts = count > 0 ? ` It acts on ${counted(count, 'stored message')}.` : '';
    return certainty === 'proved'
      ? `“${rule}” is redundant: without it every message has the same destination and flags.${acts}`
      : `Whether “${rule}” is redundant is undecided; without it no stored message changes its destination.${acts}`;
  },
  mergeable: (rules: readonly string[]): string =>
    `${listed(rules)} do the same and can become one rule; no message would change its destination.`,
  'subsumed-test': (rule: string, part: string): string =>
    `In “${rule}”, ${part} is superfluous: without it every message has the same destination and flags.`,
  'idle over': (rule: string): string => `“${rule}” can never act again: the dates that it tests for are in the past.`,
  'runs-on itself': (rule: string): string =>
    `“${rule}” both files and discards its mail: the mail is filed, and discarding has no effect.`,
  idle: (rule: string, last: number | null, held: number, takers: readonly Reason[] = []): string => {
    if (last !== null) return `“${rule}” has acted on no message since ${day(last)}.`;
    const none = `“${rule}” has acted on no stored message.`;
    return held > 0 ? `${none} ${takenBy(held, takers)}` : none;
  },
  overlap: (first: string, second: string, count: number): string =>
    `“${first}” and “${second}” both match ${mailOf(count)}.`,
  'not-portable': (rule: string, isUnsayable: boolean, costs: readonly string[]): string =>
    isUnsayable
      ? `“${rule}” is not portable to the chosen server: ${costs.join('; ')}.`
      : `“${rule}” is exported with a difference: ${costs.join('; ')}.`,
};

/** How two rules disagree about a message, and what each does with the message. */
const CONFLICTS = {
  'file twice': (mail: string) => `both file ${mail}`,
  'file and discard': (mail: string) => `one files and the other discards ${mail}`,
  'file and reject': (mail: string) => `one files and the other rejects ${mail}`,
  'reject and discard': (mail: string) => `one rejects and the other discards ${mail}`,
} as const;
export type Conflict = keyof typeof CONFLICTS;

/** “31 January 2026”, in UTC. */
const day = (time: number): string =>
  new Date(time).toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' });

/** Why a key matches less than it seems to. */
export const KEY_FAULTS = {
  wildcard: 'an asterisk is a wildcard only in patterns; here only text with an asterisk matches',
  'no wildcard': 'a pattern without wildcards matches only values that are exactly this text',
  domain: 'a domain contains no @, so no address matches',
  'local part': 'a local part is what comes before the @, so no address matches',
  detail: 'the detail and the user of an address are parts of what comes before the @, so no address matches',
  'display name': 'a test of addresses never sees display names, so no address matches',
} as const;

/** What an audit could not judge. */
export const NOTES = {
  'one folder': (count: number): string =>
    `All ${counted(count, 'imported message')} are in one folder: whether rules file into missing folders, or elsewhere than you do, is not judged.`,
};

/** What a later rule could do with mail that an earlier rule stops. */
export const MISSED = {
  mark: (it: 'it' | 'them'): string => `mark ${it}`,
  keep: (it: 'it' | 'them'): string => `keep ${it} in the inbox`,
  copy: (it: 'it' | 'them'): string => `copy ${it}`,
};

export const RISKS = {
  own: 'this is one of your own addresses, so the mail can come back and loop',
  'no copy': 'no copy is kept',
  all: 'all mail leaves for another domain',
  most: 'most mail leaves for another domain',
  personal: (count: number): string => `${counted(count, 'personal message')} left for another domain`,
  bounces: (address: string, count: number): string =>
    `${counted(count, 'stored message')} ${count === 1 ? 'reports' : 'report'} that mail to ${address} could not be delivered`,
};

/** What the messages counted by a reason have in common. */
export const REASONS = {
  known: 'from people you have written to',
  marked: 'answered or flagged',
  alone: 'to you alone',
  conversation: 'in the same conversation',
  'same people': 'from other addresses of the same people',
  'related domains': 'from related domains',
  'other spelling': 'with the exempt words in another spelling',
  'other script': 'with a subject in another script',
  subdomains: 'from subdomains',
  'same domain': 'from other addresses at the same domain',
  'same list': 'of the same list',
};

/** By kind: what “7 of 9” counts, to be followed by these words. */
export const STRENGTHS = {
  loss: 'messages it acts on are lost',
  'forward-risk': 'messages it acts on are redirected',
  unprotected: 'messages it acts on are valued',
  'exception-narrow': 'messages it acts on are related to exempt mail',
  'hidden-unread': 'messages in its folders are unseen',
  'placement-disagrees': 'messages it acts on are in that folder',
  'too-broad': 'messages it acts on have the key inside another word',
  'too-narrow': 'messages of this kind are missed',
  idle: 'stored messages are acted on',
};

const CORRECTED = {
  contains: 'whether the value contains',
  pattern: 'for the pattern',
  key: 'for',
  header: 'whether the whole field contains',
} as const;

/** What a repair would do, as an instruction. */
export const REPAIRS = {
  'exempt senders': (rule: string, senders: readonly string[]): string =>
    `Add an exception to “${rule}” for mail from ${listed(senders)}`,
  'exempt domains': (rule: string, domains: readonly string[]): string =>
    `Add an exception to “${rule}” for all mail from ${listed(domains)}`,
  'exempt subjects': (rule: string, words: readonly string[]): string =>
    `Add an exception to “${rule}” for subjects with ${listed(words)}`,
  'exempt own': (rule: string): string => `Add an exception to “${rule}” for mail to you and to no list`,
  'exempt rule': (rule: string, other: string): string =>
    `Add an exception to “${rule}” for mail that matches “${other}”`,
  'same exceptions': (rule: string, other: string): string => `Add the exceptions of “${other}” to “${rule}”`,
  'no exceptions': (rule: string): string => `Remove the exceptions from “${rule}”`,
  'without exception': (rule: string, exception: string): string => `Remove an exception from “${rule}”: ${exception}`,
  'test for no subject': (rule: string): string =>
    `Test for a missing or empty subject in “${rule}”, instead of exempting letters and digits`,
  'file instead': (rule: string, does: 'discards' | 'rejects'): string =>
    `File the mail that “${rule}” ${does} into “Doubtful”`,
  'mark instead': (rule: string, does: 'discards' | 'rejects'): string =>
    `Keep the mail that “${rule}” ${does} in the inbox, marked $Doubtful`,
  'inbox too': (rule: string): string => `Keep the mail that “${rule}” files in the inbox too`,
  'keep a copy': (rule: string): string => `Keep a copy of the mail that “${rule}” redirects`,
  'catch senders': (rule: string, senders: readonly string[]): string => `Add ${listed(senders)} to “${rule}”`,
  'catch domains': (rule: string, domains: readonly string[]): string =>
    `Add all mail from ${listed(domains)} and subdomains to “${rule}”`,
  'catch list': (rule: string, list: string): string => `Add all mail of the list ${list} to “${rule}”`,
  'test for senders': (rule: string, senders: readonly string[]): string =>
    `Test for ${listed(senders)} in “${rule}” instead`,
  'test field': (rule: string, name: string): string => `Test the field ${name} in “${rule}” instead`,
  'test for bulk': (rule: string): string => `Test for List-Unsubscribe, List-Id or Precedence in “${rule}” instead`,
  'existing folder': (rule: string, folder: string): string =>
    `Let “${rule}” file into the existing folder “${folder}”`,
  'make folder': (rule: string, folders: readonly string[]): string =>
    `Let “${rule}” create ${listed(folders)} if missing`,
  'leave in inbox': (rule: string): string => `Leave the mail that “${rule}” files in the inbox`,
  'all into': (rule: string, folder: string): string => `Let “${rule}” file all of its mail into “${folder}”`,
  'a rule of its own': (rule: string, senders: readonly string[], folder: string): string =>
    `Add a rule that files mail from ${listed(senders)} into “${folder}”, and exempt it from “${rule}”`,
  merge: (first: string, others: readonly string[]): string => `Merge ${listed(others)} into “${first}”`,
  'correct key': (rule: string, keys: readonly string[], how: 'contains' | 'pattern' | 'key' | 'header'): string =>
    `Let “${rule}” test ${CORRECTED[how]} ${listed(keys)}`,
  'only file': (rule: string): string => `Remove the discard from “${rule}”`,
  'only discard': (rule: string): string => `Let “${rule}” only discard`,
  'leave out': (rule: string, part: string): string => `Remove ${part} from “${rule}”`,
};

/** The names of parts of a rule, as used within a sentence. */
export const PARTS = {
  exception: (words: string): string => `the exception (${words})`,
  key: (key: string): string => `the key “${key}”`,
  test: (words: string): string => `the test (${words})`,
};
