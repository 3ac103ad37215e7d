import { describe, expect, test } from 'vitest';
import { atomKey, evaluateAtoms } from '../flow/atoms';
import type { Bitmap } from '../flow/bitmap';
import { MemoryColumns } from '../flow/columns';
import { type Flow, runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { addressText } from '../mail/address';
import { addressesOf, envelopeOf, fieldsNamed, readMessage } from '../mail/message';
import { compareChains } from '../reason/equivalence';
import { Knowledge } from '../reason/knowledge';
import { Reach } from '../reason/reach';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain, ChainEntry } from '../rules/rule';
import { quote } from '../sieve/quote';
import { elementAt } from '../text/lookup';
import { corpus, seeded } from './corpus';

/**
 * What is proved about random chains, held against all messages of the public corpus: fields missing, doubled or
 * empty, several addresses in From, comments in addresses, groups, addresses without domains, broken encodings. A
 * message that refutes a proof counts, whatever assumptions the proof used.
 */

/** More with CHAINS=2000 npx vitest run src/core/agreement/corpus-proofs.test.ts: about 9 minutes. */
const CHAINS = Number(process.env.CHAINS ?? 150);
const RULES = 10;

const MAIL = corpus().map((raw) => readMessage(raw));
const COLUMNS = new MemoryColumns();
for (const message of MAIL) COLUMNS.add(message, envelopeOf(message, 'me@home.example'));
const known = new Map<string, Bitmap>();

function flowOf(chain: Chain): Flow {
  const fresh = atomsOf(chain).filter((atom) => !known.has(atomKey(atom)));
  for (const [key, found] of evaluateAtoms(fresh, COLUMNS)) known.set(key, found);
  return runFlow(chain, known, COLUMNS.count);
}

const NEEDS = [
  'fileinto',
  'envelope',
  'relational',
  'index',
  'regex',
  'comparator-i;ascii-numeric',
  'comparator-i;unicode-casemap',
];

/** Tests whose keys come from one another and from the mail, so that many of them imply or exclude each other. */
function randomTests(next: (below: number) => number): string[] {
  const pick = <T>(all: readonly T[]): T => elementAt(all, next(all.length));
  const fields = ['from', 'to', 'subject', 'sender', 'reply-to', 'cc', 'list-id', 'x-spam-status', 'received', 'date'];
  const piece = (text: string): string => {
    const characters = Array.from(text);
    const start = next(Math.max(1, characters.length - 3));
    return characters.slice(start, start + 1 + next(12)).join('');
  };
  const texts = new Map(
    fields.map((name) => [name, MAIL.flatMap((message) => fieldsNamed(message, name).map(({ value }) => value))]),
  );
  const addresses = new Map(
    fields.map((name) => [name, MAIL.flatMap((message) => fieldsNamed(message, name).flatMap(addressesOf))]),
  );
  // Of odd messages at least as often as of others.
  const odd = MAIL.filter((message) => {
    const from = fieldsNamed(message, 'from');
    const isPlain = from.length === 1 && from.every((field) => addressesOf(field).length === 1);
    const doubled = ['subject', 'to', 'cc', 'date', 'reply-to', 'sender', 'message-id'].some(
      (name) => fieldsNamed(message, name).length > 1,
    );
    return !isPlain || doubled || from.some(({ value }) => /[()"]/.test(value));
  });
  const oddTexts = (name: string) => odd.flatMap((message) => fieldsNamed(message, name).map(({ value }) => value));
  const oddFrom = odd.flatMap((message) => fieldsNamed(message, 'from').flatMap(addressesOf));
  const text = (name: string): string => {
    const all = next(2) === 0 ? (texts.get(name) ?? []) : oddTexts(name);
    return all.length === 0 ? 'a' : pick(all);
  };
  const address = (name: string) => {
    const all = name === 'from' && next(2) === 0 ? oddFrom : (addresses.get(name) ?? []);
    return all.length === 0 ? null : pick(all);
  };
  const by = () => pick(['', '', '', ':comparator "i;octet" ', ':comparator "i;unicode-casemap" ']);
  const safe = (key: string) => key.replaceAll('\0', '');
  const wild = (key: string) => key.replace(/[*?\\]/g, '\\$&');
  const word = (name: string) => {
    const whole = safe(text(name));
    return pick([
      () => `${by()}:contains ${quote(name)} ${quote(piece(whole))}`,
      () => `${by()}:is ${quote(name)} ${quote(whole)}`,
      () => `${by()}:matches ${quote(name)} ${quote(`*${wild(piece(whole))}*`)}`,
      () => `${by()}:matches ${quote(name)} ${quote(`${wild(whole.slice(0, 5))}*`)}`,
    ])();
  };
  const some: (() => string)[] = [
    () => `header ${word(pick(fields))}`,
    () => {
      const name = pick(['from', 'from', 'to', 'cc', 'reply-to', 'sender']);
      const found = address(name);
      const part = pick([':all', ':localpart', ':domain']);
      const whole = found
        ? safe(part === ':all' ? addressText(found) : part === ':domain' ? (found.domain ?? '') : found.local)
        : 'a';
      const [kind, how, key] = pick([
        [`address ${part}`, ':contains', piece(whole)],
        [`address ${part}`, ':is', whole],
        [`address ${part}`, ':is', whole],
        [`address ${part}`, ':matches', `*${wild(piece(whole))}*`],
        ['header', ':contains', piece(whole)],
        ['header', ':contains', whole],
        ['header', ':is', whole],
      ] as const);
      return `${kind} ${by()}${how} ${quote(name)} ${quote(key)}`;
    },
    () => `exists ${quote(pick(fields))}`,
    () => `header :contains ${quote(pick(fields))} ""`,
    () => `header :is ${quote(pick(fields))} ""`,
    () => `header :matches ${quote(pick(fields))} ${quote(pick(['*', '?*', '*@*', '*<*>*', '*(*)*']))}`,
    () =>
      `address ${pick([':all', ':localpart', ':domain'])} :matches ${quote(pick(['from', 'to']))} ${quote(pick(['*', '?*', '*@*', '*.*']))}`,
    () =>
      `envelope ${pick([':all', ':domain'])} :contains "from" ${quote(piece(safe(addressText(address('from') ?? { display: '', local: 'a', domain: null }))))}`,
    () =>
      `header :count ${quote(pick(['ge', 'eq', 'lt']))} :comparator "i;ascii-numeric" ${quote(pick(['received', 'to', 'subject', 'from']))} "${next(4)}"`,
    () => `header :index ${1 + next(2)} ${pick(['', ':last '])}${word(pick(['received', 'subject', 'to']))}`,
    () => `size ${pick([':over', ':under'])} ${pick(MAIL).size}`,
    () => `header :regex "subject" ${quote(pick(['^re: ', '[0-9]+', '^$', '.']))}`,
  ];
  const condition = (): string => {
    const one = () => `${pick(['', '', '', 'not '])}${pick(some)()}`;
    return pick([
      one,
      one,
      () => `allof (${one()}, ${one()})`,
      () => `anyof (${one()}, ${one()})`,
      () => `allof (${one()}, not ${one()}, not ${one()})`,
    ])();
  };
  return Array.from({ length: 3 * RULES }, condition);
}

/** Chains over a pool of tests, some of them negated, narrowed or repeated. */
function randomChain(next: (below: number) => number, tests: readonly string[]): Chain {
  const pick = <T>(all: readonly T[]): T => elementAt(all, next(all.length));
  const rules = Array.from({ length: RULES }, (_, at) => {
    const [one, other] = [pick(tests), pick(tests)];
    const test_ = pick([one, one, one, `allof (${one}, not ${other})`, `anyof (${one}, ${other})`, `not ${one}`]);
    return `if ${test_} { ${pick(['fileinto "A";', 'fileinto "B";', 'discard;', `fileinto "F${at}";`])} ${pick(['stop;', 'stop;', ''])} }`;
  });
  const { chain, diagnostics } = chainFromSieve(
    `require [${NEEDS.map((need) => quote(need)).join(', ')}];\n${rules.join('\n')}\n`,
  );
  expect(diagnostics).toEqual([]);
  return chain;
}

function changed(chain: Chain, next: (below: number) => number): Chain {
  const place = next(chain.entries.length - 1);
  const entries = [...chain.entries];
  const [one, other] = [elementAt(entries, place), elementAt(entries, place + 1)];
  switch (next(3)) {
    case 0:
      entries.splice(place, 2, other, one);
      break;
    case 1:
      entries.splice(place, 1);
      break;
    default: {
      const ended = (entry: ChainEntry): ChainEntry =>
        entry.kind === 'rule' ? { ...entry, ending: entry.ending === 'stop' ? 'continue' : 'stop' } : entry;
      entries[place] = ended(one);
    }
  }
  return { ...chain, entries };
}

describe('the corpus', () => {
  test(`refutes no proof about ${CHAINS} random chains`, { timeout: 3_600_000 }, () => {
    const next = seeded(5322);
    const refuted: number[] = [];
    const counts = new Map<string, number>();
    const count = (what: string) => counts.set(what, (counts.get(what) ?? 0) + 1);
    let tests: readonly string[] = [];
    for (let number = 0; number < CHAINS; number++) {
      if (number % 20 === 0) {
        tests = randomTests(next);
        known.clear();
      }
      const chain = randomChain(next, tests);
      const knowledge = new Knowledge();
      const reach = new Reach(chain, knowledge);
      const flow = flowOf(chain);
      flow.entries.forEach(({ held, fired }, place) => {
        const answer = reach.canFire(place);
        count(answer.answer);
        const isRefuted =
          (answer.answer === 'contradiction' && !held.isEmpty()) || (answer.answer === 'shadowed' && !fired.isEmpty());
        if ('assumes' in answer) for (const one of answer.assumes) count(`${answer.answer} assumes ${one}`);
        if (isRefuted) refuted.push(number);
      });
      const other = changed(chain, next);
      const comparison = compareChains(chain, other, { knowledge });
      count(comparison.verdict);
      if (comparison.verdict !== 'equivalent') continue;
      for (const one of comparison.assumes) count(`equivalent assumes ${one}`);
      const differing = flow.fates.differsFrom(flowOf(other).fates);
      if (!differing.isEmpty()) refuted.push(number);
    }
    if (process.env.SHOW) console.log(Object.fromEntries([...counts].sort()));
    // Addresses of the corpus are not printed.
    expect(refuted.length).toBe(0);
    const all = (what: readonly string[]) => what.reduce((sum, one) => sum + (counts.get(one) ?? 0), 0);
    const asked = all(['possible', 'contradiction', 'shadowed', 'undecided', 'equivalent', 'different']);
    expect(all(['undecided'])).toBeLessThanOrEqual(asked / 100);
    expect(Math.min(all(['contradiction']), all(['shadowed']), all(['equivalent']))).toBeGreaterThan(CHAINS / 100);
  });
});
