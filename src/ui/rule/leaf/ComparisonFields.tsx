import type { Comparison, Subject } from '../../../core/rules/comparison';
import type { Relation } from '../../../core/text/relation';
import { Choice } from '../fields';
import { Keys } from '../Keys';

interface Props {
  readonly subject: Subject;
  readonly by: Comparison;
  readonly put: (by: Comparison) => void;
}

const MATCHES = [
  { value: 'is', label: 'is' },
  { value: 'contains', label: 'contains' },
  { value: 'matches', label: 'matches' },
  { value: 'regex', label: 'matches the regular expression' },
  { value: 'list', label: 'is in the server’s list' },
  { value: 'value', label: 'by order' },
  { value: 'count', label: 'by number of values' },
] as const;
const RELATIONS: readonly { readonly value: Relation; readonly label: string }[] = [
  { value: 'ge', label: 'at least' },
  { value: 'gt', label: 'more than' },
  { value: 'le', label: 'at most' },
  { value: 'lt', label: 'less than' },
  { value: 'eq', label: 'equal to' },
  { value: 'ne', label: 'other than' },
];
const COMPARATORS = [
  { value: 'i;ascii-casemap', label: 'ignoring case' },
  { value: 'i;octet', label: 'case-sensitive' },
  { value: 'i;ascii-numeric', label: 'as numbers' },
] as const;

/** Match type, relation and keys. */
export function ComparisonFields({ subject, by, put }: Props) {
  const known = COMPARATORS.some(({ value }) => value === by.comparator);
  return (
    <>
      <Choice
        label="How it is compared"
        wide
        value={by.match}
        choices={MATCHES}
        onChange={(match) => put(matchedBy(by, match))}
      />
      {'relation' in by && (
        <Choice
          label="Relation"
          value={by.relation}
          choices={RELATIONS}
          onChange={(relation) => put({ ...by, relation })}
        />
      )}
      <Choice
        label="Compared as"
        value={by.comparator}
        choices={known ? COMPARATORS : [...COMPARATORS, { value: by.comparator, label: by.comparator }]}
        onChange={(comparator) => put({ ...by, comparator })}
      />
      <Keys
        label="value to compare with"
        keys={by.keys}
        {...hintFor(subject)}
        onChange={(keys) => put({ ...by, keys: /test$/.test(subject.of) ? keys.slice(-1) : keys })}
      />
    </>
  );
}

const HINTS: Readonly<Record<string, string>> = {
  weekday: '0 for Sunday to 6',
  month: '01 to 12',
  date: 'such as 2026-01-31',
  time: 'such as 09:30:00',
  zone: 'such as +0100',
};

/** How parts of dates are written (RFC 5260 section 4.2). */
function hintFor(subject: Subject): { readonly placeholder?: string } {
  const hint = subject.of === 'date' || subject.of === 'currentdate' ? HINTS[subject.part] : undefined;
  return hint === undefined ? {} : { placeholder: hint };
}

/** The same keys under another comparison; the numeric comparator fits only relations. */
function matchedBy(by: Comparison, match: Comparison['match']): Comparison {
  const { comparator, keys } = by;
  if (match === 'count') return { match, relation: 'ge', comparator: 'i;ascii-numeric', keys };
  if (match === 'value') return { match, relation: 'ge', comparator, keys };
  return { match, comparator: comparator === 'i;ascii-numeric' ? 'i;ascii-casemap' : comparator, keys };
}
