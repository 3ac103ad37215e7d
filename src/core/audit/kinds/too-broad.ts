import { Bitmap } from '../../flow/bitmap';
import { type KeyUse, wordsWith } from '../../flow/key-uses';
import { domainOf } from '../../mail/address';
import { maybeBodyMatch } from '../../rules/known-comparisons';
import type { Chain, LeafTest, Rule, TestTree } from '../../rules/rule';
import type { AuditContext, RuleFlow } from '../context';
import type { Finding, Repair } from '../finding';
import { excepting, exemptingSenders, rewrite } from '../repairs';
import { fewSenders, inSubject, isFrom } from '../senders';
import type { StoredMessage } from '../stored';
import { CLAIMS, REPAIRS, STRENGTHS } from '../wording';

const MOST_KEYS = 50;
/** A part of an address or a domain, with its dots. */
const FRAGMENT = /^[\p{L}\p{N}_.@+-]*[.@][\p{L}\p{N}_.@+-]*$/u;
/** Letters, in scripts that separate words by spaces. */
const WORD = /^[\p{Script=Latin}\p{Script=Greek}\p{Script=Cyrillic}\p{M}]{2,}$/u;

/**
 * `too-broad`: a rule acts on mail where a key of a substring or wildcard test occurs only inside other words, or inside
 * other domains and addresses. Checked are keys of letters alone in tests of the subject and the body, and these and
 * parts of addresses in tests of senders; for these the unrelated senders, those of different domains, are named too.
 */
export function tooBroad(context: AuditContext): Finding[] {
  const { each, mail, rules } = context;
  if (mail.mail.messages.length === 0) return [];
  const uses = context.usesOf(fired(rules));
  return each(rules, (rule) =>
    looseKeys(rule.entry.tests).flatMap((loose) => {
      if (loose.where !== 'body') return findingOf(context, rule, loose, textHits(context, rule, loose)) ?? [];
      const use = uses.get(loose.key);
      return (use && findingOf(context, rule, loose, bodyHits(context, rule, use))) ?? [];
    }),
  );
}

/** By key of tests of the body: the messages on which rules with it act. */
function fired(rules: readonly RuleFlow[]): Map<string, Bitmap> {
  const wanted = new Map<string, Bitmap>();
  for (const rule of rules) {
    for (const { key, where } of looseKeys(rule.entry.tests)) {
      if (where === 'body') wanted.set(key, wanted.get(key)?.or(rule.fired) ?? rule.fired);
    }
  }
  return wanted;
}

interface Loose {
  readonly key: string;
  readonly where: 'subject' | 'sender' | 'body';
}

function looseKeys(tree: TestTree): Loose[] {
  if (tree.kind === 'none') return [];
  if (tree.kind !== 'leaf') return tree.children.flatMap(looseKeys);
  const where = placeOf(tree.test);
  const test = maybeBodyMatch(tree.test) ?? tree.test;
  if (!where || !('keys' in test) || test.match === 'is') return [];
  const keys = test.match === 'matches' ? test.keys.map((key) => key.replace(/^\*+|\*+$/g, '')) : test.keys;
  const isLoose = (key: string) =>
    WORD.test(key) || (where === 'sender' && /[\p{L}\p{N}]/u.test(key) && FRAGMENT.test(key));
  return keys.slice(0, MOST_KEYS).flatMap((key) => (isLoose(key) ? [{ key: key.toLowerCase(), where }] : []));
}

function placeOf(test: LeafTest): Loose['where'] | null {
  if (maybeBodyMatch(test)) return 'body';
  if (test.test !== 'header' && test.test !== 'address') return null;
  const names = test.headers.map((name) => name.toLowerCase());
  if (names.includes('subject')) return 'subject';
  return names.some((name) => /^(from|sender|reply-to)$/.test(name)) ? 'sender' : null;
}

/** Messages in which a key is only inside other words, some of these words, and all senders of mail with the key. */
interface Hits {
  readonly inside: readonly number[];
  readonly words: readonly string[];
  readonly caught: ReadonlySet<string>;
}

function textHits({ mail }: AuditContext, { fired: acted }: RuleFlow, { key, where }: Loose): Hits {
  const inside: number[] = [];
  const words = new Set<string>();
  const caught = new Set<string>();
  for (const number of acted.without(mail.sent).members()) {
    const message = mail.message(number);
    const text = textOf(message, where);
    if (!text.includes(key)) continue;
    caught.add(message.sender);
    const found = FRAGMENT.test(key) ? addressesWith(text, key) : wordsWith(text, key);
    if (found.length === 0 || found.some(({ inner }) => !inner)) continue;
    inside.push(number);
    words.add(found[0]?.word ?? key);
  }
  return { inside, words: [...words], caught };
}

function bodyHits({ mail }: AuditContext, { fired: acted }: RuleFlow, use: KeyUse): Hits {
  const inside = acted.without(mail.sent).and(use.inside);
  const own = [...use.words].filter(([, numbers]) => numbers.some((number) => inside.has(number)));
  const words = (own.length > 0 ? own : [...use.words]).slice(0, MOST_SENDERS).map(([word]) => word);
  return { inside: [...inside.members()], words, caught: new Set() };
}

function findingOf(
  { chain, mail }: AuditContext,
  { entry, fired: acted }: RuleFlow,
  { key, where }: Loose,
  { inside, words, caught }: Hits,
): Finding | null {
  if (inside.length === 0) return null;
  const domains = new Set([...caught].map((sender) => domainOf(sender)));
  const whole = acted.count();
  const wrong = inside.map((number) => mail.message(number).sender);
  return {
    key: `too-broad ${entry.id} ${where === 'body' ? 'body ' : ''}${key}`,
    kind: 'too-broad',
    rules: [entry.id],
    certainty: 'observed',
    consequence: 'misplaced',
    claim: CLAIMS['too-broad'](entry.name, key, where, inside.length, words, where === 'sender' ? domains.size : 0),
    messages: inside,
    witness: null,
    strength: { part: inside.length, whole, words: STRENGTHS['too-broad'] },
    repairs: [
      ...(where === 'sender' ? narrowed(chain, entry, caught, wrong) : []),
      ...wordsExempted(chain, entry, where, words),
      ...exemptingSenders(chain, entry, fewSenders(Bitmap.of(acted.size, inside), mail)),
    ],
  };
}

const textOf = ({ subject, senderName, sender }: StoredMessage, where: Loose['where']): string =>
  (where === 'subject' ? subject : `${senderName} <${sender}>`).toLowerCase();

/**
 * The addresses that contain a fragment, and whether it is inside another name: “bank.example” in “riverbank.example” or
 * in “bank.example.other.example”, but not in “post.bank.example”.
 */
function addressesWith(text: string, key: string): { readonly word: string; readonly inner: boolean }[] {
  return [...text.matchAll(/[^\s<>()",;:]+/g)].flatMap(([word]) => {
    const at = word.indexOf(key);
    if (at < 0) return [];
    const [before, after] = [word.slice(0, at), word.slice(at + key.length)];
    const isCutBefore = /[\p{L}\p{N}_-]$/u.test(before) && /^[\p{L}\p{N}]/u.test(key);
    const isCutAfter = /^[\p{L}\p{N}_-]|^\.[\p{L}\p{N}]/u.test(after) && /[\p{L}\p{N}]$/u.test(key);
    return [{ word, inner: isCutBefore || isCutAfter }];
  });
}

const MOST_SENDERS = 20;

/** The addresses that were meant, instead of the word. */
function narrowed(chain: Chain, entry: Rule, caught: ReadonlySet<string>, wrong: readonly string[]) {
  const meant = [...caught].filter((sender) => sender !== '' && !wrong.includes(sender));
  if (meant.length === 0 || meant.length > MOST_SENDERS || entry.tests.kind !== 'leaf') return [];
  const tests = isFrom(meant);
  return [rewrite(chain, entry, { ...entry, tests }, REPAIRS['test for senders'](entry.name, meant))];
}

/**
 * The longer words that contain the key, as an exception. A message with both the word and a longer one is exempt then
 * too.
 */
function wordsExempted(chain: Chain, rule: Rule, where: Loose['where'], words: readonly string[]): Repair[] {
  if (where !== 'subject' || words.length > MOST_SENDERS) return [];
  return [excepting(chain, rule, inSubject(words), REPAIRS['exempt subjects'](rule.name, words))];
}
