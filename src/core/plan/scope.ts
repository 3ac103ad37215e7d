import { addressedTo, inSubject, isFrom } from '../audit/senders';
import type { StoredMessage } from '../audit/stored';
import { type Chain, conditionOf, looksAtFlags, type TestTree } from '../rules/rule';
import { featuresOf } from './features';

/** Which messages an answer speaks for. */
export interface Scope {
  readonly by: 'message' | 'list' | 'sender' | 'domain' | 'recipient' | 'subject' | 'both' | 'rule';
  readonly tests: TestTree;
}

/** Subjects have many phrases; the first ones are offered. */
const MOST_PHRASES = 2;

/**
 * The scopes that an answer about a message may have: the message alone, its sender, its list, its subject, the mail of
 * the rules that act on it. `acting` are the ids of these rules, `own` the user's own addresses in lower case.
 */
export function scopesFor(
  message: StoredMessage,
  messageId: string | null,
  chain: Chain,
  acting: ReadonlySet<string>,
  own: ReadonlySet<string>,
): Scope[] {
  const counts = new Map<string, number>();
  const alike = featuresOf(message, own).flatMap(({ by, tests }): Scope[] => {
    if (by === 'subdomains' || by === 'test') return [];
    const count = (counts.get(by) ?? 0) + 1;
    counts.set(by, count);
    return (by === 'subject' || by === 'both') && count > MOST_PHRASES ? [] : [{ by, tests }];
  });
  const ofRules = chain.entries.flatMap((entry): Scope[] => {
    if (entry.kind === 'script' || !acting.has(entry.id)) return [];
    const tests = conditionOf(entry);
    return looksAtFlags(tests) ? [] : [{ by: 'rule', tests }];
  });
  return [{ by: 'message', tests: onlyThis(message, messageId) }, ...alike, ...ofRules];
}

/** Message-ID names one message (RFC 5322 section 3.6.4); without it, sender, recipients and subject do nearly so. */
function onlyThis({ sender, recipients, subject }: StoredMessage, messageId: string | null): TestTree {
  if (messageId !== null) {
    const id = { test: 'header', headers: ['message-id'], match: 'contains', comparator: 'i;octet' } as const;
    return { kind: 'leaf', test: { ...id, keys: [messageId] } };
  }
  const [to] = recipients;
  const addressed = to === undefined ? [] : [addressedTo(['to', 'cc'], [to])];
  return { kind: 'all', children: [isFrom([sender]), ...addressed, inSubject([subject])] };
}
