import { and, eq, isNotNull } from 'drizzle-orm';
import { isConfirmed } from '../../core/audit/grouping';
import { Bitmap } from '../../core/flow/bitmap';
import { expectationWords } from '../../core/repair/expectations';
import { type Audit, getAudit } from '../audits/audits';
import { chainHash } from '../cache/keys';
import { destinationsOf, fateView } from '../chain/destinations';
import { maybeFlow } from '../chain/simulation';
import { standings } from '../changes/expectations';
import type { Store } from '../database/open';
import { sources } from '../database/schema';
import { type FindingLine, lineOf } from '../findings/list-view';
import { maybeResult } from '../findings/results';
import { type Look, listLooks } from './looks';
import { type ScriptInUse, type ScriptStanding, standingOf } from './scripts';
import { listTrusted, type MailServer, maybeMailServer, type TrustedCertificate } from './servers';

/** The mailbox that an audit remembers, and what the last look at it has shown. */
export interface MailboxView {
  /** Null if the audit remembers none. */
  readonly server: MailServer | null;
  readonly trusted: readonly TrustedCertificate[];
  /** Newest first. */
  readonly looks: readonly LookLine[];
  /** The last finished look; null if there is none. */
  readonly last: LookView | null;
  /** Rules of the audit. */
  readonly rules: number;
  readonly isFetching: boolean;
}

/** One look, as listed. */
export interface LookLine extends Pick<Look, 'id' | 'startedAt' | 'finishedAt' | 'added' | 'flagged' | 'gone'> {
  /** The source of its messages; null if it brought none or they were removed. */
  readonly sourceId: string | null;
}

/** What a look has shown. */
export interface LookView extends LookLine {
  readonly trouble: string;
  readonly script: (ScriptInUse & { readonly standing: ScriptStanding | null }) | null;
  /** Where the chain takes the new messages, most first; null while that is not known. */
  readonly destinations: readonly { readonly key: string; readonly label: string; readonly messages: number }[] | null;
  /** Expectations that new messages do not meet; null while that is not known. */
  readonly broken: readonly BrokenBySome[] | null;
  /** Confirmed findings that were not there before; null while that is not known, or if another chain was audited before. */
  readonly findings: readonly FindingLine[] | null;
}

interface BrokenBySome {
  readonly id: number;
  readonly words: string;
  /** New messages that do not meet it. */
  readonly messages: number;
}

const SHOWN_LOOKS = 20;

export function mailboxView(store: Store, auditId: string): MailboxView {
  const audit = getAudit(store, auditId);
  const server = maybeMailServer(store, auditId);
  const looks = listLooks(store, auditId);
  const ranges = rangesOf(store, auditId);
  const lines = looks.slice(0, SHOWN_LOOKS).map((look) => lineOfLook(look, ranges));
  const last = looks.find(({ finishedAt }) => finishedAt !== null);
  return {
    server,
    trusted: listTrusted(store, auditId),
    looks: lines,
    last: last ? lookView(store, audit, server, last, ranges) : null,
    rules: audit.draft.entries.length,
    isFetching: looks.some(({ finishedAt }) => finishedAt === null),
  };
}

/** The numbers of the messages of each source that was fetched and not removed. */
type Ranges = ReadonlyMap<string, { readonly from: number; readonly to: number }>;

function rangesOf(store: Store, auditId: string): Ranges {
  const rows = store
    .select()
    .from(sources)
    .where(and(eq(sources.auditId, auditId), isNotNull(sources.mailbox), eq(sources.state, 'ready')))
    .all();
  return new Map(
    rows.map(({ id, firstMessage, messages }) => [id, { from: firstMessage, to: firstMessage + messages }]),
  );
}

function lineOfLook({ id, startedAt, finishedAt, added, flagged, gone, sourceId }: Look, ranges: Ranges): LookLine {
  const isThere = sourceId !== null && ranges.has(sourceId);
  return { id, startedAt, finishedAt, added, flagged, gone, sourceId: isThere ? sourceId : null };
}

function lookView(store: Store, audit: Audit, server: MailServer | null, look: Look, ranges: Ranges): LookView {
  const { script, trouble, before, sourceId } = look;
  const range = ranges.get(sourceId ?? '') ?? { from: 0, to: 0 };
  const fresh = new Bitmap(audit.messageCount);
  for (let number = range.from; number < range.to; number++) fresh.add(number);
  const standing = script?.found === 'script' && server ? standingOf(store, audit.id, server.host, script.hash) : null;
  return {
    ...lineOfLook(look, ranges),
    trouble,
    script: script && { ...script, standing },
    destinations: arrivedAt(store, audit, fresh),
    broken: brokenBy(store, audit, fresh),
    findings: newFindings(store, audit, before),
  };
}

function arrivedAt(store: Store, audit: Audit, fresh: Bitmap): LookView['destinations'] {
  const flow = maybeFlow(store, audit, audit.draft);
  if (!flow) return null;
  const counts = new Map<string, number>();
  for (const number of fresh.and(flow.fates.traffic).members()) {
    for (const { key } of fateView(flow.fates.fateOf(number)).places) counts.set(key, (counts.get(key) ?? 0) + 1);
  }
  return destinationsOf(audit.draft, flow)
    .flatMap(({ key, label }) => {
      const messages = counts.get(key);
      return messages ? [{ key, label, messages }] : [];
    })
    .sort((a, b) => b.messages - a.messages);
}

function brokenBy(store: Store, audit: Audit, fresh: Bitmap): BrokenBySome[] | null {
  const states = standings(store, audit, audit.draft, maybeFlow(store, audit, audit.draft));
  if (states.some(({ stored }) => stored === null)) return null;
  return states.flatMap(({ expectation, stored }) => {
    const messages = stored?.broken.and(fresh).count() ?? 0;
    return messages > 0 ? [{ id: expectation.id, words: expectationWords(expectation), messages }] : [];
  });
}

function newFindings(store: Store, audit: Audit, before: Look['before']): FindingLine[] | null {
  if (before?.chain !== chainHash(audit.draft)) return null;
  const known = new Set(before.findings);
  const findings = maybeResult(store, audit, audit.draft)?.findings;
  return findings?.filter((finding) => isConfirmed(finding) && !known.has(finding.key)).map(lineOf) ?? null;
}
