import type { Finding } from '../audit/finding';
import { withoutRule } from '../audit/repairs';
import { CLAIMS } from '../audit/wording';
import type { Chain } from '../rules/rule';
import type { Cost } from './rewrite';

/** What is known of a cost beside its words. */
export interface Known {
  /** Stored messages that end otherwise by it, or that the rule acts on where that was not weighed. */
  readonly messages: readonly number[];
  readonly weighed: boolean;
  /** It is proved to cost nothing. */
  readonly none: boolean;
}

export const notPortableKey = (id: string): string => `not-portable ${id}`;

/** `not-portable`: an entry cannot be expressed, or only at a cost, for the chosen target. */
export function notPortable(chain: Chain, costs: readonly Cost[], knownOf: (id: string) => Known): Finding[] {
  return [...new Set(costs.map(({ id }) => id))].flatMap((id): Finding[] => {
    const entry = chain.entries.find((candidate) => candidate.id === id);
    const own = costs.filter((cost) => cost.id === id);
    const { messages, weighed, none } = knownOf(id);
    if (!entry || none) return [];
    const unsayable = own.find(({ kind }) => kind === 'unsayable');
    const stated = own.map(({ words }) => words);
    return [
      {
        key: notPortableKey(id),
        kind: 'not-portable',
        rules: [id],
        certainty: weighed && messages.length > 0 ? 'shown' : 'observed',
        consequence: 'misplaced',
        claim: CLAIMS['not-portable'](entry.name, unsayable !== undefined, stated),
        messages,
        witness: null,
        strength: null,
        repairs: withoutRule(chain, entry),
      },
    ];
  });
}
