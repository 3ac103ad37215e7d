import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { traceMessage } from '../flow/trace';
import { splitMbox } from '../mail/mbox';
import { envelopeOf, readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import { sentenceOf } from '../rules/sentence';
import { sieveFromChain } from '../rules/to-sieve';
import { check } from '../sieve/check';
import { fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { messageText, scriptText } from './arbitrary';
import { mutated, numbers } from './mutate';

const octets = (text: string) => new TextEncoder().encode(text);

const broken = fc.tuple(scriptText, fc.nat()).map(([source, seed]) => mutated(source, numbers(seed)));

describe('whatever a script holds', () => {
  test('what of it becomes a chain is exported as a valid script, and both engines agree on it', () => {
    let works = 0;
    fc.assert(
      fc.property(broken, fc.array(messageText, { minLength: 1, maxLength: 4 }), (source, messages) => {
        const { chain } = chainFromSieve(source);
        for (const entry of chain.entries) expect(sentenceOf(entry)).not.toContain('undefined');
        const { text } = sieveFromChain(chain);
        const read = parse(text);
        expect([...read.diagnostics, ...check(read.script)]).toEqual([]);
        const columns = new MemoryColumns();
        const mail = messages.map((words) => readMessage(octets(words)));
        for (const message of mail) columns.add(message, envelopeOf(message, null));
        const flow = runFlow(chain, evaluateAtoms(atomsOf(chain), columns), mail.length);
        const run = interpreter(read.script);
        mail.forEach((message, index) => {
          const fate = fateKey(flow.fates.fateOf(index));
          expect(fateKey(run(message, envelopeOf(message, null)).fate)).toBe(fate);
          const trace = traceMessage(chain, message, envelopeOf(message, null));
          expect(fateKey(trace.fate)).toBe(fate);
          const fired = flow.entries.filter((entry) => entry.fired.has(index)).map((entry) => entry.entry.id);
          expect(trace.entries.filter(({ outcome }) => outcome === 'fired').map(({ entry }) => entry.id)).toEqual(
            fired,
          );
          works++;
        });
      }),
      { numRuns: 1500 },
    );
    expect(works).toBeGreaterThan(1000);
  });
});

describe('whatever an mbox holds', () => {
  test('every octet between separators is in some message', () => {
    const line = fc.oneof(
      fc.constantFrom('From x', 'From a@b Thu Jan  1 10:00:00 2026', '>From y', '', 'Subject: x', 'words', '\r', '\0'),
      fc.string({ maxLength: 10 }),
    );
    fc.assert(
      fc.property(fc.array(line, { maxLength: 30 }), (lines) => {
        const file = octets(lines.join('\n'));
        const entries = [...splitMbox(file, { quoting: 'reversible', largest: 1e9 })];
        const held = entries.reduce(
          (sum, { raw, fromLine }) => sum + raw.length + (fromLine === null ? 0 : fromLine.length + 1),
          0,
        );
        // Only a quoting mark, a blank line, or the CR of a separator is lost: never more than one octet a line.
        expect(held).toBeLessThanOrEqual(file.length + 1);
        expect(held).toBeGreaterThanOrEqual(file.length - 3 * lines.length - 1);
      }),
      { numRuns: 2000 },
    );
  });
});
