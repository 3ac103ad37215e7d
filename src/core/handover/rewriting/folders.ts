import { actionNode, readAction } from '../../rules/nodes';
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
    rule: withActions(rule, (action) => [withoutTag(action, 'create')]),
    cost: 'its folders must be made by hand',
  }),
};

/** Without `special-use` (RFC 8579): mail goes into the folder by its name. */
export const withoutSpecialUse: Transformation = {
  without: 'special-use',
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => [withoutTag(action, 'specialuse')]),
    cost: 'the folder is found by its name alone',
  }),
};

/** A filing without one tag and what belongs to the tag; any other action as it is. */
function withoutTag(action: Action, name: 'create' | 'specialuse'): Action {
  const files = action.action === 'fileinto' || (action.action === 'sieve' && action.name === 'fileinto');
  if (!files) return action;
  const node = actionNode(action);
  const at = node.args.findIndex((argument) => argument.kind === 'tag' && argument.name === name);
  if (at < 0) return action;
  return readAction({ ...node, args: node.args.toSpliced(at, name === 'specialuse' ? 2 : 1) }) ?? action;
}
