import { finder } from '../../text/find';
import type { Span } from '../../text/span';
import { type Comparator, comparatorNamed } from './comparators';
import { compilePattern, matchPattern, matchWildcards } from './pattern';
import { compileRegex } from './regex';

export const MATCH_TYPES = ['is', 'contains', 'matches', 'regex'] as const;
export type MatchType = (typeof MATCH_TYPES)[number];

/** A key that matched a value, and the matched spans. */
export interface Hit {
  readonly key: string;
  readonly spans: readonly Span[];
  /** Match variables of RFC 5229 section 3.2, for the match types that set them. */
  readonly captures?: () => readonly string[];
}

/** Compares a value with the keys in order; the first match counts. */
export type Matcher = (value: string) => Hit | null;

type KeyMatcher = (folded: string, value: string) => Omit<Hit, 'key'> | null;

/** Throws for a comparator or regular expression that the checker would have rejected. */
export function compileMatcher(
  comparator: string,
  matchType: MatchType,
  keys: readonly string[],
  capturing = false,
): Matcher {
  const found = comparatorNamed(comparator);
  const tries = keys.map((key) => ({ key, meets: compileKey(found, matchType, key, capturing) }));
  return (value) => {
    const folded = found.fold(value);
    for (const { key, meets } of tries) {
      const met = meets(folded, value);
      if (met) return { key, ...met };
    }
    return null;
  };
}

function compileKey(comparator: Comparator, matchType: MatchType, key: string, capturing: boolean): KeyMatcher {
  const folded = comparator.fold(key);
  switch (matchType) {
    case 'is':
      return (text, value) => (text === folded ? { spans: [{ start: 0, end: value.length }] } : null);
    case 'contains': {
      const find = finder(folded);
      return (text, value) => {
        const start = find(text);
        return start < 0 ? null : { spans: inValue([{ start, end: start + folded.length }], text, value) };
      };
    }
    case 'matches': {
      const pattern = compilePattern(folded);
      return (text, value) => {
        const spans = matchPattern(pattern, text);
        if (!spans) return null;
        const shown = inValue(spans, text, value);
        if (!capturing) return { spans: shown };
        const from = text.length === value.length ? value : text;
        const taken = () => (matchWildcards(pattern, text) ?? []).map(({ start, end }) => from.slice(start, end));
        return { spans: shown, captures: () => [value, ...taken()] };
      };
    }
    case 'regex': {
      const regex = compileRegex(key, comparator.caseless);
      return (_text, value) => {
        const spans = regex.match(value);
        if (!spans) return null;
        const captures = () => spans.map((span) => (span ? value.slice(span.start, span.end) : ''));
        return { spans: spans.slice(0, 1).flatMap((span) => (span ? [span] : [])), ...(capturing ? { captures } : {}) };
      };
    }
    default:
      matchType satisfies never;
      throw new Error(`unknown match type ${matchType}`);
  }
}

/** Folding usually keeps lengths, and so spans; otherwise the whole value is the span. */
function inValue(spans: readonly Span[], folded: string, value: string): readonly Span[] {
  return folded.length === value.length ? spans : [{ start: 0, end: value.length }];
}
