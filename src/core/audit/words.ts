import type { FindingKind } from './finding';

/** What every proof takes for granted of messages (`core/reason/lower.ts`), as a user should know it. */
export const PROOF_ASSUMES =
  'It is taken for granted that a message has well-formed header fields without control characters, one sender in From, each of Sender, To, Cc, Bcc, Reply-To, Subject, Date and Message-ID at most once, addresses without comments, backslashes or stray quotation marks in them, and an envelope with a sender and a recipient.';

/** The kinds, the weightiest first, with what each one says in general. */
export const KINDS: Readonly<Record<FindingKind, { readonly title: string; readonly meaning: string }>> = {
  loss: { title: 'Lost', meaning: 'Mail is dropped or refused, and no copy is left anywhere.' },
  unprotected: {
    title: 'Valued mail hit',
    meaning: 'Mail you value is dropped, refused or filed unseen by a rule that exempts none of it.',
  },
  'forward-risk': {
    title: 'Risky sending on',
    meaning: 'Mail leaves for another domain, leaves no copy, or can come back and go round.',
  },
  'exception-bypassed': {
    title: 'Exception bypassed',
    meaning: 'Mail that one rule exempts is taken away by another one all the same.',
  },
  'exception-uneven': {
    title: 'Exception on one side',
    meaning: 'Of two rules with the same destination only one has an exception, and there is mail it matters for.',
  },
  'exception-narrow': {
    title: 'Exception too narrow',
    meaning: 'Close relatives of what a rule exempts are not exempt.',
  },
  'exception-void': { title: 'Empty exception', meaning: 'An exception that can never apply, or that always does.' },
  'cut-short': {
    title: 'Ended too early',
    meaning: 'An earlier rule ends mail before a later one could mark, copy or keep it.',
  },
  shadowed: {
    title: 'Never reached',
    meaning: 'The rule can hold, but earlier rules always end such mail first.',
  },
  'order-conflict': {
    title: 'Order decides',
    meaning: 'Two rules hold for the same mail, and where it ends depends on which of them comes first.',
  },
  'runs-on': {
    title: 'Runs on',
    meaning: 'An earlier rule lets later rules run, and one of them treats the same mail differently.',
  },
  'hidden-unread': {
    title: 'Piles up unseen',
    meaning: 'Mail passes the inbox by and lies unseen in its folder.',
  },
  'placement-disagrees': {
    title: 'You file it elsewhere',
    meaning: 'You keep this mail in another folder than the rule would put it into.',
  },
  'too-broad': {
    title: 'Catches too much',
    meaning: 'A word also matches where it is only a part of other words.',
  },
  'too-narrow': {
    title: 'Misses some',
    meaning: 'The same sender, domain or list has mail that the rule misses.',
  },
  'missing-folder': { title: 'No such folder', meaning: 'The rule files into a folder that does not exist.' },
  contradiction: {
    title: 'Cannot hold',
    meaning: 'No message there could be makes the tests of the rule hold with none of its exceptions.',
  },
  redundant: { title: 'Adds nothing', meaning: 'Without the rule every message ends the same way.' },
  mergeable: { title: 'Could be one', meaning: 'Rules that do the same and could be one, with every fate unchanged.' },
  'subsumed-test': {
    title: 'Needless test',
    meaning: 'A test, key or exception can be left out without changing any fate.',
  },
  'not-portable': {
    title: 'Not said as it is',
    meaning: 'The chosen server cannot be told the rule, or only at a cost.',
  },
  idle: { title: 'Idle', meaning: 'The rule has acted on none of the stored mail, or not for a year.' },
  overlap: {
    title: 'Overlap',
    meaning: 'Two rules hold for the same mail. Often meant; worth knowing before either is changed.',
  },
};
