import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { compareChains } from '../../reason/equivalence';
import { printTest } from '../../sieve/print';
import { chainFromSieve } from '../from-sieve';
import { testNode } from '../nodes';
import { IMPORTANT_MAIL, ONLY_TO, WITH_ATTACHMENT } from '../ready-tests';
import type { Chain, Rule } from '../rule';
import { sentenceOf } from '../sentence';
import { offersUnsubscribing, UNSUBSCRIBING_WORDS } from '../unsubscribing';
import { readTold } from './read';

/** Lines as people tell rules, written before the grammar was, by hand; those after `= MEANING` mean the same. */
const LINES = readFileSync(new URL('./said-lines.txt', import.meta.url), 'utf8');
const TELLER = { me: ['maren@mill.example'], folders: [] };

const keys = (words: string) =>
  `[${words
    .split('|')
    .map((word) => JSON.stringify(word))
    .join()}]`;
const sieve = (test: Parameters<typeof testNode>[0]) => printTest(testNode(test));
const ME = keys(TELLER.me.join('|'));

/** What the words of the file mean, as Sieve. */
const TESTS: Readonly<Record<string, (words: string) => string>> = {
  FROM: (words) => `address :is "from" ${keys(words)}`,
  FROMDOM: (words) => `address :domain :is "from" ${keys(words)}`,
  FROMWIDE: (word) => `address :domain :matches "from" ["${word}", "*.${word}"]`,
  FROMNAME: (words) => `header :contains "from" ${keys(words)}`,
  FROMPATTERN: (words) => `address :matches "from" ${keys(words)}`,
  TO: (words) => `address :is ["to", "cc"] ${keys(words)}`,
  RECIPIENTDOMAIN: (words) => `address :domain :is ["to", "cc"] ${keys(words)}`,
  ONLYTO: (words) => `address :is "to" ${keys(words)}`,
  CC: (words) => `address :is "cc" ${keys(words)}`,
  DELIVERED: (words) => `address :is "delivered-to" ${keys(words)}`,
  LIST: (words) => `header :contains "list-id" ${keys(words)}`,
  SUBJ: (words) => `header :contains "subject" ${keys(words)}`,
  SUBJIS: (words) => `header :is "subject" ${keys(words)}`,
  SUBJSTART: (word) => `header :matches "subject" "${word}*"`,
  SUBJEND: (word) => `header :matches "subject" "*${word}"`,
  BODY: (words) => `body :text :contains ${keys(words)}`,
  ANYWHERE: (words) =>
    `anyof (header :contains ["subject", "from", "to", "cc"] ${keys(words)}, body :text :contains ${keys(words)})`,
  OVER: (size) => `size :over ${size}`,
  UNDER: (size) => `size :under ${size}`,
  HEADER: (words) => `header :contains "${words.split('|')[0]}" "${words.split('|')[1]}"`,
  HEADERIS: (words) => `header :is "${words.split('|')[0]}" "${words.split('|')[1]}"`,
  EXISTS: (name) => `exists "${name}"`,
  ME: () => `address :is ["to", "cc"] ${ME}`,
  ONLYME: () => sieve(ONLY_TO(TELLER.me)),
  ATTACH: () => sieve({ kind: 'leaf', test: WITH_ATTACHMENT }),
  IMPORTANT: () => sieve({ kind: 'leaf', test: IMPORTANT_MAIL }),
  UNSUB: () => sieve(offersUnsubscribing(UNSUBSCRIBING_WORDS)),
  ALL: () => 'true',
};

function testOf(words: string): string {
  const parts = splitAt(words, '&').map((all) => {
    const any = splitAt(all, '|').map((one) => {
      const [, name = '', inside = ''] = /^([A-Z]+)(?:\((.*)\))?$/.exec(one.trim()) ?? [];
      return TESTS[name]?.(inside) ?? expect.unreachable(`no test ${one}`);
    });
    return any.length === 1 ? String(any[0]) : `anyof (${any.join()})`;
  });
  return parts.length === 1 ? String(parts[0]) : `allof (${parts.join()})`;
}

/** Splits outside brackets. */
const splitAt = (words: string, sign: string): string[] =>
  words.split(new RegExp(`\\s*\\${sign}\\s*(?=[A-Z]+(?:$|[\\s(|&!]))(?![^(]*\\))`));

const ACTIONS: readonly (readonly [RegExp, (word: string) => string])[] = [
  [/^into (.*)$/, (word) => `fileinto "${word}";`],
  [/^copy (.*)$/, (word) => `fileinto :copy "${word}";`],
  [/^tag (.*)$/, (word) => `addflag "${word}";`],
  [/^forward (.*)$/, (word) => `redirect :copy "${word}";`],
  [/^redirect (.*)$/, (word) => `redirect "${word}";`],
  [/^reply "(.*)"$/, (word) => `vacation "${word}";`],
  [/^keep$/, () => 'keep;'],
  [/^delete$/, () => 'discard;'],
  [/^seen$/, () => 'addflag "\\\\Seen";'],
  [/^flag$/, () => 'addflag "\\\\Flagged";'],
];

function chainMeant(sign: string, meaning: string): Chain {
  const [conditions = '', does = ''] = meaning.split(' => ');
  const [tests = '', ...exceptions] = conditions.split(' !').map((part) => part.trim());
  const steps = does.split(';').map((step) => step.trim());
  const actions = steps.map((step) => {
    for (const [pattern, write] of ACTIONS) {
      const found = pattern.exec(step);
      if (found) return write(found[1] ?? '');
    }
    return '';
  });
  const positive = sign === '!' ? `not ${testOf(tests)}` : testOf(tests);
  const whole = [positive, ...exceptions.map((exception) => `not ${testOf(exception)}`)];
  const condition = whole.length === 1 ? positive : `allof (${whole.join()})`;
  const script = `if ${condition} { ${actions.join(' ')} ${steps.includes('go on') ? '' : 'stop;'} }`;
  const { chain } = chainFromSieve(script);
  return chain;
}

interface Said {
  readonly line: string;
  /** Null where not all of it can be said by a rule. */
  readonly meant: Chain | null;
  readonly link: Rule['link'];
}

function saidLines(): Said[] {
  const said: Said[] = [];
  let meant: Chain | null = null;
  let link: Rule['link'] = 'always';
  for (const line of LINES.split('\n')) {
    const [, sign, meaning = ''] = /^([=!?]) (.*)$/.exec(line) ?? [];
    if (sign) {
      meant = sign === '?' ? null : chainMeant(sign, meaning);
      link = meaning.includes('otherwise') ? 'otherwise' : 'always';
    } else if (line.trim() !== '') said.push({ line, meant, link });
  }
  return said;
}

/** Read as meant, told not to be understood, or read as something else without a word. */
function verdictOf({ line, meant, link }: Said): { verdict: 'meant' | 'told' | 'wrong'; read: string } {
  const found = readTold(line, 'r1', TELLER);
  if (!found) return { verdict: 'wrong', read: 'nothing' };
  const read = sentenceOf(found.rule);
  const isTold = found.unread.length > 0 || found.remarks.length > 0;
  if (!meant) return { verdict: isTold ? 'told' : 'wrong', read };
  if (found.unread.length > 0)
    return {
      verdict: 'told',
      read: `${read} [${found.unread.map(({ start, end }) => line.slice(start, end)).join(' | ')}]`,
    };
  const { rule } = found;
  const same =
    rule.link === link &&
    compareChains({ entries: [{ ...rule, link: 'always' }], closing: '' }, meant).verdict === 'equivalent';
  const ending = meant.entries.every((entry) => entry.kind === 'rule' && entry.ending === rule.ending);
  if (same && ending) return { verdict: 'meant', read };
  return { verdict: isTold ? 'told' : 'wrong', read };
}

describe('rules as people tell them', () => {
  const verdicts = saidLines().map((said) => ({ ...said, ...verdictOf(said) }));

  test('none of 300 is read as something else without a word', () => {
    expect(verdicts.length).toBeGreaterThanOrEqual(300);
    const wrong = verdicts.filter(({ verdict }) => verdict === 'wrong');
    expect(wrong.map(({ line, read }) => `${line}\n    ${read}`)).toEqual([]);
  });

  test('at least 95% of those that a rule can say are read as meant', () => {
    const sayable = verdicts.filter(({ meant }) => meant !== null);
    const missed = sayable.filter(({ verdict }) => verdict !== 'meant');
    if (process.env.SHOW) for (const { line, read } of missed) console.log(`${line}\n    ${read}`);
    expect(missed.length / sayable.length).toBeLessThanOrEqual(0.05);
  });
});

describe('what no script can do is named (need N32)', () => {
  const read = (line: string) => {
    const found = readTold(line, 'r1', TELLER);
    if (!found) throw new Error('nothing is told');
    const { rule, unread, remarks } = found;
    return { on: rule.on, note: rule.note, unread: unread.length, remarks: remarks.map(({ words }) => words) };
  };

  test.each(['play a sound', 'print it', 'show an alert', 'open the program'])(
    'only a program on the desk can %s: the rule is made without it',
    (words) => {
      const line = `from boss@work.example into Work and ${words}`;
      expect(read(line)).toEqual({
        on: true,
        note: `Told as: ${line}`,
        unread: 0,
        remarks: ['Only a program on your desk can do this: the rule is made without it.'],
      });
    },
  );

  test.each(['if the server says it is spam move to Junk', 'mail marked as spam by the server goes into Junk'])(
    'only the filter of the server knows: %s',
    (line) => {
      expect(read(line)).toEqual({
        on: false,
        note: `Told as: ${line}`,
        unread: 0,
        remarks: [
          'Only the server’s own filter judges this: the rule is off until you test the header field that it adds.',
        ],
      });
    },
  );

  test('the same words as keys of a test are keys', () => {
    expect(read('from a@x.example with print in the subject into Print')).toMatchObject({ on: true, note: '' });
    expect(read('subject contains "is spam" delete')).toMatchObject({ on: true, note: '', remarks: [] });
  });
});
