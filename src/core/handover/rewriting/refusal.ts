import type { Action } from '../../rules/rule';
import type { RewriteSettings, Transformation } from './transformation';
import { withActions } from './transformation';

/** Without `reject` or `ereject` (RFC 5429): the other of the two, where the target has it; else mail is dropped or kept. */
export const withoutReject: Transformation = {
  without: 'reject',
  rewrite: (rule, settings) => instead(rule, settings, 'reject'),
};
export const withoutEreject: Transformation = {
  without: 'ereject',
  rewrite: (rule, settings) => instead(rule, settings, 'ereject'),
};

type Refusal = 'reject' | 'ereject';

function instead(rule: Parameters<Transformation['rewrite']>[0], { target, refused }: RewriteSettings, name: Refusal) {
  const other: Refusal = name === 'reject' ? 'ereject' : 'reject';
  const has = target.capabilities.includes(other);
  const replaced = (action: Action): readonly Action[] => {
    if (action.action !== name) return [action];
    if (has) return [{ action: other, reason: action.reason }];
    return [refused === 'dropped' ? { action: 'discard' } : { action: 'keep', flags: null }];
  };
  const cost = has ? 'the sender is told of the refusal in another way' : `mail is ${refused} instead of refused`;
  return { rule: withActions(rule, replaced), cost };
}
