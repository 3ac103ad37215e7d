import { DEFAULT_COMPARATOR } from '../sieve/match/comparators';
import type { ComparedTest, Subject } from './comparison';
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
