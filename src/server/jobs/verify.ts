import { eq } from 'drizzle-orm';
import { textOf } from '../../core/audit/finding';
import { weighCosts } from '../../core/handover/costs';
import { inFolders } from '../../core/handover/folder-names';
import type { Prepared } from '../../core/handover/prepare';
import { resolved } from '../../core/handover/rewriting/extlists';
import { type HandoverRecord, isVerified, Verifier } from '../../core/handover/verify';
import { envelopeOf, readMessage } from '../../core/mail/message';
import { chainFromSieve } from '../../core/rules/from-sieve';
import { inSieve } from '../../core/rules/profile';
import type { Chain } from '../../core/rules/rule';
import { type Audit, getAudit } from '../audits/audits';
import { maybeFlow } from '../chain/simulation';
import { assumedBy, workOutVerdict } from '../changes/verdicts';
import type { Store } from '../database/open';
import { probes, verifications } from '../database/schema';
import { maybeFindings } from '../findings/results';
import { handoverHash, handoverSettings, preparedScript, scriptHash, targetOf } from '../handover/handover';
import { presentNumbers } from '../mail/message-numbers';
import { maybeRaw } from '../mail/raw';
import { evaluateChains } from './chain-jobs';
import type { JobContext } from './job';
import type { Sharer } from './sharer';

const REPORT_EVERY = 100;

/**
 * Reads back the script to be exported and runs it on every stored message (from its raw octets), on the probes and on
 * all example messages; compares it by proof with its rules; and counts the effect of each difference.
 */
export async function verify(store: Store, job: JobContext, sharer: Sharer | null): Promise<string> {
  const audit = getAudit(store, job.auditId);
  // Everything as requested now, whatever is selected meanwhile.
  const prepared = preparedScript(store, audit);
  const { capabilities } = targetOf(handoverSettings(store, audit.id));
  const hash = handoverHash(store, audit);
  const { chain } = inSieve(audit.draft);
  const alone = prepared.costs.map(({ id }): Chain => {
    const place = chain.entries.findIndex((entry) => entry.id === id);
    const said = prepared.chain.entries[place];
    return said ? { ...chain, entries: chain.entries.with(place, said) } : chain;
  });
  await evaluateChains(store, job, [audit.draft, prepared.chain, prepared.exact, ...alone], sharer);
  const flowOf = (chain: Chain) => {
    const flow = maybeFlow(store, audit, chain);
    if (!flow) throw new Error('a chain was not simulated before it was verified');
    return flow;
  };
  // The script is compared with the rules on all stored mail, including sent mail.
  const everything = { ...audit, withSent: true };
  const flow = maybeFlow(store, everything, prepared.chain) ?? flowOf(prepared.chain);
  const verifier = new Verifier(prepared.text, flow.fates, audit.clock, capabilities, prepared.lists, prepared.names);
  let done = 0;
  for (const number of presentNumbers(store, audit)) {
    job.checkpoint();
    if (done++ % REPORT_EVERY === 0) {
      job.report({ phase: 'running the script', done, total: audit.storedCount, unit: 'messages' });
    }
    const raw = maybeRaw(store, audit.id, number);
    if (!raw) throw new Error(`message ${number} is not stored`);
    const message = readMessage(raw);
    verifier.check(number, message, envelopeOf(message, audit.recipient));
  }
  const madeUp = checkMadeUp(store, audit, prepared.chain, verifier, job.checkpoint);
  const report = (done: number, total: number) => {
    job.checkpoint();
    job.report({ phase: 'counting the differences', done, total, unit: 'steps' });
  };
  const weighing = weighCosts(audit.draft, prepared, flowOf, report);
  report(0, 1);
  const exact = workOutVerdict(store, audit, audit.draft, prepared.exact, job.checkpoint);
  const script = workOutVerdict(store, audit, prepared.chain, readBack(prepared), job.checkpoint);
  const record: HandoverRecord = {
    ...verifier.record(),
    ...madeUp,
    ...weighing,
    exactChanged: flowOf(prepared.exact).fates.differsFrom(flowOf(audit.draft).fates).count(),
    exact: exact.verdict,
    script: script.verdict,
    assumes: { exact: assumedBy(exact), script: assumedBy(script) },
  };
  const row = {
    auditId: audit.id,
    chainHash: hash,
    count: audit.messageCount,
    scriptHash: scriptHash(prepared.text),
    record,
    createdAt: Date.now(),
  };
  store
    .insert(verifications)
    .values(row)
    .onConflictDoUpdate({ target: [verifications.auditId, verifications.chainHash], set: row })
    .run();
  return isVerified(record, audit.storedCount)
    ? `${record.sameFate} of ${record.messages} with the same destination`
    : 'the script differs from the rules';
}

/** The rules read back from the script. */
const readBack = ({ text, lists, names }: Prepared): Chain =>
  inFolders(resolved(chainFromSieve(text).chain, lists), names.of);

/** Probes, and example messages of findings. */
function checkMadeUp(
  store: Store,
  audit: Audit,
  said: Chain,
  verifier: Verifier,
  checkpoint: () => void,
): Pick<HandoverRecord, 'madeUp' | 'madeUpSame'> {
  const written = store.select({ raw: probes.raw }).from(probes).where(eq(probes.auditId, audit.id)).all();
  const letters = [
    ...written.map(({ raw }) => {
      const message = readMessage(raw);
      return { message, envelope: envelopeOf(message, audit.recipient) };
    }),
    ...(maybeFindings(store, audit, audit.draft) ?? []).flatMap(({ witness }) =>
      witness
        ? [
            {
              message: readMessage(new TextEncoder().encode(textOf(witness))),
              envelope: { from: witness.from, to: witness.to },
            },
          ]
        : [],
    ),
  ];
  const same = letters.filter(({ message, envelope }) => {
    checkpoint();
    return verifier.treatsAlike(said, message, envelope);
  }).length;
  return { madeUp: letters.length, madeUpSame: same };
}
