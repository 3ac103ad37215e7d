import type { Certainty } from './finding';

/**
 * All that findings say: what each kind claims of the rules and messages at hand, how strong that is, and what a repair would do. Kinds
 * themselves write no sentences, so that all of them can be read, corrected and translated here. Rules are given by their names.
 */

/** What every proof takes for granted of messages (`core/reason/lower.ts`), as a user should know it. */
export const PROOF_ASSUMES =
  'It is taken for granted that a message has well-formed header fields without control characters, one sender in From, each of Sender, To, Cc, Bcc, Reply-To, Subject, Date and Message-ID at most once, addresses without comments, backslashes or stray quotation marks in them, and an envelope with a sender and a recipient.';

/** The kinds, the weightiest first: what each says in general, and a small example of it. */
export const KINDS = {
  loss: {
    title: 'Lost',
    meaning: 'Mail is dropped or refused, and no copy is left anywhere.',
    example: 'A rule drops all mail with “account” in the subject, and the accountant writes about one.',
  },
  unprotected: {
    title: 'Valued mail hit',
    meaning: 'Mail you value is dropped, refused or filed unseen by a rule that exempts none of it.',
    example: 'A rule drops prizes and lotteries, and with them a letter about a prize by somebody you answer.',
  },
  'forward-risk': {
    title: 'Risky sending on',
    meaning: 'Mail leaves for another domain, leaves no copy, or can come back and go round.',
    example: 'A rule redirects mail to another of your own addresses, from where it comes back.',
  },
  'exception-bypassed': {
    title: 'Exception bypassed',
    meaning: 'Mail that one rule exempts is taken away by another one all the same.',
    example: 'Newsletters are filed, but not those of the walkers; a rule for the walkers files them all the same.',
  },
  'exception-uneven': {
    title: 'Exception on one side',
    meaning: 'Of two rules with the same destination only one has an exception, and there is mail it matters for.',
    example: 'Two rules file into “Photos”, and only one of them exempts what Ann sends.',
  },
  'exception-narrow': {
    title: 'Exception too narrow',
    meaning: 'Close relatives of what a rule exempts are not exempt.',
    example: 'One officer of the council is exempt, and his colleagues who write about the same matter are not.',
  },
  'exception-void': {
    title: 'Empty exception',
    meaning: 'An exception that can never apply, or that always does.',
    example: 'A rule for mail from one domain exempts a sender of another domain.',
  },
  'cut-short': {
    title: 'Ended too early',
    meaning: 'An earlier rule ends mail before a later one could mark, copy or keep it.',
    example: 'Backups are filed and it ends there; the rule that flags backups that failed stands behind.',
  },
  shadowed: {
    title: 'Never reached',
    meaning: 'The rule can hold, but earlier rules always end such mail first.',
    example: 'All mail of the river levels is filed first, so that the rule for flood warnings never sees any.',
  },
  'order-conflict': {
    title: 'Order decides',
    meaning: 'Two rules hold for the same mail, and where it ends depends on which of them comes first.',
    example: 'An invoice of the oak yard goes to the accounts, since the rule for invoices comes first.',
  },
  'runs-on': {
    title: 'Runs on',
    meaning: 'An earlier rule lets later rules run, and one of them treats the same mail differently.',
    example: 'The rule for the list has no ending, so that its photos are filed twice.',
  },
  'hidden-unread': {
    title: 'Piles up unseen',
    meaning: 'Mail passes the inbox by and lies unseen in its folder.',
    example: 'Pictures of the weir camera are filed past the inbox, and nobody looks into the folder.',
  },
  'placement-disagrees': {
    title: 'You file it elsewhere',
    meaning: 'You keep this mail in another folder than the rule would put it into.',
    example: 'Mail of the insurance is filed into “Insurance”, and you keep moving it to “Claims”.',
  },
  'too-broad': {
    title: 'Catches too much',
    meaning: 'A word also matches where it is only a part of other words.',
    example: '“ann” stands in Hannah and in Joanna too.',
  },
  'too-narrow': {
    title: 'Misses some',
    meaning: 'The same sender, domain or list has mail that the rule misses.',
    example: 'The grants office writes from a subdomain as well, which the rule does not name.',
  },
  'missing-folder': {
    title: 'No such folder',
    meaning: 'The rule files into a folder that does not exist.',
    example: 'A rule files into “Suppliers/Iron”, and there is no such folder.',
  },
  contradiction: {
    title: 'Cannot hold',
    meaning: 'No message there could be makes the tests of the rule hold with none of its exceptions.',
    example: 'A rule asks for mail over 5 MB and under 1 MB.',
  },
  redundant: {
    title: 'Adds nothing',
    meaning: 'Without the rule every message ends the same way.',
    example: 'A rule files what one address sends, and the next rule files it into the same folder anyway.',
  },
  mergeable: {
    title: 'Could be one',
    meaning: 'Rules that do the same and could be one, with every fate unchanged.',
    example: 'Two oak yards, two rules, one folder.',
  },
  'subsumed-test': {
    title: 'Needless test',
    meaning: 'A test, key or exception can be left out without changing any fate.',
    example: 'A rule names a domain, and one address of that domain besides.',
  },
  'not-portable': {
    title: 'Not said as it is',
    meaning: 'The chosen server cannot be told the rule, or only at a cost.',
    example: 'A rule looks at the text of messages, and the server knows no such test.',
  },
  idle: {
    title: 'Idle',
    meaning: 'The rule has acted on none of the stored mail, or not for a year.',
    example: 'A rule for a list that was closed years ago.',
  },
  overlap: {
    title: 'Overlap',
    meaning: 'Two rules hold for the same mail. Often meant; worth knowing before either is changed.',
    example: 'One rule flags what is urgent, another one files what the grants office sends: some mail is both.',
  },
} as const satisfies Readonly<
  Record<string, { readonly title: string; readonly meaning: string; readonly example: string }>
>;

/** The identifiers are fixed. `not-portable` is stated for a target, at hand-over. */
export type FindingKind = keyof typeof KINDS;

export const figure = (count: number): string => count.toLocaleString('en-GB');

export const counted = (count: number, one: string, many = `${one}s`): string =>
  `${figure(count)} ${count === 1 ? one : many}`;

/** “a”, “b” and 3 more. */
export function listed(names: readonly string[], most = 3): string {
  const quoted = names.slice(0, most).map((name) => `“${name}”`);
  const more = names.length - quoted.length;
  if (more > 0) return `${quoted.join(', ')} and ${more} more`;
  const last = quoted.pop();
  return quoted.length === 0 ? (last ?? '') : `${quoted.join(', ')} and ${last}`;
}

const MADE_UP = 'mail such as the message made up here';

/** Stored messages by their number; where there are none, the one that was made up. */
const mailOf = (count: number): string => (count > 0 ? counted(count, 'stored message') : MADE_UP);

/** A number of messages with what sets them apart. */
export type Reason = readonly [count: number, words: string];
const reasonsOf = (reasons: readonly Reason[], between: string): string =>
  reasons.map(([count, words]) => `${count} ${words}`).join(between);

export const CLAIMS = {
  contradiction: (rule: string, cause: 'tests' | 'exceptions'): string =>
    `“${rule}” can hold for no message: ${cause === 'tests' ? 'its tests contradict each other' : 'its exceptions exempt all it tests for'}.`,
  shadowed: (rule: string, blamed: readonly string[], held: number): string => {
    const names = blamed.map((name) => `“${name}”`).join(' and ') || 'earlier rules';
    const seen = held === 1 ? ', as one stored message is' : `, as ${counted(held, 'stored message')} are`;
    return `“${rule}” can never act: whatever it holds for is taken before by ${names}${held > 0 ? seen : ''}.`;
  },
  'shadowed undecided': (rule: string, reason: string): string =>
    `Whether “${rule}” can act at all could not be settled: ${reason}. It acts on no message at hand.`,
  loss: (rule: string, does: 'drops' | 'refuses', count: number): string =>
    `“${rule}” ${does} ${mailOf(count)}, and no copy is left anywhere.`,
  'forward-risk': (rule: string, targets: readonly string[], risks: readonly string[]): string =>
    `“${rule}” sends mail on to ${targets.join(' and ')}: ${risks.join('; ')}.`,
  unprotected: (rule: string, does: 'loses' | 'files unseen', count: number, reasons: readonly Reason[]): string =>
    `“${rule}” ${does} ${counted(count, 'message')} that you value: ${reasonsOf(reasons, ', ')}.`,
  'exception-bypassed': (
    first: string,
    second: string,
    does: 'drops' | 'refuses' | 'takes away',
    count: number,
  ): string => `“${first}” exempts ${mailOf(count)} that “${second}” ${does} all the same.`,
  'exception-uneven': (first: string, second: string, count: number): string =>
    `“${first}” exempts ${mailOf(count)} that “${second}”, which has no exception, takes to the same place.`,
  'exception-void': (rule: string, exception: string, applies: 'never' | 'always'): string =>
    applies === 'never'
      ? `The exception “${exception}” of “${rule}” can never apply: no mail that the rule tests for is so.`
      : `The exception “${exception}” of “${rule}” always applies: all mail that the rule tests for is so.`,
  'exception-narrow': (rule: string, count: number, reasons: readonly Reason[]): string =>
    `The exceptions of “${rule}” are narrower than they look: it acts on ${counted(count, 'close relative')} of what it exempts (${reasonsOf(reasons, '; ')}).`,
  'cut-short': (first: string, second: string, missed: readonly string[], count: number): string =>
    `“${first}” ends ${mailOf(count)} before “${second}” could ${missed.join(' and ')}.`,
  'order-conflict': (first: string, second: string, changed: number, both: number): string => {
    const mail =
      changed > 0
        ? `${figure(changed)} of the ${counted(both, 'stored message')} for which both hold would be treated differently`
        : `${MADE_UP} would be treated differently`;
    return `“${first}” comes before “${second}”; the other way round, ${mail}.`;
  },
  'runs-on': (
    first: string,
    second: string,
    what: 'file and drop' | 'file and refuse' | 'file twice',
    count: number,
  ) => {
    const same = `the same ${count === 1 ? 'message' : `${figure(count)} messages`}`;
    const mail = count > 0 ? same : 'a message such as the one made up here';
    return `“${first}” lets later rules run, so it and “${second}” ${what} ${mail}.`;
  },
  'hidden-unread': (rule: string, unseen: number, folders: readonly string[]): string =>
    `“${rule}” files past the inbox, and ${counted(unseen, 'message')} of it lie unseen in ${listed(folders)}.`,
  'placement-disagrees': (rule: string, folders: readonly string[], count: number, folder: string): string =>
    `“${rule}” files into ${listed(folders)}, but you keep ${counted(count, 'message')} of it in “${folder}”.`,
  'too-broad': (
    rule: string,
    key: string,
    where: 'subject' | 'sender',
    count: number,
    words: readonly string[],
    domains: number,
  ): string => {
    const senders = domains > 1 ? `, from ${counted(domains, 'unrelated domain')} in all` : '';
    return `“${rule}” looks for “${key}” in the ${where} and also catches ${counted(count, 'message')} where it is only a part of ${listed(words)}${senders}.`;
  },
  'too-narrow': (rule: string, count: number, reasons: readonly Reason[]): string =>
    `“${rule}” misses ${counted(count, 'message')} that belong to what it catches: ${reasonsOf(reasons, ', ')}.`,
  'missing-folder': (rule: string, missing: readonly string[]): string =>
    `“${rule}” files into ${listed(missing)}, and there is no such folder in the mail that was brought in.`,
  redundant: (rule: string, certainty: Certainty, count: number): string => {
    const acts = count > 0 ? ` It acts on ${counted(count, 'stored message')}.` : '';
    return certainty === 'proved'
      ? `“${rule}” adds nothing: without it every message ends the same way.${acts}`
      : `Whether “${rule}” adds anything could not be settled; without it no message at hand ends otherwise.${acts}`;
  },
  mergeable: (first: string, second: string): string =>
    `“${first}” and “${second}” do the same and could be one rule; no message would end otherwise.`,
  'subsumed-test': (rule: string, part: string): string =>
    `In “${rule}”, ${part} adds nothing: without it every message ends the same way.`,
  idle: (rule: string, last: number | null, held: number): string => {
    if (last !== null) return `“${rule}” has acted on nothing since ${new Date(last).toISOString().slice(0, 10)}.`;
    const none = `“${rule}” has acted on none of the stored mail`;
    return held > 0 ? `${none}: it holds for ${counted(held, 'message')}, which earlier rules ended.` : `${none}.`;
  },
  overlap: (first: string, second: string, count: number): string =>
    `“${first}” and “${second}” both hold for ${mailOf(count)}.`,
  'not-portable': (rule: string, isUnsayable: boolean, costs: readonly string[]): string =>
    isUnsayable
      ? `“${rule}” cannot be said to the chosen server: ${costs.join('; ')}.`
      : `“${rule}” is said to the chosen server at a cost: ${costs.join('; ')}.`,
};

/** What a later rule could have done with mail that was ended before. */
export const MISSED = {
  mark: (it: 'it' | 'them'): string => `mark ${it}`,
  keep: (it: 'it' | 'them'): string => `keep ${it} in the inbox`,
  copy: (it: 'it' | 'them'): string => `copy ${it}`,
};

export const RISKS = {
  own: 'that is one of your own addresses, so it can come back and go round',
  'no copy': 'no copy is kept',
  all: 'all mail leaves for another domain',
  most: 'most mail leaves for another domain',
  personal: (count: number): string => `${counted(count, 'personal message')} left for another domain`,
};

/** What sets apart the messages that a reason counts. */
export const REASONS = {
  known: 'from people you have written to',
  marked: 'answered or flagged',
  alone: 'to you alone',
  conversation: 'of the same conversation',
  'same people': 'by the same people from other addresses',
  'related domains': 'from related domains',
  'other spelling': 'with the exempt words spelled otherwise',
  'other script': 'with a subject in other scripts',
  subdomains: 'from subdomains',
  'same domain': 'from other addresses of the same domain',
  'same list': 'of the same list',
};

/** What is counted, to go behind “7 of 9”. */
export const STRENGTHS = {
  loss: 'messages it acts on are lost',
  'forward-risk': 'messages it sends on',
  unprotected: 'messages it acts on are of value',
  'exception-narrow': 'messages it acts on are relatives of exempt ones',
  'hidden-unread': 'messages that lie there are unseen',
  'placement-disagrees': 'messages it acts on lie there',
  'too-broad': 'messages it acts on have it inside of another word',
  'too-narrow': 'messages of that kind are missed',
  idle: 'stored messages fired it',
};

/** What a repair would do, as an instruction. */
export const REPAIRS = {
  'exempt senders': (rule: string, senders: readonly string[]): string =>
    `Exempt mail from ${listed(senders)} from “${rule}”`,
  'exempt domains': (rule: string, domains: readonly string[]): string =>
    `Exempt all mail from ${listed(domains)} from “${rule}”`,
  'exempt subjects': (rule: string, words: readonly string[]): string =>
    `Exempt subjects with ${listed(words)} from “${rule}”`,
  'exempt own': (rule: string): string => `Exempt from “${rule}” what is addressed to you, and to no list`,
  'exempt rule': (rule: string, other: string): string => `Exempt from “${rule}” what “${other}” holds for`,
  'same exceptions': (rule: string, other: string): string => `Give “${rule}” the exceptions of “${other}” too`,
  'no exceptions': (rule: string): string => `Take the exceptions out of “${rule}”`,
  'without exception': (rule: string, exception: string): string =>
    `Take the exception “${exception}” out of “${rule}”`,
  'test for no subject': (rule: string): string =>
    `Let “${rule}” test for a missing or empty subject, instead of exempting letters and digits`,
  'file instead': (rule: string, does: 'drops' | 'refuses'): string =>
    `File into “Doubtful” what “${rule}” ${does} now`,
  'mark instead': (rule: string, does: 'drops' | 'refuses'): string =>
    `Mark with $Doubtful, and leave in the inbox, what “${rule}” ${does} now`,
  'inbox too': (rule: string): string => `Keep what “${rule}” files in the inbox too`,
  'keep a copy': (rule: string): string => `Keep a copy of what “${rule}” sends on`,
  'catch senders': (rule: string, senders: readonly string[]): string =>
    `Let “${rule}” catch mail from ${listed(senders)} too`,
  'catch domains': (rule: string, domains: readonly string[]): string =>
    `Let “${rule}” catch all mail from ${listed(domains)} and the domains below too`,
  'catch list': (rule: string, list: string): string => `Let “${rule}” catch all mail of the list ${list} too`,
  'test for senders': (rule: string, senders: readonly string[]): string =>
    `Let “${rule}” test for ${listed(senders)} instead`,
  'existing folder': (rule: string, folder: string): string => `Let “${rule}” file into “${folder}”, which exists`,
  'make folder': (rule: string, folders: readonly string[]): string =>
    `Let “${rule}” make ${listed(folders)} where there is none`,
  'leave in inbox': (rule: string): string => `Leave in the inbox what “${rule}” files`,
  'all into': (rule: string, folder: string): string => `Let “${rule}” file all of it into “${folder}”`,
  'a rule of its own': (rule: string, senders: readonly string[], folder: string): string =>
    `Let a rule of its own file mail from ${listed(senders)} into “${folder}”, and exempt it from “${rule}”`,
  merge: (first: string, second: string): string =>
    `Let “${first}” test for what “${second}” tests for too, and remove that one`,
  'leave out': (rule: string, part: string): string => `Leave ${part} out of “${rule}”`,
};

/** Parts of a rule, as they stand within a sentence. */
export const PARTS = {
  exception: (words: string): string => `the exception “${words}”`,
  key: (key: string): string => `the key “${key}”`,
  test: (words: string): string => `the test “${words}”`,
};
