import { maybeSingleAddress } from '../mail/address';
import type { LeafTest, TestTree } from './rule';

/** People as users write them, in cells and fields: addresses, whole domains, and parts of names. */

export interface PeopleKeys {
  readonly addresses: readonly string[];
  /** Addresses with `*` for any characters. */
  readonly patterns: readonly string[];
  /** Domains, without those below them. */
  readonly domains: readonly string[];
  /** Domains, with all below them. */
  readonly wideDomains: readonly string[];
  readonly names: readonly string[];
  /** What can match no address, with the reason in words. */
  readonly faults: readonly string[];
}

const COMPARATOR = 'i;ascii-casemap';

/**
 * Reads people separated by semicolons, commas or lines, or by blanks where all have an @: `a@b`, `Name <a@b>`; `@d` and
 * `*@d` for a domain, `*.d` for a domain with all below it; anything without an @ is part of a name.
 */
export function readPeople(text: string): PeopleKeys {
  const found = {
    addresses: new Set<string>(),
    patterns: new Set<string>(),
    domains: new Set<string>(),
    wideDomains: new Set<string>(),
    names: new Set<string>(),
  };
  const faults: string[] = [];
  for (const item of itemsIn(text)) {
    const key = bare(item);
    if (!/[\p{L}\p{N}]/u.test(key)) {
      faults.push(`“${item}” is neither a name nor an address.`);
      continue;
    }
    const [, wide] = /^(?:\*?@)?\*\.([^@*]+)$/.exec(key) ?? [];
    const [, domain] = /^\*?@([^@*]+)$/.exec(key) ?? [];
    if (wide !== undefined || domain !== undefined) {
      const named = wide ?? domain ?? '';
      if (!isDomain(named)) faults.push(`“${item}” is not a domain that an address can have.`);
      else (wide === undefined ? found.domains : found.wideDomains).add(named);
    } else if (!key.includes('@')) found.names.add(item);
    else if (/^[^@\s]*\*[^@\s]*@[^@\s]+$|^[^@\s]+@[^@\s]*\*[^@\s]*$/.test(key)) found.patterns.add(key);
    else if (/^[^@]+@[^@]+$/.test(key) && maybeSingleAddress(key)) found.addresses.add(key);
    else faults.push(`“${item}” is not a complete address.`);
  }
  const listed = <Key extends keyof typeof found>(key: Key) => [...found[key]];
  return {
    addresses: listed('addresses'),
    patterns: listed('patterns'),
    domains: listed('domains'),
    wideDomains: listed('wideDomains'),
    names: listed('names'),
    faults,
  };
}

/** Commas within quotation marks or angle brackets belong to a name or an address. */
function itemsIn(text: string): string[] {
  const items = text
    .split(/[;\n\r]|,(?=(?:[^"]*"[^"]*")*[^"]*$)(?![^<]*>)/)
    .map((item) => item.trim())
    .filter((item) => item !== '');
  return items.flatMap((item) => {
    const words = item.split(/\s+/);
    const isList = words.length > 1 && words.every((word) => /^[^<>"]*(@|^\*\.)[^<>"]*$/.test(word));
    return isList ? words : [item];
  });
}

/** An address without the name before it, the brackets around it, or `mailto:`. */
function bare(item: string): string {
  const [, inside] = /<\s*([^<>]*)\s*>$/.exec(item) ?? [];
  return (inside ?? item).replace(/^mailto:/i, '').trim();
}

const isDomain = (text: string): boolean => /^[^\s@.]+(\.[^\s@.]+)*$/u.test(text);

/** Tests that any of these people sends, or receives, mail; none if there are no people. */
export function peopleTests(people: PeopleKeys, headers: readonly string[]): TestTree[] {
  const leaves: LeafTest[] = [];
  const add = (part: 'all' | 'domain', match: 'is' | 'matches', keys: readonly string[]) => {
    if (keys.length > 0) leaves.push({ test: 'address', headers, part, match, comparator: COMPARATOR, keys });
  };
  add('all', 'is', people.addresses);
  add('all', 'matches', people.patterns);
  add('domain', 'is', people.domains);
  add(
    'domain',
    'matches',
    people.wideDomains.flatMap((domain) => [domain, `*.${domain}`]),
  );
  if (people.names.length > 0) {
    leaves.push({ test: 'header', headers, match: 'contains', comparator: COMPARATOR, keys: people.names });
  }
  const tests = leaves.map((test): TestTree => ({ kind: 'leaf', test }));
  return tests.length > 1 ? [{ kind: 'any', children: tests }] : tests;
}

/** How the keys of a test of people are written; the caller checks that they read back as the same test. */
export function peopleWritten(test: Extract<LeafTest, { test: 'address' }>): string[] {
  if (test.part !== 'domain') return [...test.keys];
  if (test.match !== 'matches') return test.keys.map((key) => `@${key}`);
  return test.keys.filter((key) => key.startsWith('*.'));
}
