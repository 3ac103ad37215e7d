import { capabilities } from '../sieve/language/table';
import { elementAt } from '../text/lookup';

/** The capabilities and limits of a server. */
export interface Target {
  readonly id: TargetId;
  /** Capabilities beyond the core language, as `require` names them (RFC 5228 section 3.2). */
  readonly capabilities: readonly string[];
  readonly limits: Limits;
}

export type TargetId = 'core' | 'core and fileinto' | 'common' | 'everything' | 'own';

/** Limits of servers; null if unknown. */
export interface Limits {
  /** Strings in one list. */
  readonly strings: number | null;
  /** Octets of the whole script. */
  readonly octets: number | null;
  /** Redirects of one message (RFC 5804 section 1.7, MAXREDIRECTS). */
  readonly redirects: number | null;
  /** Nested tests, the test of an `if` being the first; every server accepts 15 (RFC 5228 section 2.5.1). */
  readonly nesting: number | null;
}

export const NO_LIMITS: Limits = { strings: null, octets: null, redirects: null, nesting: 15 };

/**
 * The capabilities of most present servers (common practice); whoever supports relational tests also has the numeric
 * comparator (RFC 5231 section 6, from memory).
 */
const COMMON = [
  'fileinto',
  'copy',
  'envelope',
  'body',
  'imap4flags',
  'mailbox',
  'relational',
  'comparator-i;ascii-numeric',
  'subaddress',
  'date',
  'index',
  'vacation',
  'reject',
  'variables',
];

/** Presets by standard, not by product. */
export const READY_TARGETS: readonly (Target & { readonly title: string; readonly about: string })[] = [
  {
    id: 'core',
    title: 'core language only',
    about: 'RFC 5228 without options: keep, redirect and discard',
    capabilities: [],
    limits: NO_LIMITS,
  },
  {
    id: 'core and fileinto',
    title: 'the core language and fileinto',
    about: 'RFC 5228 with folders',
    capabilities: ['fileinto'],
    limits: NO_LIMITS,
  },
  {
    id: 'common',
    title: 'a common set',
    about: COMMON.join(', '),
    capabilities: COMMON,
    limits: NO_LIMITS,
  },
  {
    id: 'everything',
    title: 'everything',
    about: 'every supported extension',
    capabilities: [...capabilities].sort(),
    limits: NO_LIMITS,
  },
];

export const EVERYTHING: Target = elementAt(READY_TARGETS, READY_TARGETS.length - 1);

/**
 * Whether a target supports everything needed; comparators of the core are always supported (RFC 5228 section 2.7.3).
 */
export function lacking(target: Target, needs: readonly string[]): string[] {
  const known = new Set(target.capabilities);
  return [...new Set(needs)].filter((need) => !known.has(need) && !ALWAYS.has(need));
}

/** RFC 5228 section 2.7.3. */
const ALWAYS = new Set(['comparator-i;octet', 'comparator-i;ascii-casemap']);

/**
 * Parses a server's capability line `"SIEVE" "fileinto vacation"` (RFC 5804 section 1.7), with or without its
 * surroundings, or just the words. Null if no capability is known.
 */
export function capabilitiesIn(text: string): string[] | null {
  const line = /"SIEVE"\s+"([^"]*)"/i.exec(text);
  const words = (line?.[1] ?? text).split(/[\s,"]+/).filter((word) => word !== '');
  const found = [...new Set(words.map((word) => word.toLowerCase()))];
  return found.some((word) => capabilities.has(word)) ? found : null;
}
