import { bind } from '../sieve/language/bind';
import { comparatorOf } from '../sieve/language/shared';
import { tests } from '../sieve/language/table';
import { writtenTest } from './nodes';

export type Relation = 'gt' | 'ge' | 'lt' | 'le' | 'eq' | 'ne';

/** A test of one value that stands on a scale, such as a date, or how often a field stands there. */
export interface LevelMatch {
  readonly of: 'current date' | 'date' | 'count';
  /** The same for tests of the same value by the same order. */
  readonly scale: string;
  /** The field whose date is read, or whose occurrences are counted; null for the current date. */
  readonly field: string | null;
  readonly comparator: string;
  /** The value stands in this relation to any of these. */
  readonly relation: Relation;
  readonly levels: readonly string[];
}

/** Tags that leave it one value of the message as a whole. */
const PLAIN = /^(value|count|is|comparator|zone|originalzone)$/;

/**
 * What a test compares of the current date, of the Date field, or of how often one header field occurs (RFC 5260 sections 4
 * and 5, RFC 5231 section 4); null for any other test.
 */
export function maybeLevelMatch(text: string): LevelMatch | null {
  const node = writtenTest(text);
  const definition = tests.get(node.name);
  if (!definition || !/^(date|currentdate|header)$/.test(node.name)) return null;
  if (node.args.some((argument) => argument.kind === 'tag' && !PLAIN.test(argument.name))) return null;
  const { bound, diagnostics } = bind(definition, node);
  if (diagnostics.length > 0) return null;
  const match = bound.tag('match-type') ?? 'is';
  const comparator = comparatorOf(bound);
  const relation = match === 'is' ? 'eq' : (bound.string('relation').toLowerCase() as Relation);
  const levels = bound.strings('key-list');
  if (node.name === 'header') {
    const [field, ...others] = bound.strings('header-list');
    const counted =
      match === 'count' && comparator === 'i;ascii-numeric' && levels.every((key) => /^\d{1,9}$/.test(key));
    if (!counted || field === undefined || others.length > 0) return null;
    return {
      of: 'count',
      scale: `count ${field.toLowerCase()}`,
      field: field.toLowerCase(),
      comparator,
      relation,
      levels,
    };
  }
  if (match !== 'is' && match !== 'value') return null;
  const zone = bound.tag('zone') === 'zone' ? bound.string('zone') : (bound.tag('zone') ?? '');
  const part = bound.string('date-part').toLowerCase();
  const scale = [node.name, zone, part, comparator].join(' ');
  if (node.name === 'currentdate') return { of: 'current date', scale, field: null, comparator, relation, levels };
  // Other fields with dates may stand there several times.
  const field = bound.string('header-name').toLowerCase();
  return field === 'date' ? { of: 'date', scale, field, comparator, relation, levels } : null;
}
