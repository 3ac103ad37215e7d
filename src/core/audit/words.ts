import type { FindingKind } from './finding';

/** What every proof takes for granted of messages (`core/reason/lower.ts`), as a user should know it. */
export const PROOF_ASSUMES =
  'It is taken for granted that a message has well-formed header fields without control characters, one sender in From, each of Sender, To, Cc, Bcc, Reply-To, Subject, Date and Message-ID at most once, addresses without comments, backslashes or stray quotation marks in them, and an envelope with a sender and a recipient.';

/** The kinds, the weightiest first, with what each one says in general. */
export const KINDS: Readonly<Record<FindingKind, { readonly title: string; readonly meaning: string }>> = {
  contradiction: {
    title: 'Cannot hold',
    meaning: 'No message there could be makes the tests of the rule hold with none of its exceptions.',
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
  overlap: {
    title: 'Overlap',
    meaning: 'Two rules hold for the same mail. Often meant; worth knowing before either is changed.',
  },
};
