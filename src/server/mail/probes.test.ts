import { expect, test } from 'vitest';
import { audit, fill, id, simulated, store, withAudit } from '../../../test/harness';
import { isConfirmed } from '../../core/audit/grouping';
import { findingView } from '../findings/finding-view';
import { maybeFindings } from '../findings/results';
import { dropProbe, keepProbe } from './probes';

withAudit();

const findings = () => maybeFindings(store, audit(), audit().draft);
/** Mail about the weir and oak is in no stored message. */
const conflict = () => findings()?.find(({ kind, rules }) => kind === 'order-conflict' && rules.join(' ') === 'r1 r3');
const confirmed = () => {
  const found = conflict();
  return found && isConfirmed(found);
};

test('a kept probe confirms the findings that it shows, as long as it is kept', async () => {
  await fill();
  expect(confirmed()).toBe(false);
  const probe = keepProbe(store, id, 'both', Buffer.from('From: a@x.example\nSubject: Oak for the weir\n\n\n'), null);
  expect(findings()).toBeNull();
  await simulated();
  expect(confirmed()).toBe(true);
  const view = findingView(store, id, conflict()?.key ?? '');
  expect(view?.isKept).toBe(true);
  expect(view?.witness?.text).toContain('Oak for the weir');
  dropProbe(store, id, probe);
  await simulated();
  expect(confirmed()).toBe(false);
});

test('a probe that is no UTF-8, or long, confirms nothing, and stops nothing', async () => {
  await fill();
  keepProbe(store, id, 'both', Buffer.from('From: a@x.example\nSubject: Oak for the weir \xe9\n\n\n', 'latin1'), null);
  keepProbe(store, id, 'long', Buffer.from(`Subject: Oak for the weir\n\n${'words\n'.repeat(10_000)}`), null);
  await simulated();
  expect(confirmed()).toBe(false);
});
