import { maybeRegexMatch } from '../../rules/known-comparisons';
import type { LeafTest, TestTree, TextMatch } from '../../rules/rule';
import { expandedRegex } from './regex-forms';
import { byTests, leaf } from './transformation';

/**
 * Without `regex` (draft-ietf-sieve-regex): as keys where the expression stands for few texts, as forms of `:matches` where it leaves
 * open what stands between them. Other expressions cannot be said.
 */
export const withoutRegex = byTests('regex', null, asForms);

function asForms(test: LeafTest): TestTree | null {
  const found = maybeRegexMatch(test);
  if (!found) return null;
  const forms = found.keys.map(expandedRegex);
  if (forms.some((some) => some === null)) return null;
  const all = [...new Set(forms.flatMap((some) => some ?? []))];
  const match: TextMatch = { match: 'matches', comparator: found.comparator, keys: all };
  if (found.part === 'text') return leaf({ test: 'header', headers: found.fields, ...match });
  return leaf({ test: 'address', headers: found.fields, part: found.part, ...match });
}
