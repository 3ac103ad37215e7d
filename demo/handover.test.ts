import { describe, expect, test } from 'vitest';
import { madeUpMail, madeUpScript } from '../bench/made-up';
import { atomKey, evaluateAtoms } from '../src/core/flow/atoms';
import { Bitmap } from '../src/core/flow/bitmap';
import { MemoryColumns } from '../src/core/flow/columns';
import { type Flow, runFlow } from '../src/core/flow/flow';
import { atomsOf } from '../src/core/flow/program';
import { prepareScript } from '../src/core/handover/prepare';
import { DEFAULT_CHOICES } from '../src/core/handover/rewrite';
import { READY_TARGETS } from '../src/core/handover/target';
import { envelopeOf, readMessage } from '../src/core/mail/message';
import { chainFromSieve } from '../src/core/rules/from-sieve';
import type { Chain } from '../src/core/rules/rule';
import { fateKey } from '../src/core/sieve/interpret/fate';
import { interpreter } from '../src/core/sieve/interpret/interpret';

/**
 * Long chains written for every target, read back and run. More messages by MESSAGES=20000 npx vitest run
 * demo/handover.test.ts
 */
const MESSAGES = Number(process.env.MESSAGES ?? 1500);
const RULES = [40, 120, 200];

const mail = [...madeUpMail(MESSAGES)].map(({ raw }) => readMessage(raw));
const columns = new MemoryColumns();
for (const message of mail) columns.add(message, envelopeOf(message, null));
const atoms = new Map<string, Bitmap>();

function flowOf(chain: Chain): Flow {
  const missing = atomsOf(chain).filter((atom) => !atoms.has(atomKey(atom)));
  for (const [key, bitmap] of evaluateAtoms(missing, columns)) atoms.set(key, bitmap);
  return runFlow(chain, atoms, columns.count);
}

describe.each(READY_TARGETS)('said to $id', (target) => {
  test.each(RULES)('a chain of %i rules: what differs is declared', { timeout: 600_000 }, (rules) => {
    const { chain } = chainFromSieve(madeUpScript(rules));
    const prepared = prepareScript(chain, target, DEFAULT_CHOICES);
    const again = chainFromSieve(prepared.text).chain;
    const [before, said, read] = [chain, prepared.chain, again].map(flowOf) as [Flow, Flow, Flow];
    expect(read.fates.differsFrom(said.fates).count()).toBe(0);
    const costly = new Set(prepared.costs.map(({ id }) => id));
    const concerned = [...before.entries, ...said.entries]
      .filter(({ entry }) => costly.has(entry.id))
      .reduce((all, { fired }) => all.or(fired), new Bitmap(columns.count));
    const changed = said.fates.differsFrom(before.fates);
    expect(changed.without(concerned).count()).toBe(0);
    if (target.id === 'everything') expect(changed.count()).toBe(0);
    // The interpreter runs the script itself on some of them, since it is a thousand times slower.
    const run = interpreter(chainFromSieve(prepared.text).script);
    for (let number = 0; number < mail.length; number += Math.ceil(mail.length / 300)) {
      const message = mail[number];
      if (!message) throw new Error(`there is no message ${number}`);
      expect(fateKey(run(message, envelopeOf(message, null)).fate)).toBe(fateKey(said.fates.fateOf(number)));
    }
  });
});
