import { switchedOff, whyAbsent } from '../../core/flow/inbox';
import type { Edit } from '../../core/rules/edit';
import { INBOX } from '../../core/sieve/interpret/fate';
import { getAudit, Refusal } from '../audits/audits';
import { getFlow, maybeAtomBitmaps, maybeFlow } from '../chain/simulation';
import type { Store } from '../database/open';

/** Why a message does not reach the inbox, and what would bring it there. */
export interface AbsenceView {
  readonly arrives: boolean;
  /** The smallest sets of rules that, switched off, bring it to the inbox. */
  readonly sets: readonly {
    readonly rules: readonly { readonly id: string; readonly name: string; readonly place: number }[];
    readonly edits: readonly Edit[];
    /** Stored messages whose fate would change, this one included. */
    readonly changed: number;
    /** Of these, those that would reach the inbox. */
    readonly arriving: number;
  }[];
  /** The number of such sets; there may be more than are shown. */
  readonly found: number;
  /** Whether the search was complete. */
  readonly complete: boolean;
  readonly total: number;
}

/** Sets whose effect on all mail is computed. */
const SHOWN_SETS = 6;

export function absenceView(store: Store, auditId: string, number: number): AbsenceView {
  const audit = getAudit(store, auditId);
  const { draft } = audit;
  if (number >= audit.messageCount) throw new Refusal('There is no such message.', 404);
  const atoms = maybeAtomBitmaps(store, audit, draft);
  const now = getFlow(store, audit);
  if (!atoms) throw new Error('a chain was simulated without its tests');
  const { total } = now;
  if (!now.fates.traffic.has(number)) throw new Refusal('You sent this message, so no rule was run on it.', 409);
  const absence = whyAbsent(draft, atoms, number);
  if (!absence) return { arrives: true, sets: [], found: 0, complete: true, total };
  const sets = absence.sets.slice(0, SHOWN_SETS).map((ids) => {
    const then = maybeFlow(store, audit, switchedOff(draft, new Set(ids)));
    if (!then) throw new Error('a rule switched off needs no test that was not evaluated');
    const changed = then.fates.differsFrom(now.fates);
    const [before, after] = [now, then].map(({ fates }) => fates.folders.get(INBOX)?.messages);
    const arriving = after && (before ? after.without(before) : after);
    return {
      rules: draft.entries.flatMap(({ id, name }, place) => (ids.includes(id) ? [{ id, name, place }] : [])),
      edits: ids.map((id): Edit => ({ kind: 'switch', id, on: false })),
      changed: changed.count(),
      arriving: arriving?.and(changed).count() ?? 0,
    };
  });
  return { arrives: false, sets, found: absence.sets.length, complete: absence.complete, total };
}
