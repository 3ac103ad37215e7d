import { describe, expect, test } from 'vitest';
import { ruleAt } from '../../../test/given';
import { readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import { type LeafTest, leavesOf } from '../rules/rule';
import { lowerChain } from './chain';
import { factHolds } from './facts';
import { Lowering } from './lower';
import { FALSE, TRUE } from './solve/formula';

const HEAD = 'require ["fileinto", "body", "envelope", "imap4flags", "regex", "relational", "date"];\n';
const chainOf = (script: string) => chainFromSieve(HEAD + script).chain;
const leafOf = (words: string): LeafTest => {
  const [leaf] = leavesOf(ruleAt(chainOf(`if ${words} { keep; }`).entries, 0).tests);
  if (!leaf) throw new Error('no leaf');
  return leaf;
};
const lowered = (lowering: Lowering, words: string) => {
  const leaf = leafOf(words);
  if (leaf.test === 'hasflag') throw new Error('a flag is no property of a message');
  return lowering.leaf(leaf);
};

describe('tests become formulas over facts', () => {
  test('what is asked twice is one formula, whatever the case of names', () => {
    const lowering = new Lowering();
    const first = lowered(lowering, 'header :contains "Subject" "oak"');
    expect(lowered(lowering, 'header :contains "SUBJECT" "oak"')).toBe(first);
    expect(lowered(lowering, 'header :contains "Subject" "elm"')).not.toBe(first);
    expect(lowering.facts).toHaveLength(2);
  });

  test('several headers are any of them', () => {
    const lowering = new Lowering();
    const [to, cc] = ['to', 'cc'].map((name) => lowered(lowering, `header :is "${name}" "a"`));
    expect(lowered(lowering, 'header :is ["to", "cc"] "a"')).toBe(lowering.formulas.or(to ?? TRUE, cc ?? TRUE));
  });

  test('how often a field may occur is known for those of RFC 5322 section 3.6', () => {
    const singleOf = (name: string) => {
      const lowering = new Lowering();
      lowered(lowering, `exists "${name}"`);
      const [fact] = lowering.facts;
      return fact?.fact === 'present' ? fact.field.single : undefined;
    };
    expect(['from', 'subject', 'received'].map(singleOf)).toEqual(['one-from', 'single-fields', null]);
  });

  test('what nothing is known of is a fact of its own', () => {
    const lowering = new Lowering();
    expect(lowering.free('x')).toBe(lowering.free('x'));
    expect(lowering.free('x')).not.toBe(lowering.free('y'));
  });
});

describe('facts of a message', () => {
  const message = readMessage(
    Buffer.from('From: Ann <ann@mill.example>\r\nTo: me@home.example\r\nSubject: The oak\r\n\r\nText of the weir.\r\n'),
  );
  const envelope = { from: 'bounce@mill.example', to: 'me+lists@home.example' };
  const holds = (words: string) => {
    const lowering = new Lowering();
    lowered(lowering, words);
    return lowering.facts.map((fact) => factHolds(fact, message, envelope));
  };

  test.each([
    ['header :contains "subject" "oak"', [true]],
    ['header :contains "subject" "elm"', [false]],
    ['address :domain :is "from" "mill.example"', [true]],
    ['address :localpart :is "from" "bo"', [false]],
    ['envelope :domain :is "from" "mill.example"', [true]],
    ['envelope :all :is "to" "me@home.example"', [false]],
    ['body :contains "weir"', [true]],
    ['exists "subject"', [true]],
    ['exists "list-id"', [false]],
    ['size :over 1K', [false]],
    ['size :over 10', [true]],
  ])('%s', (words, expected) => expect(holds(words)).toEqual(expected));

  test('of what is not a property of the message nothing is said', () => {
    expect(factHolds({ fact: 'free', name: 'x' }, message, envelope)).toBeNull();
  });
});

describe('a chain as formulas', () => {
  const fatesOf = (script: string) => {
    const lowering = new Lowering();
    return { lowering, chain: lowerChain(chainOf(script), lowering) };
  };

  test('a rule behind one that stops all mail is never reached', () => {
    const { chain } = fatesOf('stop; if exists "subject" { fileinto "Oak"; }');
    expect(chain.entries.map(({ reached }) => reached)).toEqual([TRUE, FALSE]);
    expect(chain.entries[1]?.fires).toBe(FALSE);
  });

  test('of linked rules the second is tried where the first has not fired', () => {
    const { lowering, chain } = fatesOf('if exists "a" { keep; } elsif exists "b" { discard; }');
    const [a, b] = ['a', 'b'].map((name) => lowered(lowering, `exists "${name}"`));
    const { and } = lowering.formulas;
    expect(chain.entries[1]?.fires).toBe(and.call(lowering.formulas, b ?? TRUE, (a ?? TRUE) ^ 1));
  });

  test('looks whether it is cancelled before each entry', () => {
    let asked = 0;
    lowerChain(chainOf('keep; keep; keep;'), new Lowering(), () => asked++);
    expect(asked).toBeGreaterThanOrEqual(3);
  });
});

test('the current date of a fact is compared with the time of the message', () => {
  const lowering = new Lowering();
  lowered(lowering, 'currentdate :value "ge" "date" "2026-07-04"');
  const [fact] = lowering.facts;
  if (fact?.fact !== 'now') throw new Error('no test of the current date');
  const message = readMessage(new Uint8Array());
  const at = (time: number) => factHolds(fact, message, { from: null, to: null }, time);
  expect([at(Date.UTC(2026, 6, 3, 23)), at(Date.UTC(2026, 6, 4)), at(Date.UTC(2027, 0, 1))]).toEqual([
    false,
    true,
    true,
  ]);
});
