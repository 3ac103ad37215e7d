import type { LeafTest, TestTree } from '../../rules/rule';
import { leaf, type Transformation, withTests } from './transformation';

/**
 * Without `envelope` (RFC 5228 section 5.4): the sender by Return-Path, as the last server writes it (RFC 5321 section 4.4), the
 * recipient by Delivered-To (common practice), To and Cc. Neither need be there when the script runs.
 */
export const withoutEnvelope: Transformation = {
  without: 'envelope',
  rewrite: (rule) => {
    const rewritten = withTests(rule, (test) => (test.test === 'envelope' ? byHeader(test) : leaf(test)));
    return (
      rewritten && { rule: rewritten, cost: 'the envelope is looked for in header fields, which need not say the same' }
    );
  },
};

function byHeader(test: Extract<LeafTest, { test: 'envelope' }>): TestTree {
  const { parts, part, match, comparator, keys } = test;
  const headers = parts.flatMap((name) => (name === 'from' ? ['return-path'] : ['delivered-to', 'to', 'cc']));
  const byAddress = leaf({ test: 'address', headers, part, match, comparator, keys });
  // An empty path is written <>, which holds no address.
  if (!parts.includes('from') || match !== 'is' || !keys.includes('')) return byAddress;
  const empty = leaf({ test: 'header', headers: ['return-path'], match: 'is', comparator, keys: ['<>'] });
  return { kind: 'any', children: [empty, byAddress] };
}
