import { expect, test } from 'vitest';
import { addFile, audit, id, store, withAudit } from '../../../test/harness';
import type { Action, Chain } from '../../core/rules/rule';
import { history, makeChange, takingBack } from '../changes/changes';
import { chainAt, keepVersion } from '../changes/versions';
import { bringChainsUpToDate } from './worked-out';

withAudit();

const RULES = `require ["fileinto", "mailbox", "special-use"];
# Oak
if header :contains "subject" "oak" { fileinto :create "Oak"; stop; }
# Archive
if header :contains "subject" "old" { fileinto :specialuse "\\\\Archive" "Old"; }
`;

const OLD = { action: 'sieve', name: 'fileinto', text: 'fileinto :create "Oak";' };
const NOW: Action = { action: 'fileinto', folder: 'Oak', copy: false, flags: null, create: true };

/** As an earlier version wrote it: every filing with :create word for word. */
function writtenBefore(): void {
  const texts = [JSON.stringify(NOW), JSON.stringify(OLD)] as const;
  for (const [table, column] of ['audit.chain', 'change.edits', 'version.chain'].map((one) => one.split('.'))) {
    store.$client.prepare(`update "${table}" set "${column}" = replace("${column}", ?, ?)`).run(...texts);
  }
  store.$client.exec('update audit set chain_format = 0');
}
const actionsOf = (chain: Chain) => chain.entries.map((entry) => (entry.kind === 'rule' ? entry.actions : []));

test('chains, changes and versions of an earlier build are said anew, and still fit together', async () => {
  await addFile('rules.sieve', RULES);
  const [oak] = audit().draft.entries;
  if (oak?.kind !== 'rule') throw new Error('no rule');
  const change = {
    kind: 'rewrite' as const,
    from: 0,
    before: [oak],
    after: [{ ...oak, ending: 'continue' as const }],
    closing: { before: '', after: '' },
  };
  makeChange(store, id, [change], '');
  const version = keepVersion(store, id, 'kept');
  const draft = audit().draft;
  writtenBefore();
  expect(actionsOf(audit().draft)[0]).toEqual([OLD]);

  bringChainsUpToDate(store);
  expect(audit().draft).toEqual(draft);
  expect(actionsOf(audit().baseline)).toEqual([[NOW], [expect.objectContaining({ action: 'fileinto-use' })]]);
  expect(actionsOf(chainAt(store, audit(), version))[0]).toEqual([NOW]);
  const [made] = history(store, id);
  const back = takingBack(store, audit(), made?.id ?? 0);
  expect(JSON.stringify(back)).toContain('"ending":"stop"');

  // The second run has nothing to do.
  const before = store.$client.prepare('select chain from audit').pluck().get();
  bringChainsUpToDate(store);
  expect(store.$client.prepare('select chain from audit').pluck().get()).toBe(before);
});
