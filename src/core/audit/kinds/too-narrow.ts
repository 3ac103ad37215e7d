import { Bitmap } from '../../flow/bitmap';
import { domainOf } from '../../mail/address';
import type { LeafTest, TestTree } from '../../rules/rule';
import { elementAt } from '../../text/lookup';
import type { AuditContext, RuleFlow } from '../context';
import type { Finding, Repair } from '../finding';
import { rewrite } from '../repairs';
import { addressesByName, fewSenders, isFrom, ofDomain, ofList } from '../senders';
import type { Valued } from '../stored';
import { CLAIMS, REASONS, REPAIRS, type Reason, STRENGTHS } from '../wording';

/** A rule is about a list if at least this part of its mail came by it. */
const SHARE = 0.8;
/** Other addresses of a domain count if at least this part of the domain's mail matches the rule's own keys. */
const OF_DOMAIN = 0.5;

/**
 * `too-narrow`: a rule about a sender or list misses mail of the same sender, domain or list. Missed are messages that
 * do not match it, even without exceptions: by a display name (at least two words) whose mail it matches from another
 * address; from a subdomain of a domain it names; from a domain half of whose mail it matches by single addresses; and,
 * if four fifths of its mail came by one list and it tests only people, lists and their tags, the rest of that list.
 */
export function tooNarrow(context: AuditContext): Finding[] {
  if (context.mail.mail.messages.length === 0) return [];
  return context.each(context.rules, (rule) => findingOf(context, rule) ?? []);
}

function findingOf(context: AuditContext, rule: RuleFlow): Finding | null {
  const { mail, stored } = context;
  const { entry, held } = rule;
  const leaves = alternatives(entry.tests);
  if (held.isEmpty() || leaves === null) return null;
  const bySender = leaves.length > 0 && leaves.every(isSenderTest);
  const ways: (readonly [words: string, numbers: Iterable<number>])[] = bySender
    ? [
        [REASONS['same people'], sameName(held, mail)],
        [REASONS.subdomains, subdomains(leaves, mail)],
        [REASONS['same domain'], sameDomain(leaves, held, mail)],
      ]
    : [];
  if (leaves.every(isListTest)) ways.push([REASONS['same list'], sameList(held, mail)]);
  const others = stored.flow.fates.traffic.without(held).without(stored.exempt(entry)).without(mail.sent);
  const missed = new Bitmap(held.size);
  const reasons: Reason[] = [];
  for (const [words, numbers] of ways) {
    let count = 0;
    for (const number of numbers) {
      if (missed.has(number) || !others.has(number)) continue;
      missed.add(number);
      count++;
    }
    if (count > 0) reasons.push([count, words]);
  }
  const count = missed.count();
  if (count === 0) return null;
  const caught = held.count();
  return {
    key: `too-narrow ${entry.id}`,
    kind: 'too-narrow',
    rules: [entry.id],
    certainty: 'observed',
    consequence: 'misplaced',
    claim: CLAIMS['too-narrow'](entry.name, count, reasons),
    messages: [...missed.members()],
    witness: null,
    strength: { part: count, whole: caught + count, words: STRENGTHS['too-narrow'] },
    repairs: widened(context, rule, missed, bySender),
  };
}

/** The tests of which one is enough; null if several are needed together. */
function alternatives(tree: TestTree): LeafTest[] | null {
  if (tree.kind === 'leaf') return [tree.test];
  if (tree.children.length === 1 && tree.kind === 'all') return alternatives(elementAt(tree.children, 0));
  if (tree.kind !== 'any') return null;
  const inner = tree.children.map(alternatives);
  return inner.some((leaves) => leaves === null) ? null : inner.flatMap((leaves) => leaves ?? []);
}

const isSenderTest = (leaf: LeafTest): boolean =>
  (leaf.test === 'address' || leaf.test === 'header') &&
  leaf.headers.every((name) => /^(from|sender|reply-to)$/i.test(name));

/** Keys that are whole domains or addresses. */
function namedBy(leaves: readonly LeafTest[], kind: 'domain' | 'address'): string[] {
  return leaves.flatMap((leaf) => {
    if (!('keys' in leaf) || leaf.match === 'matches') return [];
    const domains = leaf.test === 'address' && leaf.part === 'domain';
    return leaf.keys
      .map((key) => key.toLowerCase())
      .filter((key) => (kind === 'domain' ? domains && key.includes('.') : !domains && /^[^@\s]+@[^@\s]+$/.test(key)));
  });
}

function* sameName(held: Bitmap, mail: Valued): Generator<number> {
  for (const [name, addresses] of addressesByName(held, mail)) {
    for (const number of mail.byName.get(name) ?? []) {
      const { sender } = mail.message(number);
      if (sender !== '' && !addresses.has(sender)) yield number;
    }
  }
}

function* subdomains(leaves: readonly LeafTest[], mail: Valued): Generator<number> {
  const named = new Set(namedBy(leaves, 'domain'));
  if (named.size === 0) return;
  for (const [domain, numbers] of mail.byDomain) {
    if (parentsOf(domain).some((parent) => named.has(parent))) yield* numbers;
  }
}

/** b.c and c, of a.b.c. */
function parentsOf(domain: string): string[] {
  const labels = domain.split('.');
  return labels.slice(1).map((_, at) => labels.slice(at + 1).join('.'));
}

/** Tests for a list: by sender or recipient, by its identifier, or by its tag in the subject. */
const isListTest = (leaf: LeafTest): boolean =>
  (leaf.test === 'address' || leaf.test === 'header') &&
  (leaf.headers.every((name) => /^(from|sender|reply-to|to|cc|delivered-to|list-.*)$/i.test(name)) ||
    leaf.keys.every((key) => key.startsWith('[')));

function* sameDomain(leaves: readonly LeafTest[], held: Bitmap, mail: Valued): Generator<number> {
  for (const domain of new Set(namedBy(leaves, 'address').map((address) => domainOf(address)))) {
    const numbers = mail.byDomain.get(domain) ?? [];
    const caught = numbers.filter((number) => held.has(number));
    if (caught.length < numbers.length * OF_DOMAIN) continue;
    const senders = new Set(caught.map((number) => mail.message(number).sender));
    yield* numbers.filter((number) => !senders.has(mail.message(number).sender));
  }
}

function sameList(held: Bitmap, mail: Valued): readonly number[] {
  const lists = new Map<string, number>();
  for (const number of held.members()) {
    const { listId } = mail.message(number);
    if (listId !== null) lists.set(listId, (lists.get(listId) ?? 0) + 1);
  }
  const whole = held.count();
  const [main] = [...lists].find(([, count]) => count >= 2 && count >= whole * SHARE) ?? [];
  return main === undefined ? [] : (mail.byList.get(main) ?? []);
}

/** The most domains that a test can list readably. */
const MOST_DOMAINS = 5;

/** Adds the senders of the missed mail, or their domains and subdomains, or the whole list. */
function widened(
  { chain, mail }: AuditContext,
  { entry, held }: RuleFlow,
  missed: Bitmap,
  bySender: boolean,
): Repair[] {
  const senders = fewSenders(missed, mail);
  const domains = [...new Set(senders.filter((sender) => sender.includes('@')).map((sender) => domainOf(sender)))];
  const below = [
    ofDomain(domains),
    ofDomain(
      domains.map((domain) => `*.${domain}`),
      'matches',
    ),
  ];
  const lists = [...new Set([...missed.members()].flatMap((number) => mail.message(number).listId ?? []))];
  const [list] = lists.filter((id) => [...held.members()].some((number) => mail.message(number).listId === id));
  const also = (tests: readonly TestTree[], title: string): Repair => {
    const children = [...(entry.tests.kind === 'any' ? entry.tests.children : [entry.tests]), ...tests];
    return rewrite(chain, entry, { ...entry, tests: { kind: 'any', children } }, title);
  };
  return [
    ...(list === undefined ? [] : [also([ofList([list])], REPAIRS['catch list'](entry.name, list))]),
    ...(bySender && senders.length > 0 ? [also([isFrom(senders)], REPAIRS['catch senders'](entry.name, senders))] : []),
    ...(bySender && domains.length > 0 && domains.length <= MOST_DOMAINS
      ? [also(below, REPAIRS['catch domains'](entry.name, domains))]
      : []),
  ];
}
