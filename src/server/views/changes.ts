import type { Flow } from '../../core/flow/flow';
import type { Edit } from '../../core/rules/edit';
import { type Audit, getAudit } from '../audits';
import { history, previewEdits } from '../changes';
import type { Store } from '../database/open';
import { maybeFlow } from '../simulation';
import { fateLine, fateView } from './destinations';
import { type MessageRow, messageRows, newest } from './mail';

/** Where messages end before and after, for those that end elsewhere. */
export interface Comparison {
  readonly changed: number;
  readonly total: number;
  /** From where to where, the largest first. */
  readonly moves: readonly { readonly from: string; readonly to: string; readonly count: number }[];
  /** The newest of the changed messages, at most `SHOWN_CHANGED` of them. */
  readonly rows: readonly (MessageRow & { readonly before: string; readonly after: string })[];
}

export interface ChangesView {
  readonly comparison: Comparison | null;
  readonly history: readonly ChangeLine[];
}

export interface ChangeLine {
  readonly id: number;
  readonly words: string;
  readonly why: string;
  readonly changedMessages: number;
  readonly undone: boolean;
  readonly createdAt: number;
}

const SHOWN_CHANGED = 200;

export function changesView(store: Store, auditId: string): ChangesView {
  const audit = getAudit(store, auditId);
  const [before, after] = [maybeFlow(store, audit, audit.baseline), maybeFlow(store, audit, audit.draft)];
  return {
    comparison: before && after && compareFlows(store, audit, before, after),
    history: history(store, auditId).map(({ id, words, why, changedMessages, undone, createdAt }) => {
      return { id, words, why, changedMessages, undone, createdAt };
    }),
  };
}

/** The effect of edits that are not made yet, told like a change that is. */
export function previewView(
  store: Store,
  auditId: string,
  edits: readonly Edit[],
): { words: string; comparison: Comparison | null } {
  const audit = getAudit(store, auditId);
  const { words, after } = previewEdits(store, audit, edits);
  const [now, then] = [maybeFlow(store, audit, audit.draft), maybeFlow(store, audit, after)];
  return { words, comparison: now && then && compareFlows(store, audit, now, then) };
}

function compareFlows(store: Store, audit: Audit, before: Flow, after: Flow): Comparison {
  const changed = after.fates.differsFrom(before.fates);
  const lineAt = (flow: Flow, number: number) => fateLine(fateView(flow.fates.fateOf(number)));
  const moves = new Map<string, { from: string; to: string; count: number }>();
  const numbers = [...changed.members()];
  for (const number of numbers) {
    const [from, to] = [lineAt(before, number), lineAt(after, number)];
    const key = JSON.stringify([from, to]);
    const move = moves.get(key) ?? { from, to, count: 0 };
    move.count++;
    moves.set(key, move);
  }
  const shown = newest(store, audit, numbers, SHOWN_CHANGED);
  return {
    changed: numbers.length,
    total: audit.messageCount,
    moves: [...moves.values()].sort((a, b) => b.count - a.count),
    rows: messageRows(store, audit, after, shown).map((row) => ({
      ...row,
      before: lineAt(before, row.number),
      after: lineAt(after, row.number),
    })),
  };
}
