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
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => [withoutCreate(action)]),
    cost: 'its folders must be made by hand',
  }),
};

function withoutCreate(action: Action): Action {
  if (action.action !== 'fileinto' && action.action !== 'fileinto-use') return action;
  const { create: _, ...rest } = action;
  return rest;
}

/** Without `special-use` (RFC 8579): mail goes into the folder by its name. */
export const withoutSpecialUse: Transformation = {
  without: 'special-use',
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => [byName(action)]),
    cost: 'the folder is found by its name alone',
  }),
};

function byName(action: Action): Action {
  if (action.action !== 'fileinto-use') return action;
  const { folder, copy, flags, create } = action;
  return { action: 'fileinto', folder, copy, flags, ...(create ? { create } : {}) };
}
