/** What each kind of finding is called, when it is stated, why it matters and what to do. */

interface KindWords {
  /** The title: two or three words. */
  readonly title: string;
  /** When the finding is stated. */
  readonly meaning: string;
  /** Why it matters. */
  readonly why: string;
  /** What to do about it. */
  readonly remedy: string;
  readonly example: string;
}

/** The kinds, the weightiest first. */
export const KINDS = {
  loss: {
    title: 'Mail is lost',
    meaning: 'A rule discards or rejects mail, and no copy is left anywhere.',
    why: 'Discarded mail cannot be recovered, and nobody is told. The sender of rejected mail is told, but you never see it.',
    remedy: 'File the mail into a folder instead, or exempt the senders whose mail must not be lost.',
    example: 'A rule discards all mail with “account” in the subject, and the accountant writes about an account.',
  },
  unprotected: {
    title: 'Valued mail hit',
    meaning: 'A rule discards, rejects or files unseen mail that you value, and has no exception for it.',
    why: 'You answered or flagged this mail, you have written to its senders, or it is addressed to you alone.',
    remedy: 'Exempt these senders, or file the mail where you will see it.',
    example: 'A rule discards mail about prizes, and with it a letter about a prize from somebody you answer.',
  },
  'forward-risk': {
    title: 'Risky redirect',
    meaning: 'A rule redirects mail to another domain, keeps no copy, or can start a mail loop.',
    why: 'Redirected mail leaves your control; without a copy you cannot tell later what left, and a loop can flood your mailbox.',
    remedy: 'Keep a copy, or exempt personal mail.',
    example: 'A rule redirects mail to another of your own addresses, which sends it back.',
  },
  'exception-bypassed': {
    title: 'Exception bypassed',
    meaning: 'One rule exempts mail that another rule takes away anyway.',
    why: 'The exception shows what you meant, but the mail is not where you expect it.',
    remedy: 'Give the other rule the same exception.',
    example: 'A rule files newsletters except those of the walkers; another rule files the walkers’ newsletter anyway.',
  },
  'exception-uneven': {
    title: 'Uneven exceptions',
    meaning:
      'Two rules with the same destination overlap, and only one of them has an exception that makes a difference.',
    why: 'The same mail ends in two different ways, depending on which rule it matches.',
    remedy: 'Give both rules the exception, or neither.',
    example: 'Two rules file into “Photos”, and only one of them exempts mail from Ann.',
  },
  'exception-narrow': {
    title: 'Exception too narrow',
    meaning: 'Mail closely related to what a rule exempts is not exempt.',
    why: 'A reply in the same conversation, or from a second address of the same person, is treated differently.',
    remedy: 'Widen the exception.',
    example: 'One council officer is exempt; colleagues who write about the same matter are not.',
  },
  'exception-void': {
    title: 'Exception without effect',
    meaning: 'An exception never applies, or it applies to every message that the rule tests for.',
    why: 'An exception that never applies protects nothing; one that always applies switches the rule off.',
    remedy: 'Remove or correct the exception.',
    example: 'A rule for mail from one domain exempts a sender at another domain.',
  },
  'cut-short': {
    title: 'Stopped too early',
    meaning: 'An earlier rule stops mail before a later rule can copy, mark or keep it.',
    why: 'The later rule was written for this mail and never sees it.',
    remedy: 'Move the later rule up, or let the earlier rule continue.',
    example: 'A rule files all backup reports and stops; the rule that flags failed backups comes after it.',
  },
  shadowed: {
    title: 'Never reached',
    meaning: 'The rule can match, but earlier rules stop every message that it matches.',
    why: 'The rule does nothing, and what you wanted from it does not happen.',
    remedy: 'Move the rule before those that stop its mail, or remove it.',
    example: 'All mail from the river agency is filed first, so the rule for flood warnings never sees any.',
  },
  'order-conflict': {
    title: 'Order matters',
    meaning: 'Two rules match the same mail, and their order decides where it ends.',
    why: 'If the order is an accident, the mail ends in the wrong place.',
    remedy: 'Check which rule should win, and move it first if it does not.',
    example: 'An invoice from the oak yard is filed under accounts because the rule for invoices comes first.',
  },
  'runs-on': {
    title: 'Conflicting actions',
    meaning: 'Two rules act on the same message and disagree, because the earlier rule does not stop.',
    why: 'The message is filed twice, or filed although another rule discards it.',
    remedy: 'Let the earlier rule stop, or exempt the mail from one of the rules.',
    example: 'The rule for a mailing list continues, so its photos are filed into two folders.',
  },
  'hidden-unread': {
    title: 'Unseen mail',
    meaning: 'A rule files mail past the inbox, and nobody reads it in its folder.',
    why: 'Something you would want to see may be among it.',
    remedy: 'Keep this mail in the inbox too, or decide that it may go unread.',
    example: 'Pictures from the weir camera are filed past the inbox, and nobody opens the folder.',
  },
  'placement-disagrees': {
    title: 'Filed elsewhere',
    meaning: 'You keep this mail in another folder than the one the rule files it into.',
    why: 'You move the same mail by hand again and again.',
    remedy: 'Let the rule file into the folder you use.',
    example: 'Mail from the insurers is filed into “Insurance”, and you keep moving it to “Claims”.',
  },
  'too-broad': {
    title: 'Matches too much',
    meaning: 'A key also matches where it is only part of another word.',
    why: 'The rule acts on mail it was hardly meant for.',
    remedy: 'Test for the senders or the list instead, or exempt the other words.',
    example: '“ann” is part of Hannah and of Joanna too.',
  },
  'bulk-word': {
    title: 'Word for bulk',
    meaning: 'A rule recognises bulk mail by the word for unsubscribing.',
    why: 'People quote that word when they answer or forward such mail, and much bulk mail does not contain it.',
    remedy: 'Test for List-Unsubscribe, List-Id or Precedence instead.',
    example:
      'A rule files all mail with “unsubscribe” in its text; Ann forwards a newsletter, and her letter goes with it.',
  },
  'too-narrow': {
    title: 'Misses mail',
    meaning: 'The rule misses mail from a sender, domain or list that it matches otherwise.',
    why: 'Some of the mail stays in the inbox or ends up somewhere else.',
    remedy: 'Add the missing senders or domains to the rule.',
    example: 'The grants office also writes from a subdomain that the rule does not name.',
  },
  'missing-folder': {
    title: 'Missing folder',
    meaning: 'The rule files into a folder that does not exist in the imported mail.',
    why: 'Many servers leave such mail in the inbox; some create the folder.',
    remedy: 'File into an existing folder, let the rule create the folder, or leave the mail in the inbox.',
    example: 'A rule files into “Suppliers/Iron”, and there is no such folder.',
  },
  contradiction: {
    title: 'Never matches',
    meaning: 'No message can match this rule.',
    why: 'The rule does nothing.',
    remedy: 'Correct its tests, or remove it.',
    example: 'A rule asks for mail that is larger than 5 MB and smaller than 1 MB.',
  },
  redundant: {
    title: 'Redundant rule',
    meaning: 'Without the rule every message has the same destination and flags.',
    why: 'A shorter chain is easier to understand and to change.',
    remedy: 'Remove the rule.',
    example: 'A rule files mail from one address, and the next rule would file it into the same folder.',
  },
  mergeable: {
    title: 'Could be one',
    meaning: 'Rules do the same and can become one rule without changing the destination of any message.',
    why: 'One rule is easier to keep right than two.',
    remedy: 'Merge them.',
    example: 'Two oak yards, two rules, one folder.',
  },
  'subsumed-test': {
    title: 'Superfluous test',
    meaning: 'A test, key or exception can be left out without changing the destination of any message.',
    why: 'Superfluous parts hide what the rule really does.',
    remedy: 'Leave it out.',
    example: 'A rule names a domain, and also one address of that domain.',
  },
  'not-portable': {
    title: 'Not portable',
    meaning: 'The rule cannot be written for the chosen server, or only with a difference.',
    why: 'On that server the rule would fail, or treat some mail differently.',
    remedy: 'Accept the difference, change the rule, or choose another server.',
    example: 'A rule tests the body of messages, and the server has no such test.',
  },
  idle: {
    title: 'Unused rule',
    meaning: 'The rule has acted on no stored message, or on none for a year.',
    why: 'Its sender, list or project may no longer exist.',
    remedy: 'Remove the rule, or switch it off, if it is no longer needed.',
    example: 'A rule for a mailing list that closed years ago.',
  },
  overlap: {
    title: 'Overlapping rules',
    meaning: 'Two rules match the same mail.',
    why: 'Overlaps are often intended; know about them before you change either rule.',
    remedy: 'Nothing, unless you are about to change one of the two.',
    example: 'One rule flags urgent mail, another files mail from the grants office: some mail is both.',
  },
} as const satisfies Readonly<Record<string, KindWords>>;

/** The identifiers are fixed. `not-portable` is stated for a target, at export. */
export type FindingKind = keyof typeof KINDS;
