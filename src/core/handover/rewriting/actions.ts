import type { Action } from '../../rules/rule';
import { leaf, type RewriteSettings, type Transformation, withActions, withTests } from './transformation';

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

const without = (names: readonly string[]) => (rule: Parameters<Transformation['rewrite']>[0]) =>
  withActions(rule, (action) => (names.includes(action.action) ? [] : [action]));

/** Without `vacation` (RFC 5230): nothing is answered. */
export const withoutVacation: Transformation = {
  without: 'vacation',
  rewrite: (rule) => ({ rule: without(['vacation'])(rule), cost: 'nobody is answered' }),
};

/** Without `vacation-seconds` (RFC 6131): the same answer, to the same sender once in some days; whole days are the same. */
export const withoutVacationSeconds: Transformation = {
  without: 'vacation-seconds',
  rewrite: (rule) => {
    let rounded = false;
    const inWholeDays = withActions(rule, (action) => {
      if (action.action !== 'vacation' || action.period?.unit !== 'seconds') return [action];
      const seconds = action.period.number;
      // At least one (RFC 5230 section 4.1).
      const days = Math.max(1, Math.ceil(seconds / DAY));
      rounded ||= days * DAY !== seconds;
      return [{ ...action, period: { unit: 'days', number: days } }];
    });
    return { rule: inWholeDays, cost: rounded ? 'the same sender is answered once in a day at most' : null };
  },
};

/** Seconds. */
const DAY = 86_400;

/** Without `enotify` (RFC 5435): nobody is notified. */
export const withoutNotify: Transformation = {
  without: 'enotify',
  rewrite: (rule) => ({ rule: without(['notify'])(rule), cost: 'nobody is notified' }),
};

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
