import { readWrittenAction } from '../../rules/as-written';
import type { Action } from '../../rules/rule';
import { type Transformation, withActions } from './transformation';

/** Without `fileinto` (RFC 5228 section 4.1): mail stays in the inbox; a copy is not made. */
export const withoutFileinto: Transformation = {
  without: 'fileinto',
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => {
      if (action.action !== 'fileinto') return [action];
      return action.copy ? [] : [{ action: 'keep', flags: action.flags }];
    }),
    cost: 'what it files stays in the inbox',
  }),
};

/** Without `mailbox` (RFC 5490): no folder is made on the way; those named have to be there before. */
export const withoutMailbox: Transformation = {
  without: 'mailbox',
  rewrite: (rule) => {
    const rewritten = withActions(rule, (action) => [withoutTag(action, ':create')]);
    return { rule: rewritten, cost: 'its folders must be made by hand' };
  },
};

/** Without `special-use` (RFC 8579): mail goes into the folder by its name. */
export const withoutSpecialUse: Transformation = {
  without: 'special-use',
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => [withoutTag(action, /:specialuse\s+"(?:[^"\\]|\\.)*"/)]),
    cost: 'the folder is found by its name alone',
  }),
};

/** An action that is kept as Sieve, without one tag; the same action where it has none. */
function withoutTag(action: Action, tag: string | RegExp): Action {
  if (action.action !== 'sieve' || action.name !== 'fileinto') return action;
  // Strings stand behind the tags, so that the first place is that of the tag.
  const reading = readWrittenAction(action.text.replace(tag, ''));
  return reading.ok ? reading.said : action;
}
