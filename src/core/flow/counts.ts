import type { LeafTest } from '../rules/rule';
import { RELATIONS, type Relation } from '../text/relation';
import { Bitmap } from './bitmap';
import type { ColumnName } from './columns';

/** A test of the number of fields of some names, or of the addresses in them (RFC 5231), evaluated from columns. */
export interface CountTest {
  readonly columns: readonly ColumnName[];
  readonly relation: Relation;
  readonly numbers: readonly number[];
}

/** The test as a count of column values; null for any other test. */
export function maybeCountTest(test: LeafTest): CountTest | null {
  if (test.test !== 'compared' || test.by.match !== 'count' || test.by.comparator !== 'i;ascii-numeric') return null;
  const { subject, by } = test;
  const isWhole = (subject.of === 'header' && !subject.option) || (subject.of === 'address' && subject.part === 'all');
  if (!isWhole || subject.occurrence || subject.within || !by.keys.every((key) => /^\d{1,9}$/.test(key))) return null;
  const names = [...new Set(subject.headers.map((name) => name.toLowerCase()))];
  if (names.length < subject.headers.length) return null;
  const columns = names.map((name): ColumnName => `${subject.of}:${name}`);
  return { columns, relation: by.relation, numbers: by.keys.map(Number) };
}

/** The messages whose numbers of values fit. */
export function messagesCounted({ relation, numbers }: CountTest, counts: Uint32Array): Bitmap {
  const found = new Bitmap(counts.length);
  for (const [message, count] of counts.entries()) {
    if (numbers.some((number) => RELATIONS[relation](count - number))) found.add(message);
  }
  return found;
}
