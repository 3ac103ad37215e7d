import { createHash } from 'node:crypto';
import { Verifier } from '../../core/handover/verify';
import { envelopeOf, readMessage } from '../../core/mail/message';
import { sieveFromChain } from '../../core/rules/to-sieve';
import { chainHash, getAudit } from '../audits';
import type { Store } from '../database/open';
import { verifications } from '../database/schema';
import { maybeRaw } from '../raw';
import { maybeFlow } from '../simulation';
import type { JobContext } from './job';

const REPORT_EVERY = 100;

/** Reads the draft's script back and runs it on every stored message, from its raw octets. */
export function verify(store: Store, job: JobContext): string {
  const audit = getAudit(store, job.auditId);
  const flow = maybeFlow(store, audit, audit.draft);
  if (!flow) throw new Error('the chain was not simulated before it was verified');
  const { text } = sieveFromChain(audit.draft);
  const verifier = new Verifier(text, flow.fates, audit.now);
  for (let number = 0; number < audit.messageCount; number++) {
    job.checkpoint();
    if (number % REPORT_EVERY === 0) {
      job.report({ phase: 'running the script', done: number, total: audit.messageCount, unit: 'messages' });
    }
    const raw = maybeRaw(store, audit.id, number);
    if (!raw) throw new Error(`message ${number} is not stored`);
    const message = readMessage(raw);
    verifier.check(number, message, envelopeOf(message, null));
  }
  const record = verifier.record();
  const row = {
    auditId: audit.id,
    chainHash: chainHash(audit.draft),
    count: audit.messageCount,
    scriptHash: createHash('sha256').update(text).digest('hex'),
    record: JSON.stringify(record),
    createdAt: Date.now(),
  };
  store
    .insert(verifications)
    .values(row)
    .onConflictDoUpdate({ target: [verifications.auditId, verifications.chainHash], set: row })
    .run();
  return `${record.sameFate} of ${record.messages} with the same fate`;
}
