import { Bitmap } from '../../flow/bitmap';
import type { Chain, LeafTest, Rule, TestTree } from '../../rules/rule';
import type { AuditContext, RuleFlow } from '../context';
import type { Finding, Repair } from '../finding';
import { excepting, exemptingSenders, rewrite } from '../repairs';
import { fewSenders, inSubject, isFrom } from '../senders';
import { domainOf, type StoredMessage } from '../stored';
import { CLAIMS, REPAIRS, STRENGTHS } from '../wording';

/** An ending does not make another word: up to this many letters may follow a key. */
const ENDING = 2;
const MOST_KEYS = 50;
/** A part of an address or a domain, with its dots. */
const FRAGMENT = /^[\p{L}\p{N}_.@+-]*[.@][\p{L}\p{N}_.@+-]*$/u;
/** Letters, in scripts that separate words by spaces. */
const WORD = /^[\p{Script=Latin}\p{Script=Greek}\p{Script=Cyrillic}\p{M}]{2,}$/u;

/**
 * `too-broad`: a rule acts on mail where a key of a substring or wildcard test occurs only inside other words, or inside
 * other domains and addresses. Checked are keys of letters alone in tests of the subject, and these and parts of
 * addresses in tests of senders; for these the unrelated senders, those of different domains, are named too.
 */
export function tooBroad(context: AuditContext): Finding[] {
  const { each, mail, rules } = context;
  if (mail.mail.messages.length === 0) return [];
  return each(rules, (rule) => looseKeys(rule.entry.tests).flatMap((loose) => findingOf(context, rule, loose) ?? []));
}

interface Loose {
  readonly key: string;
  readonly where: 'subject' | 'sender';
}

function looseKeys(tree: TestTree): Loose[] {
  if (tree.kind === 'none') return [];
  if (tree.kind !== 'leaf') return tree.children.flatMap(looseKeys);
  const where = placeOf(tree.test);
  const { test } = tree;
  if (!where || !('keys' in test) || test.match === 'is') return [];
  const keys = test.match === 'matches' ? test.keys.map((key) => key.replace(/^\*+|\*+$/g, '')) : test.keys;
  const isLoose = (key: string) =>
    WORD.test(key) || (where === 'sender' && /[\p{L}\p{N}]/u.test(key) && FRAGMENT.test(key));
  return keys.slice(0, MOST_KEYS).flatMap((key) => (isLoose(key) ? [{ key: key.toLowerCase(), where }] : []));
}

function placeOf(test: LeafTest): Loose['where'] | null {
  if (test.test !== 'header' && test.test !== 'address') return null;
  const names = test.headers.map((name) => name.toLowerCase());
  if (names.includes('subject')) return 'subject';
  return names.some((name) => /^(from|sender|reply-to)$/.test(name)) ? 'sender' : null;
}

function findingOf({ chain, mail }: AuditContext, rule: RuleFlow, { key, where }: Loose): Finding | null {
  const { entry, fired } = rule;
  const inside: number[] = [];
  const words = new Set<string>();
  const caught = new Set<string>();
  for (const number of fired.without(mail.sent).members()) {
    const message = mail.message(number);
    const text = textOf(message, where);
    if (!text.includes(key)) continue;
    caught.add(message.sender);
    const found = wordsWith(text, key);
    if (found.length === 0 || found.some(({ inner }) => !inner)) continue;
    inside.push(number);
    words.add(found[0]?.word ?? key);
  }
  if (inside.length === 0) return null;
  const domains = new Set([...caught].map((sender) => domainOf(sender)));
  const whole = fired.count();
  const wrong = inside.map((number) => mail.message(number).sender);
  return {
    key: `too-broad ${entry.id} ${key}`,
    kind: 'too-broad',
    rules: [entry.id],
    certainty: 'observed',
    consequence: 'misplaced',
    claim: CLAIMS['too-broad'](
      entry.name,
      key,
      where,
      inside.length,
      [...words],
      where === 'sender' ? domains.size : 0,
    ),
    messages: inside,
    witness: null,
    strength: { part: inside.length, whole, words: STRENGTHS['too-broad'] },
    repairs: [
      ...(where === 'sender' ? narrowed(chain, entry, caught, wrong) : []),
      ...wordsExempted(chain, entry, where, [...words]),
      ...exemptingSenders(chain, entry, fewSenders(Bitmap.of(fired.size, inside), mail)),
    ],
  };
}

const textOf = ({ subject, senderName, sender }: StoredMessage, where: Loose['where']): string =>
  (where === 'subject' ? subject : `${senderName} <${sender}>`).toLowerCase();

/** The words that contain a key, and whether it is inside them: after other letters, or before several. */
function wordsWith(text: string, key: string): { readonly word: string; readonly inner: boolean }[] {
  if (FRAGMENT.test(key)) return addressesWith(text, key);
  return [...text.matchAll(/[\p{L}\p{M}\p{N}]+/gu)].flatMap(([word]) => {
    const at = word.indexOf(key);
    return at < 0 ? [] : [{ word, inner: at > 0 || word.length - key.length > ENDING }];
  });
}

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
