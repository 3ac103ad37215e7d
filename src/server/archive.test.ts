import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { archiveOf, archiveSchema, auditFromArchive } from './archive';
import { getAudit, listAudits } from './audits';
import { makeChange, undo } from './changes';
import { keepExpectation } from './expectations';
import { handoverSettings, keepHandoverSettings } from './handing-over';
import { audit, fill, id, store, withAudit } from './harness';
import { keepProbe } from './probes';
import { keepVersion } from './versions';

withAudit();

async function filled(): Promise<void> {
  await fill();
  makeChange(
    store,
    id,
    [{ kind: 'list', id: 'l', from: null, to: { id: 'l', name: 'Team', keys: ['a@x.example'] } }],
    '',
  );
  makeChange(store, id, [{ kind: 'switch', id: 'r1', on: false }], 'why');
  makeChange(store, id, [{ kind: 'switch', id: 'r2', on: false }], '');
  undo(store, id);
  keepVersion(store, id, 'one');
  keepExpectation(store, id, { name: 'all', tests: { kind: 'all', children: [] }, must: { must: 'not be dropped' } });
  keepProbe(store, id, 'probe', Buffer.from([0x46, 0xff, 0x0d, 0x0a]), null);
  keepHandoverSettings(store, id, { ...handoverSettings(store, id), target: 'common' });
}

describe('an archive', () => {
  test('is read back as the same audit, but for its mail', async () => {
    await filled();
    const archive = archiveOf(store, id);
    const made = auditFromArchive(store, JSON.stringify(archive));
    expect(archiveOf(store, made)).toEqual(archive);
    const { draft, messageCount } = getAudit(store, made);
    expect([draft, messageCount]).toEqual([audit().draft, 0]);
  });

  test.each([
    ['cut off', (text: string) => text.slice(0, -20), 'not JSON, or it is cut off'],
    ['of another kind', () => '{"format":"other"}', 'no archive of an audit'],
    ['of another version', (text: string) => text.replace('"version":1', '"version":2'), 'of version 2'],
    [
      'with a rule that is none',
      (text: string) => text.replace('"ending":"stop"', '"ending":"perhaps"'),
      'damaged at baseline.entries.0',
    ],
    [
      'with changes that do not fit',
      (text: string) => text.replace('"id":"r1","on":false', '"id":"r9","on":false'),
      'do not fit its rules',
    ],
  ])('%s is told, and nothing is made of it', async (_what, damage, told) => {
    await filled();
    const text = damage(JSON.stringify(archiveOf(store, id)));
    expect(() => auditFromArchive(store, text)).toThrow(told);
    expect(listAudits(store)).toHaveLength(1);
  });

  test('its published schema is the one that is read here', () => {
    const published = readFileSync(join(import.meta.dirname, '../../docs/audit.schema.json'), 'utf8');
    expect(JSON.parse(published)).toEqual(JSON.parse(JSON.stringify(archiveSchema())));
  });
});
