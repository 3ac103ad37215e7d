import { distance } from 'fastest-levenshtein';
import type { ComparedTest } from '../../rules/comparison';
import type { LeafTest } from '../../rules/rule';
import type { AuditContext } from '../context';
import type { Finding } from '../finding';
import { placedLeaves } from '../leaves';
import { rewrite } from '../repairs';
import { CLAIMS, KEY_FAULTS, REPAIRS } from '../wording';

/** What is wrong with one test, and the test that was probably meant; null if unknown. */
interface Fault {
  readonly certainty: 'proved' | 'observed';
  readonly claim: (rule: string) => string;
  readonly instead: { readonly test: LeafTest; readonly title: (rule: string) => string } | null;
}

/**
 * `too-narrow`, told by single tests: a key with a wildcard where wildcards stand for themselves, a pattern without a
 * wildcard, a key that no address, domain or detail can be, a display name in a test of addresses; or a field that no
 * stored message has and whose name is nearly that of one which some have.
 */
export function testFaults({ chain, each, rules, mail }: AuditContext): Finding[] {
  return each(rules, ({ entry, fired }) =>
    placedLeaves(entry).flatMap(({ test, replaced }, at): Finding[] => {
      const fault = keyFault(test) ?? fieldFault(test, mail.mail.fieldNames);
      if (!fault) return [];
      const { certainty, claim, instead } = fault;
      const corrected = instead && replaced({ kind: 'leaf', test: instead.test });
      return [
        {
          key: `too-narrow ${entry.id} ${at}`,
          kind: 'too-narrow',
          rules: [entry.id],
          certainty,
          consequence: 'misplaced',
          claim: claim(entry.name),
          messages: [...fired.members()],
          witness: null,
          strength: null,
          repairs: corrected ? [rewrite(chain, entry, corrected, instead.title(entry.name))] : [],
        },
      ];
    }),
  );
}

/** Fields of RFC 5322 section 3.6, RFC 2369, RFC 2919 and RFC 3834: no misspellings of each other. */
const STANDARD =
  /^((resent-)?(date|from|sender|reply-to|to|cc|bcc|message-id)|in-reply-to|references|subject|comments|keywords|list-(id|help|subscribe|unsubscribe|post|owner|archive)|precedence|auto-submitted|return-path|received)$/;

/** Longer names may differ by two letters. */
const LONG = 12;

function fieldFault(test: LeafTest, known: ReadonlySet<string>): Fault | null {
  if (!('headers' in test)) return null;
  for (const name of test.headers) {
    const near = nearestTo(name.toLowerCase(), known);
    if (near === null) continue;
    return {
      certainty: 'observed',
      claim: (rule) => CLAIMS['unknown field'](rule, name, near),
      instead: {
        test: { ...test, headers: test.headers.map((one) => (one === name ? near : one)) },
        title: (rule) => REPAIRS['test field'](rule, near),
      },
    };
  }
  return null;
}

function nearestTo(name: string, known: ReadonlySet<string>): string | null {
  if (known.has(name) || STANDARD.test(name)) return null;
  const most = name.length >= LONG ? 2 : 1;
  const near = [...known].filter((one) => Math.abs(one.length - name.length) <= most && distance(one, name) <= most);
  return near.sort((a, b) => distance(a, name) - distance(b, name))[0] ?? null;
}

type KeyedTest = Extract<LeafTest, { readonly keys: readonly string[] }>;

interface KeyFault<Test> {
  readonly key: string;
  readonly why: keyof typeof KEY_FAULTS;
  /** The corrected test, with words for what it then does; null if unknown. */
  readonly instead: { readonly test: Test; readonly how: 'contains' | 'pattern' | 'key' | 'header' } | null;
}

function keyFault(test: LeafTest): Fault | null {
  const fault = test.test === 'compared' ? comparedFault(test) : plainFault(test);
  if (!fault) return null;
  const { key, why, instead } = fault;
  return {
    certainty: 'proved',
    claim: (rule) => CLAIMS['too-narrow key'](rule, key, KEY_FAULTS[why]),
    instead: instead && {
      test: instead.test,
      title: (rule) => {
        const keys = 'by' in instead.test ? instead.test.by.keys : instead.test.keys;
        return REPAIRS['correct key'](rule, keys, instead.how);
      },
    },
  };
}

function plainFault(test: LeafTest): KeyFault<KeyedTest> | null {
  if (test.test !== 'header' && test.test !== 'address' && test.test !== 'envelope') return null;
  return wildcardFault<KeyedTest>(test) ?? (test.test === 'header' ? null : addressFault(test));
}

function comparedFault(test: ComparedTest): KeyFault<ComparedTest> | null {
  const { subject, by } = test;
  if (by.match !== 'is' && by.match !== 'contains' && by.match !== 'matches') return null;
  const fault = wildcardFault<typeof by>(by) ?? ('part' in subject ? detailFault(subject.part, by) : null);
  return (
    fault && { ...fault, instead: fault.instead && { ...fault.instead, test: { ...test, by: fault.instead.test } } }
  );
}

/** A star at either end of a key: people write it to mean “anything”. */
const STARRED = /^\*|\*$/;

function wildcardFault<Test extends { readonly match: string; readonly keys: readonly string[] }>(
  test: Test,
): KeyFault<Test> | null {
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

function addressFault(test: Extract<KeyedTest, { test: 'address' | 'envelope' }>): KeyFault<KeyedTest> | null {
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
function detailFault<By extends { readonly keys: readonly string[] }>(part: string, by: By): KeyFault<By> | null {
  const key = part === 'detail' || part === 'user' ? by.keys.find((one) => /^[^"]*@[^"]*$/.test(one)) : undefined;
  if (key === undefined) return null;
  const keys = by.keys.map((one) => one.replace(/@.*$/, ''));
  return { key, why: 'detail', instead: { test: { ...by, keys }, how: 'key' } };
}
