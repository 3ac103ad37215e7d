import { elementAt } from '../text/lookup';
/** The identifiers of a message. */
export interface Ties {
  readonly messageId: string | null;
  /** Identifiers from In-Reply-To and References (RFC 5322 section 3.6.4). */
  readonly references: readonly string[];
}

/**
 * Groups messages into conversations: those linked by identifiers, directly or through others, even if a referenced
 * message is missing. Returns for each message the number of the first message of its conversation. `checkpoint` is
 * called for each message, and may throw to cancel.
 */
export function conversationsOf(messages: readonly Ties[], checkpoint: () => void = () => {}): Int32Array {
  const parents = Int32Array.from(messages, (_, number) => number);
  const rootOf = (number: number): number => {
    let root = number;
    while (parents[root] !== root) root = elementAt(parents, root);
    for (let at = number; at !== root; ) {
      const next = elementAt(parents, at);
      parents[at] = root;
      at = next;
    }
    return root;
  };
  const known = new Map<string, number>();
  messages.forEach(({ messageId, references }, number) => {
    checkpoint();
    for (const id of messageId === null ? references : [messageId, ...references]) {
      const other = known.get(id);
      if (other === undefined) {
        known.set(id, number);
        continue;
      }
      const [a, b] = [rootOf(number), rootOf(other)];
      parents[Math.max(a, b)] = Math.min(a, b);
    }
  });
  for (let number = 0; number < parents.length; number++) parents[number] = rootOf(number);
  return parents;
}

/** The identifiers in a field, without their angle brackets. */
export function identifiersIn(value: string): string[] {
  return [...value.matchAll(/<([^<>\s]+)>/g)].map(([, id = '']) => id);
}
