import { Bitmap } from '../../flow/bitmap';
import { domainOf } from '../../mail/address';
import { asExcepting } from '../../rules/excepting';
import { type Chain, type LeafTest, leavesOf, type Rule, type TestTree } from '../../rules/rule';
import { compileMatcher } from '../../sieve/match/matcher';
import type { AuditContext } from '../context';
import type { Finding, Repair } from '../finding';
import { excepting, exemptingSenders, rewrite } from '../repairs';
import { fewSenders, NO_SUBJECT, ofDomain, sameName } from '../senders';
import type { StoredMessage, Valued } from '../stored';
import { CLAIMS, REASONS, REPAIRS, type Reason, STRENGTHS } from '../wording';

/**
 * `exception-narrow`: the rule acts on close relatives of what it exempts. Relatives of an exempt message are: messages
 * of the same conversation; messages by the same display name (at least two words) from another address; messages from
 * a subdomain or parent of its sender's domain. Relatives of an exempt word are subjects with another spelling
 * (ignoring diacritics). An exception that lists single letters or digits means "has a subject" (common practice); its
 * relatives are all subjects without any of them.
 */
export function narrowExceptions(context: AuditContext): Finding[] {
  const { each, mail, rules, stored } = context;
  if (mail.mail.messages.length === 0) return [];
  return each(rules, (rule) => {
    const { fired } = rule;
    const entry = asExcepting(rule.entry);
    if (entry.unless.length === 0 || fired.isEmpty()) return [];
    const exempt = stored.exempt(entry);
    const found = relatives(entry, fired, exempt, mail);
    if (found.all.isEmpty()) return [];
    const count = found.all.count();
    return [
      {
        key: `exception-narrow ${entry.id}`,
        kind: 'exception-narrow',
        rules: [entry.id],
        certainty: 'observed',
        consequence: 'misplaced',
        claim: CLAIMS['exception-narrow'](entry.name, count, found.reasons),
        messages: [...found.all.members()],
        witness: null,
        strength: { part: count, whole: fired.count(), words: STRENGTHS['exception-narrow'] },
        repairs: repairs(context, rule.entry, found.all),
      } satisfies Finding,
    ];
  });
}

function relatives(entry: Rule, fired: Bitmap, exempt: Bitmap, mail: Valued) {
  const ways: [string, (message: StoredMessage) => boolean][] = [
    [REASONS.conversation, sameConversation(exempt, mail)],
    [REASONS['same people'], sameName(exempt, mail)],
    [REASONS['related domains'], relatedDomain(exempt, mail)],
    [REASONS['other spelling'], otherSpelling(entry)],
    [REASONS['other script'], otherScript(entry)],
  ];
  const all = new Bitmap(fired.size);
  const reasons: Reason[] = [];
  for (const [words, related] of ways) {
    let count = 0;
    for (const number of fired.members()) {
      if (!related(mail.message(number))) continue;
      all.add(number);
      count++;
    }
    if (count > 0) reasons.push([count, words]);
  }
  return { all, reasons };
}

function sameConversation(exempt: Bitmap, mail: Valued): (message: StoredMessage) => boolean {
  const conversations = new Set([...exempt.members()].map((number) => mail.message(number).conversation));
  return ({ conversation }) => conversations.has(conversation);
}

/** Domains of one label, such as top-level domains, have no relatives. */
function relatedDomain(exempt: Bitmap, mail: Valued): (message: StoredMessage) => boolean {
  const domains = new Set<string>();
  for (const number of exempt.members()) {
    const { sender } = mail.message(number);
    if (sender.includes('@')) domains.add(domainOf(sender));
  }
  const related = new Map<string, boolean>();
  return ({ sender }) => {
    if (!sender.includes('@')) return false;
    const domain = domainOf(sender);
    const known = related.get(domain) ?? [...domains].some((other) => isPart(domain, other) || isPart(other, domain));
    related.set(domain, known);
    return known;
  };
}

const isPart = (sub: string, domain: string): boolean => domain.includes('.') && sub.endsWith(`.${domain}`);

/** Words of exceptions on the subject. */
function subjectKeys(rule: Rule): string[] {
  return rule.unless.flatMap(leavesOf).flatMap((leaf) => {
    const onSubject = leaf.test === 'header' && leaf.headers.some((name) => name.toLowerCase() === 'subject');
    return onSubject && leaf.match !== 'matches' ? leaf.keys : [];
  });
}

const plain = (text: string): string => text.normalize('NFKD').replace(/\p{M}/gu, '').toLowerCase();

function otherSpelling(rule: Rule): (message: StoredMessage) => boolean {
  const keys = subjectKeys(rule).filter((key) => key.length >= 3);
  return ({ subject }) =>
    keys.some((key) => !subject.toLowerCase().includes(key.toLowerCase()) && plain(subject).includes(plain(key)));
}

/** Subjects of one letter or digit; a test that matches this many of them means any subject. */
const SINGLE = [...'abcdefghijklmnopqrstuvwxyz0123456789'];
const ALPHABET = 10;

function otherScript({ unless }: Rule): (message: StoredMessage) => boolean {
  const isMeant = unless.some(standsForSubject);
  return ({ subject }) => isMeant && subject.trim() !== '';
}

/** Whether an exception means “has a subject”, however it is written: as single letters and digits, or as a pattern. */
function standsForSubject(tree: TestTree): boolean {
  const matchers = leavesOf(tree).map(subjectMatcher);
  if ((tree.kind !== 'leaf' && tree.kind !== 'any') || matchers.includes(null)) return false;
  return SINGLE.filter((text) => matchers.some((matches) => matches?.(text))).length >= ALPHABET;
}

function subjectMatcher(leaf: LeafTest): ((text: string) => boolean) | null {
  const isCompared = leaf.test === 'compared' && leaf.subject.of === 'header' && !leaf.subject.within;
  if (leaf.test !== 'header' && !isCompared) return null;
  const headers = leaf.test === 'header' ? leaf.headers : leaf.subject.of === 'header' ? leaf.subject.headers : [];
  const by = leaf.test === 'header' ? leaf : leaf.by;
  if (!headers.some((name) => name.toLowerCase() === 'subject')) return null;
  if (by.match === 'value' || by.match === 'count' || by.match === 'list') return null;
  const matcher = compileMatcher(by.comparator, by.match, by.keys);
  return (text) => matcher(text) !== null;
}

/** The most domains that an exception can list readably. */
const MOST_DOMAINS = 5;

/**
 * Exempts the senders of the relatives, or their domains; and replaces letters and digits by a test for a missing
 * subject.
 */
function repairs({ chain, mail }: AuditContext, entry: Rule, related: Bitmap): Repair[] {
  const senders = fewSenders(related, mail);
  const domains = [...new Set(senders.filter((sender) => sender.includes('@')).map((sender) => domainOf(sender)))];
  const ofDomains =
    domains.length === 0 || domains.length > MOST_DOMAINS
      ? []
      : [excepting(chain, entry, ofDomain(domains), REPAIRS['exempt domains'](entry.name, domains))];
  return [...withoutSubject(chain, entry), ...exemptingSenders(chain, entry, senders), ...ofDomains];
}

/** Replaces the exception of letters and digits by what it means: the subject is missing or empty. */
function withoutSubject(chain: Chain, rule: Rule): Repair[] {
  const { tests, unless: exceptions } = asExcepting(rule);
  const unless = exceptions.filter((tree) => !standsForSubject(tree));
  if (unless.length === exceptions.length) return [];
  const others = tests.kind === 'all' ? tests.children : [tests];
  const after: Rule = { ...rule, tests: { kind: 'all', children: [...others, NO_SUBJECT] }, unless };
  const title = REPAIRS['test for no subject'](rule.name);
  return [rewrite(chain, rule, after, title)];
}
