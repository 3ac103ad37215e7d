import { leaf, type Transformation, withActions, withTests } from './transformation';

/** Without `imap4flags` (RFC 5232): nothing is marked. A test of marks cannot be said. */
export const withoutFlags: Transformation = {
  without: 'imap4flags',
  rewrite: (rule) => {
    const unmarked = withActions(rule, (action) => {
      if (/^(add|set|remove)flag$/.test(action.action)) return [];
      return [action.action === 'keep' || action.action === 'fileinto' ? { ...action, flags: null } : action];
    });
    const tested = withTests(unmarked, (test) => (test.test === 'hasflag' ? null : leaf(test)));
    return tested && { rule: tested, cost: 'nothing is marked' };
  },
};
