import type { Statement } from './finding';
import type { FindingKind } from './kind-words';

/** What an audit looks for that only tells which of some findings are still true. */
export interface Sought {
  readonly kinds: ReadonlySet<FindingKind>;
  /** Whether any of them, of whatever kind, is about two rules. */
  readonly isAbout: (a: string, b: string) => boolean;
}

/** Findings of these kinds hide others (`withoutRepeated`). */
const HIDING: readonly FindingKind[] = ['contradiction', 'shadowed', 'redundant', 'cut-short', 'runs-on'];

export function soughtFor(findings: readonly Statement[]): Sought {
  const kinds = new Set([...HIDING, ...findings.map(({ kind }) => kind)]);
  const pairs = new Map<string, Set<string>>();
  for (const { rules } of findings) {
    for (const id of rules) {
      const others = pairs.get(id) ?? new Set();
      pairs.set(id, others);
      for (const other of rules) others.add(other);
    }
  }
  return { kinds, isAbout: (a, b) => pairs.get(a)?.has(b) ?? false };
}
