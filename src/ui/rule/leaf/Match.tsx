import type { TextMatch } from '../../../core/rules/rule';
import { Choice } from '../fields';

export const MATCHES = [
  { value: 'is', label: 'is' },
  { value: 'contains', label: 'contains' },
  { value: 'matches', label: 'has the form' },
] as const;

type Comparison = Pick<TextMatch, 'match' | 'comparator'>;

/** How keys are compared, and whether capital and small letters count. */
export function Match({ match, onChange }: { match: Comparison; onChange: (match: Comparison) => void }) {
  const exact = match.comparator === 'i;octet';
  const known = exact || match.comparator === 'i;ascii-casemap';
  return (
    <>
      <Choice
        label="How it is compared"
        value={match.match}
        choices={MATCHES}
        onChange={(value) => onChange({ ...match, match: value })}
      />
      <Choice
        label="Capital and small letters"
        value={match.comparator}
        choices={[
          { value: 'i;ascii-casemap', label: 'any case' },
          { value: 'i;octet', label: 'to the letter' },
          ...(known ? [] : [{ value: match.comparator, label: match.comparator }]),
        ]}
        onChange={(value) => onChange({ ...match, comparator: value })}
      />
    </>
  );
}
