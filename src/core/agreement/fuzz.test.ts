import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import { check } from '../sieve/check';
import { wordsOf } from '../sieve/diagnostics';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { print } from '../sieve/print';
import { readXml, writeXml } from '../sieve/xml';
import { elementAt } from '../text/lookup';
import { fullScriptText, scriptText } from './arbitrary';
import { withoutSpans } from './compare';
import { mutated, numbers, PIECES } from './mutate';

/** Inputs of both kinds together: 100,000. */
const MUTATED = 88_000;
const GENERATED = 12_000;

const message = readMessage(new TextEncoder().encode('From: a@x.example\nSubject: oak\n\nwords\n'));

/** What must hold for any text; returns whether it is a valid script. */
function examine(source: string): boolean {
  const { script, diagnostics } = parse(source);
  const faults = [...diagnostics, ...check(script)];
  for (const fault of faults) {
    const { start, end } = fault.span;
    if (!(start >= 0 && start <= end && end <= source.length)) expect({ source, fault }).toBe('a place in the text');
    const words = wordsOf(fault);
    if (words.includes('undefined') || words.includes('\n')) expect({ source, words }).toBe('one plain line');
    if (!/\((RFC \d+|draft-[\w-]+) section/.test(words)) expect({ source, words }).toBe('told with its section');
  }
  chainFromSieve(source);
  if (diagnostics.length > 0) return false;
  const printed = print(script);
  const again = parse(printed);
  if (again.diagnostics.length > 0 || print(again.script) !== printed)
    expect({ source, printed }).toBe('printed stably');
  if (faults.length === 0) interpreter(script)(message, { from: 'a@x.example', to: null });
  return faults.length === 0;
}

describe('100,000 texts', () => {
  test('made from real and generated scripts by cutting, doubling and putting in', () => {
    const demo = readFileSync('demo/rules.sieve', 'utf8').split('\n\n');
    const corpus = [
      ...fc.sample(fullScriptText, { seed: 5228, numRuns: 400 }),
      ...fc.sample(scriptText, { seed: 5229, numRuns: 200 }),
      ...demo.map((_, at) => demo.slice(at, at + 3).join('\n\n')),
    ];
    const next = numbers(3028);
    let sound = 0;
    for (let run = 0; run < MUTATED; run++) {
      if (examine(mutated(elementAt(corpus, next(corpus.length)), next))) sound++;
    }
    // Neither all broken nor all valid.
    expect(sound).toBeGreaterThan(MUTATED / 100);
    expect(sound).toBeLessThan(MUTATED / 2);
  });

  test('made of nothing but pieces, and of any characters', () => {
    const next = numbers(5784);
    for (let run = 0; run < GENERATED; run++) {
      examine(Array.from({ length: next(40) }, () => PIECES[next(PIECES.length)]).join(next(2) ? ' ' : ''));
    }
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 200 }), (source) => void examine(source)),
      { numRuns: 2000 },
    );
  });

  test('the same in XML: read, or refused in one line', () => {
    const corpus = fc
      .sample(fullScriptText, { seed: 5784, numRuns: 100 })
      .map((source) => writeXml(parse(source).script));
    const next = numbers(1);
    const pieces = [
      '<',
      '>',
      '</',
      '"',
      '&',
      '&amp;',
      '<!--',
      '-->',
      '<![CDATA[',
      ']]>',
      '<!DOCTYPE x [<!ENTITY a "b">]>',
      '<num>',
      '</list>',
    ];
    let readable = 0;
    for (let run = 0; run < 3000; run++) {
      let text = elementAt(corpus, next(corpus.length));
      for (let count = next(3); count > 0; count--) {
        const at = next(text.length);
        text = text.slice(0, at) + (next(2) ? pieces[next(pieces.length)] : '') + text.slice(at + next(12));
      }
      const read = readXml(text);
      if (!read.ok) {
        expect(read.message).not.toMatch(/undefined|\n/);
        expect(read.line).toBeGreaterThan(0);
        continue;
      }
      readable++;
      const { script, diagnostics } = parse(print(read.script));
      if (diagnostics.length === 0) {
        expect(withoutSpans(parse(print(script)).script.commands)).toEqual(withoutSpans(script.commands));
      }
    }
    expect(readable).toBeGreaterThan(300);
  });
});

describe('a megabyte of nesting', () => {
  test.each([
    ['parentheses', '('],
    ['blocks', 'if true {'],
    ['blocks never named', '{'],
    ['negations', 'if not '],
    ['tests', 'if anyof ('],
    ['tests that never end', 'anyof (true, '],
    ['lists', '['],
    ['quotation marks', '"'],
    ['comments', '/*'],
    ['texts', 'text:\n'],
    ['colons', ':'],
    ['closing braces', '}'],
    ['branches', 'else {'],
    ['loops', 'foreverypart {'],
    ['commands on lines of their own', 'keep\n'],
    ['encoded characters', 'require "encoded-character"; keep "${hex:'],
  ])('of %s is refused, not run into the end of the stack', (_what, piece) => {
    const source = piece.repeat(Math.ceil(2 ** 20 / piece.length));
    const { diagnostics, chain } = chainFromSieve(source);
    expect(diagnostics.length).toBeGreaterThan(0);
    expect(chain.entries.every((entry) => entry.kind === 'script' && !entry.works)).toBe(true);
  });

  test('fifteen blocks and fifteen tests deep are taken (RFC 5228 sections 2.9 and 8.2)', () => {
    const tests = `${'not '.repeat(15)}true`;
    const source = `${`if ${tests} {`.repeat(15)} keep; ${'}'.repeat(15)}`;
    const { script, diagnostics } = parse(source);
    expect([...diagnostics, ...check(script)]).toEqual([]);
  });
});
