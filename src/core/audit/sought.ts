import type { ChainEntry } from '../rules/rule';
import { groupedBy } from '../text/lookup';
import type { AuditContext } from './context';
import type { Statement } from './finding';
import type { FindingKind } from './kind-words';

/** What an audit looks for that only tells which of some findings are still true. */
export interface Sought {
  readonly kinds: ReadonlySet<FindingKind>;
  /** Whether any of the findings, of whatever kind, is about two rules. */
  readonly isAbout: (a: string, b: string) => boolean;
  /** The context in which a kind looks only at rules that its own findings are about. */
  readonly within: (context: AuditContext, kind: FindingKind) => AuditContext;
}

/** Findings of these kinds hide others (`withoutRepeated`), on whatever rules. */
const HIDING: readonly FindingKind[] = ['contradiction', 'shadowed', 'redundant', 'cut-short', 'runs-on'];

export function soughtFor(findings: readonly Statement[]): Sought {
  const pairs = new Map<string, Set<string>>();
  for (const { rules } of findings) {
    for (const id of rules) {
      const others = pairs.get(id) ?? new Set();
      pairs.set(id, others);
      for (const other of rules) others.add(other);
    }
  }
  const byKind = groupedBy(findings, ({ kind }) => kind);
  return {
    kinds: new Set([...HIDING, ...byKind.keys()]),
    isAbout: (a, b) => pairs.get(a)?.has(b) ?? false,
    within: (context, kind) => {
      if (HIDING.includes(kind)) return context;
      const ids = new Set(byKind.get(kind)?.flatMap(({ rules }) => rules));
      const isOpen = (item: unknown) => !isOfEntry(item) || ids.has(item.entry.id);
      return { ...context, each: (items, visit) => context.each(items.filter(isOpen), visit) };
    },
  };
}

/** Whether what is looked at is one entry of the chain. */
const isOfEntry = (item: unknown): item is { readonly entry: ChainEntry } =>
  typeof item === 'object' && item !== null && 'entry' in item;
