import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeAll, describe, expect, test } from 'vitest';
import { z } from 'zod';
import { auditChain } from '../src/core/audit/catalogue';
import type { Finding, Repair } from '../src/core/audit/finding';
import { AuditMemory } from '../src/core/audit/memory';
import { MailGatherer, type StoredMail } from '../src/core/audit/stored';
import { atomKey, evaluateAtoms } from '../src/core/flow/atoms';
import type { Bitmap } from '../src/core/flow/bitmap';
import { MemoryColumns } from '../src/core/flow/columns';
import { type Flow, runFlow } from '../src/core/flow/flow';
import { atomsOf } from '../src/core/flow/program';
import { envelopeOf, readMessage } from '../src/core/mail/message';
import { foresee, type Tried, tried } from '../src/core/repair/foresight';
import { applyEdits } from '../src/core/rules/edit';
import { chainFromSieve } from '../src/core/rules/from-sieve';
import type { Chain } from '../src/core/rules/rule';
import { demoMail } from './mail';
import { ME, OWN } from './people';

const here = (name: string) => join(import.meta.dirname, name);
const planted = z
  .object({ planted: z.array(z.object({ kind: z.string(), rules: z.array(z.string()) })) })
  .parse(JSON.parse(readFileSync(here('planted.json'), 'utf8'))).planted;

const { chain } = chainFromSieve(readFileSync(here('rules.sieve'), 'utf8'));
const names = new Map(chain.entries.map((entry) => [entry.id, entry.name]));
const NOW = Date.UTC(2026, 10, 1);
const memory = new AuditMemory();
const columns = new MemoryColumns();
const atoms = new Map<string, Bitmap>();
let mail: StoredMail;
let before: Audited;

interface Audited {
  readonly flow: Flow;
  readonly findings: readonly Finding[];
}

/** Audits a chain over the demo's mail; tests that were evaluated before are not evaluated again. */
function audited(audit: Chain): Audited {
  const missing = atomsOf(audit).filter((atom) => !atoms.has(atomKey(atom)));
  for (const [key, bitmap] of evaluateAtoms(missing, columns)) atoms.set(key, bitmap);
  const flow = runFlow(audit, atoms, columns.count);
  const own = new Map(atomsOf(audit).map((atom) => [atomKey(atom), atoms.get(atomKey(atom)) as Bitmap]));
  return {
    flow,
    findings: auditChain({ chain: audit, flow, atoms: own, mail }, { clock: { fixed: null, otherwise: NOW }, memory })
      .findings,
  };
}

function afterRepair(finding: Finding, { edits }: Repair): Tried {
  const applied = applyEdits(chain, edits);
  if (!applied.ok) throw new Error(applied.reason);
  const after = audited(applied.chain);
  const changed = after.flow.fates.differsFrom(before.flow.fates);
  return tried(finding, after.findings, foresee(before.findings, after.findings, changed));
}

beforeAll(() => {
  const gatherer = new MailGatherer();
  for (const { raw, folder } of demoMail()) {
    const message = readMessage(raw);
    gatherer.add({ message, folder, flags: [] });
    columns.add(message, envelopeOf(message, ME));
  }
  mail = gatherer.mail(OWN);
  before = audited(chain);
}, 120_000);

describe('repairs of what is planted in the demo', () => {
  test.each(planted)('$kind $rules: one ends it and brings nothing worse', { timeout: 60_000 }, ({ kind, rules }) => {
    const isIt = (finding: Finding) =>
      finding.kind === kind && finding.rules.map((id) => names.get(id)).join() === rules.join();
    const finding = before.findings.find(isIt) as Finding;
    const told: string[] = [];
    const good = finding.repairs.find((repair) => {
      const { ends, worse } = afterRepair(finding, repair);
      told.push(
        `${repair.title}: ${ends ? 'ends it' : 'does not end it'}; ${worse.map(({ claim }) => claim).join(' ')}`,
      );
      return ends && worse.length === 0;
    });
    expect(good, told.join('\n')).toBeDefined();
  });
});
