import { onlyMarks } from '../../core/audit/destinations';
import { Bitmap } from '../../core/flow/bitmap';
import type { EntryFlow } from '../../core/flow/flow';
import { isCountable, named } from '../../core/repair/rule-faults';
import { type Edit, rewriting } from '../../core/rules/edit';
import type { Rule } from '../../core/rules/rule';
import { canonicalFolder, INBOX } from '../../core/sieve/interpret/fate';
import { type Audit, getAudit } from '../audits/audits';
import { chainAfter } from '../changes/changes';
import type { Store } from '../database/open';
import { messagesByFolder } from '../mail/folder-messages';
import { maybeKnown } from '../mail/knowledge';
import { trafficSize } from '../mail/traffic';
import { flowAtOnce } from './simulation';

/** What rules that are being typed would catch, behind the rules of the draft. */
export interface TypedView {
  /** Stored messages that take part. */
  readonly total: number;
  /** A row for each rule, which needs no name; null for one with other grave faults; null while tests must be evaluated by a job. */
  readonly rows: readonly (TypedCounts | null)[] | null;
  /** The edits that add the rules; a job evaluates their tests. */
  readonly edits: readonly Edit[];
}

export interface TypedCounts {
  /** Messages that match the rule. */
  readonly caught: number;
  /** Of these, those that rules above file, send on, discard or stop. */
  readonly above: number;
  /** Of those, those that rules above stop before. */
  readonly stopped: number;
  /** Of those it acts on, those that are in a folder where the rule files them. */
  readonly there: number;
  /** Of those it acts on, those that are in the inbox. */
  readonly inbox: number;
  /** Conversations of the messages it matches; null while conversations are unknown. */
  readonly conversations: number | null;
}

/** Counts what typed rules would catch, as if all were on; slow tests are not evaluated here. */
export function typedView(store: Store, auditId: string, rules: readonly Rule[]): TypedView {
  const audit = getAudit(store, auditId);
  const { entries } = audit.draft;
  const isSound = rules.map(isCountable);
  const sound = rules.filter((_, at) => isSound[at]).map((rule) => ({ ...named(rule), on: true }));
  const edits = sound.length === 0 ? [] : [rewriting(entries.length, [], sound)];
  const total = trafficSize(store, audit);
  const flow = flowAtOnce(store, audit, chainAfter(audit, edits));
  if (!flow) return { total, rows: null, edits };
  const counts = countsOf(store, audit, flow.entries, entries.length);
  let next = 0;
  return { total, rows: isSound.map((is) => (is ? (counts[next++] ?? null) : null)), edits };
}

/** Counts for the entries from a place on, of which all entries are the rules above. */
function countsOf(store: Store, audit: Audit, entries: readonly EntryFlow[], from: number): TypedCounts[] {
  const folders = messagesByFolder(store, audit);
  const roots = maybeKnown(store, audit, 'conversations');
  const inbox = folders.get(INBOX);
  const taken = new Bitmap(audit.messageCount);
  for (const one of entries.slice(0, from)) if (takes(one)) taken.addEvery(one.fired);
  return entries.slice(from).map((one): TypedCounts => {
    const { entry, held, reached, fired } = one;
    const above = held.and(taken).or(held.without(reached)).count();
    if (takes(one)) taken.addEvery(fired);
    const actions = entry.kind === 'rule' ? entry.actions : [];
    const places = actions.flatMap((action) => (action.action === 'fileinto' ? [canonicalFolder(action.folder)] : []));
    const stored = places.flatMap((place) => folders.get(place) ?? []);
    return {
      caught: held.count(),
      above,
      stopped: held.without(reached).count(),
      there: stored.length === 0 ? 0 : fired.and(stored.reduce((all, one) => all.or(one))).count(),
      inbox: inbox ? fired.and(inbox).count() : 0,
      conversations: roots && distinct(held, roots),
    };
  });
}

/** Whether it does more than to mark messages. */
const takes = ({ entry }: EntryFlow): boolean => entry.on && (entry.kind === 'script' || !onlyMarks(entry));

function distinct(messages: Bitmap, roots: readonly number[]): number {
  const found = new Set<number>();
  for (const number of messages.members()) found.add(roots[number] ?? number);
  return found.size;
}
