import type { FindingKind } from '../../core/audit/finding';

/** A small example of each kind, in words. */
export const EXAMPLES: Readonly<Record<FindingKind, string>> = {
  loss: 'A rule drops all mail with “account” in the subject, and the accountant writes about one.',
  unprotected: 'A rule drops prizes and lotteries, and with them a letter about a prize by somebody you answer.',
  'forward-risk': 'A rule redirects mail to another of your own addresses, from where it comes back.',
  'exception-bypassed':
    'Newsletters are filed, but not those of the walkers; a rule for the walkers files them all the same.',
  'exception-uneven': 'Two rules file into “Photos”, and only one of them exempts what Ann sends.',
  'exception-narrow':
    'One officer of the council is exempt, and his colleagues who write about the same matter are not.',
  'exception-void': 'A rule for mail from one domain exempts a sender of another domain.',
  'cut-short': 'Backups are filed and it ends there; the rule that flags backups that failed stands behind.',
  shadowed: 'All mail of the river levels is filed first, so that the rule for flood warnings never sees any.',
  'order-conflict': 'An invoice of the oak yard goes to the accounts, since the rule for invoices comes first.',
  'runs-on': 'The rule for the list has no ending, so that its photos are filed twice.',
  'hidden-unread': 'Pictures of the weir camera are filed past the inbox, and nobody looks into the folder.',
  'placement-disagrees': 'Mail of the insurance is filed into “Insurance”, and you keep moving it to “Claims”.',
  'too-broad': '“ann” stands in Hannah and in Joanna too.',
  'too-narrow': 'The grants office writes from a subdomain as well, which the rule does not name.',
  'missing-folder': 'A rule files into “Suppliers/Iron”, and there is no such folder.',
  contradiction: 'A rule asks for mail over 5 MB and under 1 MB.',
  redundant: 'A rule files what one address sends, and the next rule files it into the same folder anyway.',
  mergeable: 'Two oak yards, two rules, one folder.',
  'subsumed-test': 'A rule names a domain, and one address of that domain besides.',
  idle: 'A rule for a list that was closed years ago.',
  'not-portable': 'A rule looks at the text of messages, and the server knows no such test.',
  overlap: 'One rule flags what is urgent, another one files what the grants office sends: some mail is both.',
};

/** Keys that do something, by where they do. */
export const KEYS: readonly { readonly where: string; readonly keys: readonly (readonly [string, string])[] }[] = [
  {
    where: 'Everywhere',
    keys: [
      ['Ctrl K, or Cmd K', 'the commands: every page and every deed by its name'],
      ['Tab, Shift Tab', 'from one thing that can be acted on to the next'],
      ['Enter, Space', 'does it'],
      ['Esc', 'closes what has opened'],
    ],
  },
  {
    where: 'Chain',
    keys: [
      ['Arrow up, arrow down; k, j', 'the rule above, the rule below'],
      ['Alt with them', 'shows what it would do to move the rule there'],
    ],
  },
  {
    where: 'A rule',
    keys: [['Arrow up, arrow down on a handle', 'moves the test, into branches and out of them']],
  },
  {
    where: 'Which rules meet',
    keys: [
      ['Arrow keys', 'the next pair'],
      ['+ and −', 'nearer, farther'],
      ['Enter', 'opens the pair'],
    ],
  },
  {
    where: 'Sheet',
    keys: [
      ['Enter, Shift Enter', 'the cell below, the cell above'],
      ['Tab', 'the next cell'],
      ['Paste', 'fills as many cells as were copied'],
    ],
  },
];
