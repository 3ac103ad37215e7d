import fc from 'fast-check';
import { expect, test } from 'vitest';
import { auditChain } from '../audit/catalogue';
import type { Finding } from '../audit/finding';
import { AuditMemory } from '../audit/memory';
import { MailGatherer } from '../audit/stored';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { applyEdits } from '../rules/edit';
import { unfitFor, withProfile } from '../rules/profile';
import type { Chain } from '../rules/rule';
import { profiles } from './arbitrary-profiles';
import { chainOf, SMALL_ENVELOPE, SMALL_MESSAGES, smallFlow, smallRule } from './small-chains';

/** Audits of chains that another program runs in its own way, compared with all small messages. */

const chains = fc
  .tuple(fc.array(smallRule, { minLength: 1, maxLength: 4 }), profiles)
  .map(([rules, profile]) => withProfile(chainOf(rules), profile))
  .filter((chain) => unfitFor(chain).length === 0);

function audited(chain: Chain, messages: typeof SMALL_MESSAGES): readonly Finding[] {
  const columns = new MemoryColumns();
  const gatherer = new MailGatherer();
  for (const message of messages) {
    columns.add(message, SMALL_ENVELOPE);
    gatherer.add({ message, folder: null, flags: [] });
  }
  const atoms = evaluateAtoms(atomsOf(chain), columns);
  const flow = runFlow(chain, atoms, columns.count);
  return auditChain({ chain, flow, atoms, mail: gatherer.mail([]) }, { memory: new AuditMemory() }).findings;
}

const switchedOff = (chain: Chain, id: string): Chain => ({
  ...chain,
  entries: chain.entries.map((entry) => (entry.id === id ? { ...entry, on: false } : entry)),
});

test('what an audit without mail proves is so, under any profile', () => {
  const kinds = new Map<string, number>();
  fc.assert(
    fc.property(chains, (chain) => {
      const { entries, fates } = smallFlow(chain);
      const flowOf = (id: string | undefined) => entries.find(({ entry }) => entry.id === id);
      for (const { kind, certainty, rules } of audited(chain, [])) {
        kinds.set(kind, (kinds.get(kind) ?? 0) + 1);
        const [id = ''] = rules;
        if (kind === 'contradiction') expect(flowOf(id)?.held.isEmpty()).toBe(true);
        if (kind === 'shadowed' && certainty === 'proved') expect(flowOf(id)?.fired.isEmpty()).toBe(true);
        if (kind === 'redundant' && certainty === 'proved')
          expect(smallFlow(switchedOff(chain, id)).fates.differsFrom(fates).isEmpty()).toBe(true);
      }
    }),
    { numRuns: 250 },
  );
  for (const kind of ['contradiction', 'redundant', 'overlap'])
    expect([kind, (kinds.get(kind) ?? 0) > 5]).toEqual([kind, true]);
});

test('repairs are of the rules as the user has them, and say nothing that the program does not know', () => {
  const some = SMALL_MESSAGES.filter((_, at) => at % 7 === 0);
  let repaired = 0;
  fc.assert(
    fc.property(chains, (chain) => {
      const hasOrder = chain.profile?.order === 'listed';
      const endings = chain.profile?.ending === 'rule';
      for (const { kind, repairs } of audited(chain, some)) {
        if (!hasOrder) expect(kind).not.toMatch(/^(order-conflict|cut-short)$/);
        for (const { edits, title } of repairs) {
          const applied = applyEdits(chain, edits);
          expect([title, applied.ok]).toEqual([title, true]);
          if (!hasOrder) expect(edits.map((edit) => edit.kind)).not.toContain('move');
          if (!endings) expect(edits.map((edit) => edit.kind)).not.toContain('ending');
          repaired++;
          for (const edit of edits) {
            if (edit.kind !== 'rewrite' || edit.before.length !== 1 || edit.after.length !== 1) continue;
            const [before, after] = [edit.before[0], edit.after[0]];
            // Only a repair of what a rule does changes that.
            if (/^exception|^too-|^unprotected/.test(kind) && before?.kind === 'rule' && after?.kind === 'rule')
              expect([title, after.actions, after.ending]).toEqual([title, before.actions, before.ending]);
          }
        }
      }
    }),
    { numRuns: 60 },
  );
  expect(repaired).toBeGreaterThan(100);
});
