import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';
import type { ComparedTest, Relation, Subject } from './comparison';
import type { AddressPart, LeafTest, TextMatch } from './rule';

/** Further tests that more than the interpreter understands, in a common form. */

/** The comparison of a body test that reads only the text of messages, by i;ascii-casemap; null for any other test. */
export function maybeBodyMatch(test: LeafTest): TextMatch | null {
  if (test.test !== 'compared' || test.subject.of !== 'body' || test.subject.transform !== 'text') return null;
  const { match, comparator, keys } = test.by;
  if (match !== 'is' && match !== 'contains' && match !== 'matches') return null;
  // Texts are stored folded in this one way.
  return comparator === DEFAULT_COMPARATOR ? { match, comparator, keys } : null;
}

/** Words in the text of a message (RFC 5173 section 5.3). */
export function bodyTest({ match, keys }: Pick<TextMatch, 'match' | 'keys'>): ComparedTest {
  return {
    test: 'compared',
    subject: { of: 'body', transform: 'text' },
    by: { match, comparator: DEFAULT_COMPARATOR, keys },
  };
}

/**
 * The subject of a regular expression test (draft-ietf-sieve-regex): header fields as they are, or addresses in them.
 */
export interface RegexMatch {
  readonly match: 'regex';
  readonly comparator: string;
  readonly keys: readonly string[];
  readonly fields: readonly string[];
  readonly part: 'text' | AddressPart;
}

/** The comparison of a `header` or `address` test by regular expressions; null for any other test. */
export function maybeRegexMatch(test: LeafTest): RegexMatch | null {
  if (test.test !== 'compared' || test.by.match !== 'regex') return null;
  const { subject, by } = test;
  if (!isOfWholeMessage(subject)) return null;
  const part = subject.of === 'header' ? 'text' : subject.part;
  if (part === 'user' || part === 'detail') return null;
  return { match: 'regex', comparator: by.comparator, keys: by.keys, fields: subject.headers, part };
}

/** Whether all fields of some names are compared, in any occurrence, and none of MIME parts. */
function isOfWholeMessage(subject: Subject): subject is Extract<Subject, { of: 'header' | 'address' }> {
  if (subject.of !== 'header' && subject.of !== 'address') return false;
  const option = subject.of === 'header' ? subject.option : undefined;
  return !subject.occurrence && !subject.within && !option;
}

/** A test of one ordered value, such as a date, or the number of occurrences of a field. */
export interface LevelMatch {
  readonly of: 'current date' | 'date' | 'count';
  /** The same for all tests of the same value in the same order. */
  readonly scale: string;
  /** The field whose date is read, or whose occurrences are counted; null for the current date. */
  readonly field: string | null;
  readonly comparator: string;
  /** The relation of the value to any of these keys. */
  readonly relation: Relation;
  readonly levels: readonly string[];
}

/**
 * The comparison of a test of the current date, of the Date field, or of the number of occurrences of one header field
 * (RFC 5260 sections 4 and 5, RFC 5231 section 4); null for any other test.
 */
export function maybeLevelMatch(test: LeafTest): LevelMatch | null {
  if (test.test !== 'compared') return null;
  const { subject, by } = test;
  if (subject.of === 'header') return maybeCount(test);
  if (subject.of !== 'date' && subject.of !== 'currentdate') return null;
  if (by.match !== 'is' && by.match !== 'value') return null;
  const relation = by.match === 'value' ? by.relation : 'eq';
  const zone = subject.zone === 'original' ? 'originalzone' : (subject.zone ?? '');
  const scale = [subject.of, zone, subject.part, by.comparator].join(' ');
  const level = { scale, comparator: by.comparator, relation, levels: by.keys };
  if (subject.of === 'currentdate') return { of: 'current date', field: null, ...level };
  // Other date fields may occur several times.
  const field = subject.header.toLowerCase();
  return field === 'date' && !subject.occurrence ? { of: 'date', field, ...level } : null;
}

function maybeCount({ subject, by }: ComparedTest): LevelMatch | null {
  if (subject.of !== 'header' || !isOfWholeMessage(subject) || by.match !== 'count') return null;
  const [first, ...others] = subject.headers;
  const counted = by.comparator === 'i;ascii-numeric' && by.keys.every((key) => /^\d{1,9}$/.test(key));
  if (!counted || first === undefined || others.length > 0) return null;
  const field = first.toLowerCase();
  const { comparator, relation, keys: levels } = by;
  return { of: 'count', scale: `count ${field}`, field, comparator, relation, levels };
}
