import { expect, test } from 'vitest';
import { given } from '../../../test/given';
import { addFile, audit, id, job, simulated, store, withAudit, work } from '../../../test/harness';
import { makeChange } from '../changes/changes';
import { keepExpectation } from '../changes/expectations';
import { setAside } from '../findings/set-aside';
import { perform } from '../jobs/perform';
import { keepProbe } from '../mail/probes';
import { verifiedScript } from './export-view';
import { dropOverride, gateView, overrideGate } from './gate';
import { reportOf } from './report-view';

withAudit();

const SCRIPT = `require ["fileinto"];
# Noise
if header :contains "subject" "raffle" { discard; stop; }
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; stop; }
`;
const letter = (subject: string) =>
  `From x@y.example Thu Jan  1 10:00:00 2026\nFrom: a@b.example\nSubject: ${subject}\n\nx\n\n`;
const gate = () => gateView(store, audit());

async function begin(): Promise<void> {
  await addFile('rules.sieve', SCRIPT);
  await addFile('INBOX.mbox', letter('raffle') + letter('oak') + letter('other'));
  await work();
  await verified();
}

async function verified(): Promise<void> {
  await simulated();
  await perform(store, job(), { kind: 'verify' });
}

test('mail that is lost holds the script back until it is repaired, set aside or overridden with a reason', async () => {
  await begin();
  expect(gate().grave.map(({ kind }) => kind)).toContain('loss');
  expect(() => verifiedScript(store, id)).toThrow(/held back: \d finding/);
  overrideGate(store, id, 'raffles are never wanted');
  expect(verifiedScript(store, id)).toContain('discard');
  expect(reportOf(store, id, false).gate).toContainEqual({
    what: 'Exported all the same',
    state: 'raffles are never wanted',
  });
  dropOverride(store, id);
  expect(() => verifiedScript(store, id)).toThrow(/held back/);
  for (const { key } of gate().grave) setAside(store, id, key, 'meant');
  expect(verifiedScript(store, id)).toContain('discard');
});

test('an override covers nothing that came later: an expectation that is not met, a probe that ends elsewhere', async () => {
  await begin();
  overrideGate(store, id, 'as it is');
  expect(gate().override?.reason).toBe('as it is');
  const tests = {
    kind: 'leaf',
    test: { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap', keys: ['oak'] },
  } as const;
  keepExpectation(store, id, { name: 'Oak', tests, must: { must: 'reach the inbox' } });
  expect(gate()).toMatchObject({ override: null, expectations: [{ broken: 1 }] });
  expect(() => verifiedScript(store, id)).toThrow(/1 expectation not met/);
  keepProbe(store, id, 'stone', Buffer.from('Subject: stone\n\nx\n'), 'Oak');
  expect(gate().probes).toMatchObject([{ isMet: false, line: 'Inbox' }]);
  await simulated();
  expect(() => verifiedScript(store, id)).toThrow(/1 probe/);
});

test('while the rules are not audited, nothing is exported', async () => {
  await begin();
  overrideGate(store, id, 'as it is');
  makeChange(store, id, [{ kind: 'switch', id: given(audit().draft.entries[0]).id, on: false }], '');
  expect(gate()).toMatchObject({ isKnown: false, items: [] });
  expect(() => verifiedScript(store, id)).toThrow(/not verified|audited/);
  await verified();
  expect(verifiedScript(store, id)).toContain('Oak');
});
