import { addressedTo, inSubject, isFrom, ofDomain, ofList } from '../audit/senders';
import type { StoredMessage } from '../audit/stored';
import type { Destination } from '../fates/destination';
import { domainOf } from '../mail/address';
import { parentOf, withoutMarks } from '../repair/from-examples';
import { type Chain, leavesOf, type TestTree } from '../rules/rule';
import { agreement } from './filing';
import type { Workshop } from './workshop';

/** A test that a message matches, and by which others like it could be told. */
export interface Feature {
  readonly by: 'list' | 'sender' | 'domain' | 'subdomains' | 'recipient' | 'subject' | 'test' | 'both';
  readonly tests: TestTree;
  /** The less likely people mean it, the more. */
  readonly cost: number;
}

const COST = { list: 0.8, sender: 1, domain: 1.2, subdomains: 1.6, recipient: 1.6, subject: 1.9, test: 1.5 } as const;
/** Shorter words are not typical of a subject. */
const SHORTEST = 4;
const MOST_WORDS = 6;
/** A test of the chain that matches more of all mail does not tell a message apart. */
const LARGE = 0.4;

/** By what a message is like others: its list, its sender, words of its subject, and these together. */
export const ownFeatures = (index: number, { mail, messageOf }: Workshop): Feature[] =>
  featuresOf(messageOf(index), mail.mail.own);

/** `own`: the user's own addresses, in lower case. */
export function featuresOf(
  { sender, listId, recipients, subject }: StoredMessage,
  own: ReadonlySet<string>,
): Feature[] {
  const features: Feature[] = [];
  const add = (by: keyof typeof COST, tests: TestTree) => features.push({ by, tests, cost: COST[by] });
  if (listId !== null) add('list', ofList([listId]));
  if (sender !== '' && !own.has(sender)) {
    add('sender', isFrom([sender]));
    const domain = sender.includes('@') ? domainOf(sender) : '';
    if (domain !== '') add('domain', ofDomain([domain]));
    const parent = parentOf(domain);
    if (parent !== '' && parent !== domain) add('subdomains', belowDomain(parent));
  }
  const writers = [...features];
  for (const address of recipients) {
    if (own.size > 1 || !own.has(address)) add('recipient', addressedTo(['to', 'cc'], [address]));
  }
  for (const words of phrasesOf(subject)) {
    const tests = inSubject([words]);
    add('subject', tests);
    for (const { by, tests: writer, cost } of writers) {
      if (by !== 'subdomains')
        features.push({ by: 'both', tests: { kind: 'all', children: [writer, tests] }, cost: cost + 1.1 });
    }
  }
  return features;
}

/** Tests of the chain that match a message, but not most mail. */
export function chainFeatures(index: number, chain: Chain, { trials }: Workshop): Feature[] {
  const most = trials.count * LARGE;
  return ownTests(chain).flatMap((tests): Feature[] => {
    const holding = trials.holding(tests);
    return holding.has(index) && holding.count() < most ? [{ by: 'test', tests, cost: COST.test }] : [];
  });
}

/** The most features that are considered. */
const MOST = 14;

/**
 * The features that best tell mail which the user keeps at a destination from mail which lies where the chain puts both.
 * Without such mail, the simplest.
 */
export function tellingFeatures(
  features: readonly Feature[],
  from: Destination,
  to: Destination,
  chain: Chain,
  { trials, keptIn, weightOf, copies }: Workshop,
): Feature[] {
  const gains = new Map<number, number>();
  const here = trials.placesOf(chain);
  for (let index = 0; index < trials.count; index++) {
    if (here[index]?.destination !== from) continue;
    const kept = keptIn(index);
    if (!kept) continue;
    const gain = agreement(to, kept, copies) - agreement(from, kept, copies);
    if (gain !== 0) gains.set(index, gain * kept.weight * weightOf(index));
  }
  const worth = features.map((feature) => {
    const holding = trials.holding(feature.tests);
    let [agreeing, staying] = [0, 0];
    for (const [index, gain] of gains) {
      if (!holding.has(index)) continue;
      if (gain > 0) agreeing += gain;
      else staying -= gain;
    }
    return { feature, worth: agreeing - Math.min(staying, Math.max(3, 2 * agreeing)) - feature.cost };
  });
  return worth
    .sort((a, b) => b.worth - a.worth)
    .slice(0, MOST)
    .map(({ feature }) => feature);
}

const belowDomain = (parent: string): TestTree => ({
  kind: 'any',
  children: [ofDomain([parent]), ofDomain([`*.${parent}`], 'matches')],
});

const known = new WeakMap<Chain, readonly TestTree[]>();

/** The tests that the rules of a chain have, each once. */
function ownTests(chain: Chain): readonly TestTree[] {
  const before = known.get(chain);
  if (before) return before;
  const found = new Map<string, TestTree>();
  for (const entry of chain.entries) {
    if (entry.kind === 'script') continue;
    for (const test of [entry.tests, ...entry.unless].flatMap(leavesOf)) {
      if (test.test === 'hasflag' || test.test === 'in-context') continue;
      found.set(JSON.stringify(test), { kind: 'leaf', test });
    }
  }
  const tests = [...found.values()];
  known.set(chain, tests);
  return tests;
}

/** Words of a subject, and pairs of neighbours, without numbers. */
export function phrasesOf(subject: string): string[] {
  const words = withoutMarks(subject)
    .split(/\s+/)
    .map((word) => word.replace(/^[\p{P}\p{S}]+|[\p{P}\p{S}]+$/gu, ''));
  const found = new Set<string>();
  words.forEach((word, at) => {
    if (/\d/.test(word)) return;
    if ([...word].length >= SHORTEST) found.add(word);
    const next = words[at + 1];
    if (next && !/\d/.test(next) && word !== '') found.add(`${word} ${next}`);
  });
  return [...found].slice(0, MOST_WORDS);
}
