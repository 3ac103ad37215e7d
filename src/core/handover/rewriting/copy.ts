import { type Transformation, withActions } from './transformation';

/**
 * Without `copy` (RFC 3894): a copy is filed or redirected, and the mail kept besides. It is the same where the mail stays in the
 * inbox anyway; where another rule files, drops or sends it away, the inbox holds it too.
 */
export const withoutCopy: Transformation = {
  without: 'copy',
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => {
      if (action.action !== 'fileinto' && action.action !== 'redirect') return [action];
      if (!action.copy) return [action];
      return [
        { ...action, copy: false },
        { action: 'keep', flags: null },
      ];
    }),
    cost: 'what it copies stays in the inbox, whatever other rules do with it',
  }),
};
