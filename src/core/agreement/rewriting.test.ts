import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { envelopeOf, readMessage } from '../mail/message';
import { applyEdit, invertEdit } from '../rules/edit';
import { chainFromSieve } from '../rules/from-sieve';
import { editingText, maybeRunOf, type RewriteEdit, readRewrite } from '../rules/rewrite';
import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { check } from '../sieve/check';
import { fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { elementAt } from '../text/lookup';
import { fullScriptText, messageText, scriptText } from './arbitrary';
import { ruleChain } from './arbitrary-rules';

const runAt = (chain: Chain, pick: number) =>
  given(maybeRunOf(chain, elementAt(chain.entries, pick % chain.entries.length).id));
function afterRewrite(chain: Chain, edit: RewriteEdit | null): Chain {
  const applied = edit ? applyEdit(chain, edit) : { ok: true as const, chain };
  return applied.ok ? applied.chain : expect.fail(applied.reason);
}

const read = (source: string): Chain => chainFromSieve(source).chain;

describe('rules written as Sieve and read back', () => {
  test('are the same rules, whatever they hold', () => {
    fc.assert(
      fc.property(ruleChain, (made) => {
        const on = { ...made, entries: made.entries.map((entry) => ({ ...entry, on: true })) };
        expect(read(sieveFromChain(on).text)).toEqual(on);
      }),
      { numRuns: 3000 },
    );
  });

  test('are the same chain, script blocks and all, when they were read from a script', () => {
    let blocks = 0;
    fc.assert(
      fc.property(fc.oneof(scriptText, fullScriptText), (source) => {
        const once = read(source);
        fc.pre(once.entries.every((entry) => entry.kind === 'rule' || entry.works));
        blocks += once.entries.filter((entry) => entry.kind === 'script').length;
        expect(read(sieveFromChain(once).text)).toEqual(once);
      }),
      { numRuns: 2000 },
    );
    expect(blocks).toBeGreaterThan(200);
  });
});

describe('a text that is edited', () => {
  test('left as it is, changes nothing: neither the whole nor any part', () => {
    fc.assert(
      fc.property(fc.oneof(ruleChain, scriptText.map(read), fullScriptText.map(read)), fc.nat(), (chain, pick) => {
        fc.pre(chain.entries.every((entry) => entry.kind === 'rule' || entry.works));
        expect(readRewrite(chain, null, editingText(chain, null))).toMatchObject({ edit: null, diagnostics: [] });
        const run = runAt(chain, pick);
        expect(readRewrite(chain, run, editingText(chain, run)).edit).toBe(null);
      }),
      { numRuns: 1000 },
    );
  });

  test('gives an edit that leads to what the text says, and back', () => {
    fc.assert(
      fc.property(ruleChain, fc.oneof(scriptText, fullScriptText), fc.nat(), (chain, source, pick) => {
        const whole = readRewrite(chain, null, source).edit;
        expect(sieveFromChain(afterRewrite(chain, whole)).text).toBe(sieveFromChain(read(source)).text);
        for (const edit of [whole, readRewrite(chain, runAt(chain, pick), source).edit]) {
          if (!edit) continue;
          const after = afterRewrite(chain, edit);
          expect(new Set(after.entries.map((entry) => entry.id)).size).toBe(after.entries.length);
          expect(applyEdit(after, invertEdit(edit))).toEqual({ ok: true, chain });
          expect(applyEdit(after, edit).ok).toBe(false);
        }
      }),
      { numRuns: 500 },
    );
  });

  test('is simulated as it is exported, also where a part reaches into the rest', () => {
    let runs = 0;
    fc.assert(
      fc.property(
        fc.oneof(ruleChain, fullScriptText.map(read)),
        fullScriptText,
        fc.nat(),
        fc.array(messageText, { minLength: 3, maxLength: 8 }),
        (chain, source, pick, texts) => {
          const after = afterRewrite(chain, readRewrite(chain, runAt(chain, pick), source).edit);
          const { script, diagnostics } = parse(sieveFromChain(after).text);
          fc.pre(diagnostics.length === 0 && check(script).length === 0);
          const messages = texts.map((text) => readMessage(new TextEncoder().encode(text)));
          const columns = new MemoryColumns();
          for (const message of messages) columns.add(message, envelopeOf(message, null));
          const flow = runFlow(after, evaluateAtoms(atomsOf(after), columns), columns.count);
          const run = interpreter(script);
          messages.forEach((message, index) => {
            const { fate } = run(message, envelopeOf(message, null));
            expect(fateKey(flow.fates.fateOf(index))).toBe(fateKey(fate));
            runs++;
          });
        },
      ),
      { numRuns: 600 },
    );
    expect(runs).toBeGreaterThan(1000);
  });
});
