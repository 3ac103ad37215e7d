import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluateAtoms, readerOf } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { type Flow, runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { envelopeOf, readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { check } from '../sieve/check';
import { fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { print } from '../sieve/print';
import { fullScriptText, messageText, scriptText } from './arbitrary';
import { withoutSpans } from './compare';

const octets = (text: string) => new TextEncoder().encode(text);
const ME = 'ann@mill.example';

function flowOf(chain: Chain, messages: readonly string[]): Flow {
  const columns = new MemoryColumns();
  for (const text of messages) {
    const message = readMessage(octets(text));
    columns.add(message, envelopeOf(message, ME));
  }
  return runFlow(chain, evaluateAtoms(atomsOf(chain), columns), columns.count);
}

const sample = fc.tuple(scriptText, fc.array(messageText, { minLength: 8, maxLength: 40 }));

describe('interpreter and flow engine', () => {
  test('give every message of generated chains the same fate', () => {
    let blocks = 0;
    let runs = 0;
    fc.assert(
      fc.property(sample, ([source, messages]) => {
        const { script, diagnostics } = parse(source);
        expect([...diagnostics, ...check(script)]).toEqual([]);
        const { chain } = chainFromSieve(source);
        blocks += chain.entries.filter((entry) => entry.kind === 'script').length;
        const flow = flowOf(chain, messages);
        const run = interpreter(script);
        messages.forEach((text, index) => {
          const message = readMessage(octets(text));
          const { fate } = run(message, envelopeOf(message, ME));
          expect(fateKey(flow.fates.fateOf(index))).toBe(fateKey(fate));
          runs++;
        });
      }),
      { numRuns: 1500 },
    );
    // Both paths of the flow engine were really taken.
    expect(blocks).toBeGreaterThan(20);
    expect(runs).toBeGreaterThan(10_000);
  });

  test('count fields and addresses alike, by columns and on whole messages (RFC 5231)', () => {
    const counting = fc.record({
      of: fc.constantFrom('header', 'address'),
      names: fc.uniqueArray(fc.constantFrom('to', 'cc', 'from', 'subject', 'x-tag', 'received'), { minLength: 1 }),
      relation: fc.constantFrom('gt', 'ge', 'lt', 'le', 'eq', 'ne'),
      key: fc.constantFrom('0', '1', '2', '3'),
    });
    let met = 0;
    fc.assert(
      fc.property(counting, fc.array(messageText, { minLength: 8, maxLength: 30 }), (wanted, messages) => {
        const { of, names, relation, key } = wanted;
        const fields = JSON.stringify(of === 'address' ? names.filter((name) => name.length < 5) : names);
        if (fields === '[]') return;
        const source = `require ["relational", "comparator-i;ascii-numeric"];
if ${of} :count "${relation}" :comparator "i;ascii-numeric" ${fields} "${key}" { discard; }`;
        const { script, diagnostics } = parse(source);
        expect([...diagnostics, ...check(script)]).toEqual([]);
        const { chain } = chainFromSieve(source);
        expect(atomsOf(chain).map(readerOf)).toEqual(['columns']);
        const flow = flowOf(chain, messages);
        const run = interpreter(script);
        messages.forEach((text, index) => {
          const message = readMessage(octets(text));
          const { fate } = run(message, envelopeOf(message, ME));
          expect(fateKey(flow.fates.fateOf(index))).toBe(fateKey(fate));
          if (flow.entries[0]?.held.has(index)) met++;
        });
      }),
      { numRuns: 300 },
    );
    expect(met).toBeGreaterThan(500);
  });

  test('agree on scripts that use much of the whole language, as they were written and written anew', () => {
    let blocks = 0;
    let runs = 0;
    const sampled = fc.tuple(fullScriptText, fc.array(messageText, { minLength: 5, maxLength: 20 }));
    fc.assert(
      fc.property(sampled, ([source, messages]) => {
        const { script, diagnostics } = parse(source);
        const faults = [...diagnostics, ...check(script)].filter(({ code }) => code !== 'conflicting-actions');
        fc.pre(faults.length === 0 && !check(script).some(({ code }) => code === 'conflicting-actions'));
        const { chain } = chainFromSieve(source);
        blocks += chain.entries.filter((entry) => entry.kind === 'script').length;
        const flow = flowOf(chain, messages);
        const written = sieveFromChain(chain).text;
        const again = parse(written);
        expect([...again.diagnostics, ...check(again.script)]).toEqual([]);
        const [run, rerun] = [interpreter(script), interpreter(again.script)];
        messages.forEach((text, index) => {
          const message = readMessage(octets(text));
          const envelope = envelopeOf(message, ME);
          const { fate } = run(message, envelope);
          expect([...flow.fates.fateOf(index).replies].sort()).toEqual([...fate.replies].sort());
          expect(fateKey(flow.fates.fateOf(index))).toBe(fateKey(fate));
          expect(fateKey(rerun(message, envelope).fate)).toBe(fateKey(fate));
          runs++;
        });
      }),
      { numRuns: 1000 },
    );
    expect(blocks).toBeGreaterThan(100);
    expect(runs).toBeGreaterThan(5000);
  });

  test('a chain written as Sieve and read back gives the same fates, and its names', () => {
    fc.assert(
      fc.property(sample, ([source, messages]) => {
        const { chain } = chainFromSieve(source);
        const written = sieveFromChain(chain);
        const again = chainFromSieve(written.text);
        expect(again.diagnostics).toEqual([]);
        expect(withoutSpans(again.script.commands)).toEqual(withoutSpans(written.script.commands));
        expect(again.chain.entries.map((entry) => entry.name)).toEqual(chain.entries.map((entry) => entry.name));
        const [before, after] = [flowOf(chain, messages), flowOf(again.chain, messages)];
        expect(after.fates.differsFrom(before.fates).count()).toBe(0);
        before.entries.forEach((entry, index) => {
          expect(after.entries[index]?.fired.members().next()).toEqual(entry.fired.members().next());
        });
      }),
      { numRuns: 400 },
    );
  });

  test('the fates of a message are the same whoever compares them: as sets or as bitmaps', () => {
    fc.assert(
      fc.property(sample, scriptText, ([source, messages], other) => {
        const flowIn = (text: string) => flowOf(chainFromSieve(text).chain, messages);
        const [a, b] = [flowIn(source), flowIn(other)];
        const changed = a.fates.differsFrom(b.fates);
        messages.forEach((_, index) => {
          const differs = fateKey(a.fates.fateOf(index)) !== fateKey(b.fates.fateOf(index));
          expect(changed.has(index)).toBe(differs);
        });
      }),
      { numRuns: 200 },
    );
  });
});

describe('printer and parser', () => {
  test('print, parse, print gives the same tree', () => {
    fc.assert(
      fc.property(scriptText, (source) => {
        const first = parse(source);
        const second = parse(print(first.script));
        expect(second.diagnostics).toEqual([]);
        expect(withoutSpans(second.script.commands)).toEqual(withoutSpans(first.script.commands));
        expect(print(second.script)).toBe(print(first.script));
      }),
      { numRuns: 500 },
    );
  });
});
