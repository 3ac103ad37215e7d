import { editingText, maybeRunOf } from '../../core/rules/rewrite';
import type { Chain } from '../../core/rules/rule';
import { getAudit } from '../audits/audits';
import type { Store } from '../database/open';

export interface ScriptView {
  readonly chain: Chain;
  /** The entries being edited; null for all. */
  readonly ids: readonly string[] | null;
  /** A short description of what is edited. */
  readonly title: string;
  readonly text: string;
}

/** The draft, or one rule with those linked to it, as text to edit; null if there is no such rule. */
export function maybeScriptView(store: Store, auditId: string, rule: string | null): ScriptView | null {
  const { draft } = getAudit(store, auditId);
  const ids = rule === null ? null : maybeRunOf(draft, rule);
  if (rule !== null && !ids) return null;
  const name = draft.entries.find((entry) => entry.id === ids?.[0])?.name;
  const linked = ids && ids.length > 1 ? ` and ${ids.length - 1} linked to it` : '';
  const title = ids ? `“${name}”${linked}` : 'The whole chain';
  return { chain: draft, ids, title, text: editingText(draft, ids) };
}
