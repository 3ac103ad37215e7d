import { type Find, finder } from '../../text/find';
import { fromOctetOffset, isAscii, toOctets } from '../../text/fold';
import { elementAt } from '../../text/lookup';
import type { Span } from '../../text/span';
import { findOctets } from './octet-pattern';

/**
 * A `:matches` pattern (RFC 5228 section 2.7.1), split at its `*`. A segment is a run of octets, -1 for `?`. The first
 * segment is anchored at the start, the last at the end, and the others take their first match, which is sufficient:
 * there is no backtracking, so matching reads the text at most once for each star.
 */
export interface Pattern {
  readonly segments: readonly Segment[];
  /** The octets of all segments together. */
  readonly length: number;
}

interface Segment {
  readonly octets: readonly number[];
  /** The octets as text, if there is no `?` among them. */
  readonly literal: string | null;
  /** Searches for the literal. */
  readonly find: Find | null;
}

/** `folded` is the pattern as folded by the comparator. */
export function compilePattern(folded: string): Pattern {
  const octets = toOctets(folded);
  const segments: number[][] = [[]];
  for (let at = 0; at < octets.length; at++) {
    const character = octets[at];
    const segment = elementAt(segments, segments.length - 1);
    if (character === '*') segments.push([]);
    else if (character === '?') segment.push(-1);
    else if (character === '\\' && at + 1 < octets.length) segment.push(octets.charCodeAt(++at));
    else segment.push(octets.charCodeAt(at));
  }
  return {
    segments: segments.map((segment) => {
      const literal = segment.includes(-1) ? null : segment.map((code) => String.fromCharCode(code)).join('');
      return { octets: segment, literal, find: literal === null ? null : finder(literal) };
    }),
    length: segments.reduce((sum, segment) => sum + segment.length, 0),
  };
}

/**
 * Matches the whole of `folded`; returns the spans of the literal parts (offsets into `folded`, not into its octets),
 * or null. `?` is one octet under both basic comparators.
 */
export function matchPattern(pattern: Pattern, folded: string): readonly Span[] | null {
  const octets = toOctets(folded);
  const places = placeSegments(pattern, octets);
  if (!places) return null;
  const spans: Span[] = [];
  pattern.segments.forEach((segment, index) => {
    if (segment.octets.length === 0) return;
    const start = elementAt(places, index);
    spans.push({ start, end: start + segment.octets.length });
  });
  if (isAscii(folded)) return spans;
  return spans.map(({ start, end }) => ({
    start: fromOctetOffset(folded, start),
    end: fromOctetOffset(folded, end),
  }));
}

/**
 * The text that each `*` and `?` of the pattern matches in `folded`, in order, or null. Each `*` takes as little as
 * possible (RFC 5229 section 3.2).
 */
export function matchWildcards(pattern: Pattern, folded: string): readonly Span[] | null {
  const octets = toOctets(folded);
  const places = placeSegments(pattern, octets);
  if (!places) return null;
  const spans: Span[] = [];
  let from = 0;
  pattern.segments.forEach((segment, index) => {
    const place = elementAt(places, index);
    if (index > 0) spans.push({ start: from, end: place });
    segment.octets.forEach((code, at) => {
      if (code === -1) spans.push({ start: place + at, end: place + at + 1 });
    });
    from = place + segment.octets.length;
  });
  if (isAscii(folded)) return spans;
  return spans.map(({ start, end }) => ({
    start: fromOctetOffset(folded, start),
    end: fromOctetOffset(folded, end),
  }));
}

/** Like `matchPattern`, without spans. */
export function patternHolds(pattern: Pattern, folded: string): boolean {
  return octetsHold(pattern, toOctets(folded));
}

/** The same for a value and a pattern given as octets. */
export function octetsHold(pattern: Pattern, octets: string): boolean {
  return placeSegments(pattern, octets) !== null;
}

function placeSegments({ segments, length }: Pattern, octets: string): number[] | null {
  if (octets.length < length) return null;
  const first = elementAt(segments, 0);
  if (segments.length === 1) {
    return octets.length === first.octets.length && fitsAt(first, octets, 0) ? [0] : null;
  }
  const last = elementAt(segments, segments.length - 1);
  const lastPlace = octets.length - last.octets.length;
  if (!fitsAt(first, octets, 0) || !fitsAt(last, octets, lastPlace)) return null;
  const places = [0];
  let from = first.octets.length;
  for (const segment of segments.slice(1, -1)) {
    const place = findFrom(segment, octets, from, lastPlace);
    if (place < 0) return null;
    places.push(place);
    from = place + segment.octets.length;
  }
  places.push(lastPlace);
  return places;
}

function findFrom({ octets: wanted, literal, find }: Segment, octets: string, from: number, limit: number): number {
  if (literal === null || find === null) return findOctets(wanted, octets, from, limit);
  const place = find(octets, from);
  return place >= 0 && place + literal.length <= limit ? place : -1;
}

function fitsAt(segment: Segment, octets: string, place: number): boolean {
  if (segment.literal !== null) return octets.startsWith(segment.literal, place);
  return segment.octets.every((code, index) => code === -1 || code === octets.charCodeAt(place + index));
}
