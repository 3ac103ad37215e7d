import type { ComparedTest } from '../../rules/comparison';
import type { LeafTest, Rule, TestTree } from '../../rules/rule';
import type { AuditContext } from '../context';
import type { Finding, Repair } from '../finding';
import { type PlacedLeaf, placedLeaves } from '../leaves';
import { rewrite } from '../repairs';
import { CLAIMS, KEY_FAULTS, REPAIRS } from '../wording';

type KeyedTest = Extract<LeafTest, { readonly keys: readonly string[] }>;

interface Fault {
  readonly key: string;
  readonly why: keyof typeof KEY_FAULTS;
  /** The corrected test, with words for what it then does; null if unknown. */
  readonly instead: {
    readonly test: KeyedTest | ComparedTest;
    readonly how: 'contains' | 'pattern' | 'key' | 'header';
  } | null;
}

/**
 * `too-narrow`, told by the rule alone: a key with a wildcard where wildcards stand for themselves, a pattern without a
 * wildcard, a key that no address or domain can be, or a display name in a test of addresses.
 */
export function keyFaults({ chain, each, rules }: AuditContext): Finding[] {
  return each(rules, ({ entry, fired }) =>
    placedLeaves(entry).flatMap((leaf, at): Finding[] => {
      const fault = faultOf(leaf.test);
      if (!fault) return [];
      return [
        {
          key: `too-narrow ${entry.id} ${at}`,
          kind: 'too-narrow',
          rules: [entry.id],
          certainty: 'proved',
          consequence: 'misplaced',
          claim: CLAIMS['too-narrow key'](entry.name, fault.key, KEY_FAULTS[fault.why]),
          messages: [...fired.members()],
          witness: null,
          strength: null,
          repairs: repairOf(chain, entry, leaf, fault),
        },
      ];
    }),
  );
}

function repairOf(chain: AuditContext['chain'], rule: Rule, leaf: PlacedLeaf, { instead }: Fault): Repair[] {
  if (!instead) return [];
  const { test, how } = instead;
  const tree: TestTree = { kind: 'leaf', test };
  return [
    rewrite(
      chain,
      rule,
      leaf.replaced(tree),
      REPAIRS['correct key'](rule.name, 'by' in test ? test.by.keys : test.keys, how),
    ),
  ];
}

function faultOf(test: LeafTest): Fault | null {
  if (test.test === 'compared') return detailFault(test);
  if (test.test !== 'header' && test.test !== 'address' && test.test !== 'envelope') return null;
  return wildcardFault(test) ?? (test.test === 'header' ? null : addressFault(test));
}

/** A star at either end of a key: people write it to mean “anything”. */
const STARRED = /^\*|\*$/;

function wildcardFault(test: KeyedTest): Fault | null {
  const { match, keys } = test;
  const starred = keys.find((key) => STARRED.test(key) && /[^*]/.test(key));
  if (starred !== undefined && match === 'contains') {
    const bare = keys.map((key) => key.replace(/^\*+|\*+$/g, ''));
    return { key: starred, why: 'wildcard', instead: { test: { ...test, keys: bare }, how: 'key' } };
  }
  if (starred !== undefined && match === 'is')
    return { key: starred, why: 'wildcard', instead: { test: { ...test, match: 'matches' }, how: 'pattern' } };
  const plain = match === 'matches' && keys.every((key) => !/[*?]/.test(key)) ? keys[0] : undefined;
  return plain === undefined || plain === ''
    ? null
    : { key: plain, why: 'no wildcard', instead: { test: { ...test, match: 'contains' }, how: 'contains' } };
}

function addressFault(test: Extract<KeyedTest, { test: 'address' | 'envelope' }>): Fault | null {
  const { part, keys } = test;
  const bare = (key: string) => key.replace(/^.*[<]([^<>]*)[>].*$/, '$1');
  if (part === 'domain') {
    const key = keys.find((one) => one.includes('@'));
    if (key === undefined) return null;
    const domains = keys.map((one) => bare(one).replace(/^.*@/, ''));
    return { key, why: 'domain', instead: { test: { ...test, keys: domains }, how: 'key' } };
  }
  if (part === 'localpart') {
    const key = keys.find((one) => /^[^"]*@[^"]*\.[^"]*$/.test(one));
    if (key === undefined) return null;
    return { key, why: 'local part', instead: { test: { ...test, part: 'all' }, how: 'key' } };
  }
  // Blanks are only in quoted local parts, angle brackets in none.
  const key = keys.find((one) => !one.includes('"') && (/[<>]/.test(one) || /\p{L}\s+\p{L}/u.test(one)));
  if (key === undefined) return null;
  if (keys.every((one) => bare(one).includes('@') && !/\s/.test(bare(one))))
    return { key, why: 'display name', instead: { test: { ...test, keys: keys.map(bare) }, how: 'key' } };
  if (test.test === 'envelope') return { key, why: 'display name', instead: null };
  const { part: _, ...rest } = test;
  return { key, why: 'display name', instead: { test: { ...rest, test: 'header', match: 'contains' }, how: 'header' } };
}

/** What follows the separator in a local part, or comes before it (RFC 5233 section 4), contains no @. */
function detailFault(test: ComparedTest): Fault | null {
  const { subject, by } = test;
  if (!('part' in subject) || (subject.part !== 'detail' && subject.part !== 'user')) return null;
  if (by.match !== 'is' && by.match !== 'contains' && by.match !== 'matches') return null;
  const key = by.keys.find((one) => /^[^"]*@[^"]*$/.test(one));
  if (key === undefined) return null;
  const corrected = { ...test, by: { ...by, keys: by.keys.map((one) => one.replace(/@.*$/, '')) } };
  return { key, why: 'detail', instead: { test: corrected, how: 'key' } };
}
