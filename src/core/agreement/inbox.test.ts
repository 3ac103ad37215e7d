import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { switchedOff, whyAbsent } from '../flow/inbox';
import { atomsOf } from '../flow/program';
import { envelopeOf, readMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { INBOX } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { messageText, scriptText } from './arbitrary';

const octets = (text: string) => new TextEncoder().encode(text);

function absenceIn(chain: Chain, text: string) {
  const message = readMessage(octets(text));
  const columns = new MemoryColumns();
  columns.add(message, envelopeOf(message, null));
  return whyAbsent(chain, evaluateAtoms(atomsOf(chain), columns), 0);
}

/** By trying every set of entries with the interpreter. */
function byTrying(chain: Chain, text: string): string[][] | null {
  const message = readMessage(octets(text));
  const arrives = (off: ReadonlySet<string>) => {
    const run = interpreter(sieveFromChain(switchedOff(chain, off)).script);
    return run(message, envelopeOf(message, null)).fate.deliveries.some(({ folder }) => folder === INBOX);
  };
  if (arrives(new Set())) return null;
  const ids = chain.entries.filter(({ on }) => on).map(({ id }) => id);
  const found: string[][] = [];
  const sets = Array.from({ length: 2 ** ids.length }, (_, bits) => ids.filter((_id, at) => bits & (1 << at)));
  for (const set of sets.sort((a, b) => a.length - b.length)) {
    if (found.some((less) => less.every((id) => set.includes(id)))) continue;
    if (arrives(new Set(set))) found.push(set);
  }
  return found;
}

describe('why a message does not reach the inbox', () => {
  test('the smallest sets of rules are those that trying all sets finds', () => {
    let several = 0;
    let together = 0;
    const sample = fc.tuple(scriptText, fc.array(messageText, { minLength: 3, maxLength: 6 }));
    fc.assert(
      fc.property(sample, ([source, messages]) => {
        const { chain } = chainFromSieve(source);
        if (chain.entries.length > 7) return;
        for (const text of messages) {
          const expected = byTrying(chain, text);
          const absence = absenceIn(chain, text);
          expect(absence?.sets.map((set) => set.join(' ')).sort() ?? null).toEqual(
            expected?.map((set) => set.join(' ')).sort() ?? null,
          );
          if ((expected?.length ?? 0) > 1) several++;
          if (expected?.some((set) => set.length > 1)) together++;
        }
      }),
      { numRuns: 600, seed: 8 },
    );
    expect(several).toBeGreaterThan(10);
    expect(together).toBeGreaterThan(10);
  });

  test('two rules that each file it must both be off; a rule behind a stop comes to light only then', () => {
    const { chain } = chainFromSieve(`require "fileinto";
      if header :contains "subject" "oak" { fileinto "Oak"; }
      if header :contains "subject" "beam" { discard; stop; }
      if header :contains "subject" "oak" { fileinto "Wood"; }`);
    expect(absenceIn(chain, 'Subject: oak beam\n\n')).toEqual({ sets: [['r1', 'r2', 'r3']], complete: true });
    expect(absenceIn(chain, 'Subject: beam\n\n')).toEqual({ sets: [['r2']], complete: true });
    expect(absenceIn(chain, 'Subject: lime\n\n')).toBeNull();
  });

  test('sixty rules that all file it, too many to try their sets: still one answer', () => {
    const rules = Array.from({ length: 60 }, (_, n) => `if header :contains "subject" "oak" { fileinto "F${n}"; }`);
    const { chain } = chainFromSieve(`require "fileinto";\n${rules.join('\n')}`);
    expect(absenceIn(chain, 'Subject: oak\n\n')).toEqual({
      sets: [chain.entries.map(({ id }) => id)],
      complete: false,
    });
  });
});
