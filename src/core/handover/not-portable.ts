import type { Finding } from '../audit/finding';
import { withoutRule } from '../audit/repairs';
import { CLAIMS } from '../audit/wording';
import type { Chain } from '../rules/rule';
import type { Cost } from './rewrite';

/** What is known about a difference besides its words. */
export interface Known {
  /** Stored messages whose fate differs; or, if not counted, those the rule acts on. */
  readonly messages: readonly number[];
  readonly weighed: boolean;
  /** Proved to have no effect. */
  readonly none: boolean;
}

export const notPortableKey = (id: string): string => `not-portable ${id}`;

/** `not-portable`: the target cannot express an entry, or only with a difference. */
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
