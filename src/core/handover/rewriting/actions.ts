import type { Action } from '../../rules/rule';
import { leaf, type RewriteSettings, type Transformation, withActions, withTests } from './transformation';

/**
 * Without `copy` (RFC 3894): files or redirects, and keeps the mail too. Equivalent if the mail stays in the inbox
 * anyway; if another rule files, discards or redirects it, the inbox has it too.
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
    cost: 'the copied mail stays in the inbox, whatever other rules do with it',
  }),
};

/** Without `imap4flags` (RFC 5232): no message is marked. Tests of flags are not portable. */
export const withoutFlags: Transformation = {
  without: 'imap4flags',
  rewrite: (rule) => {
    const unmarked = withActions(rule, (action) => {
      if (/^(add|set|remove)flag$/.test(action.action)) return [];
      return [action.action === 'keep' || action.action === 'fileinto' ? { ...action, flags: null } : action];
    });
    const tested = withTests(unmarked, (test) => (test.test === 'hasflag' ? null : leaf(test)));
    return tested && { rule: tested, cost: 'no message is marked' };
  },
};

const without = (names: readonly string[]) => (rule: Parameters<Transformation['rewrite']>[0]) =>
  withActions(rule, (action) => (names.includes(action.action) ? [] : [action]));

/** Without `vacation` (RFC 5230): no replies. */
export const withoutVacation: Transformation = {
  without: 'vacation',
  rewrite: (rule) => ({ rule: without(['vacation'])(rule), cost: 'no automatic reply is sent' }),
};

/**
 * Without `vacation-seconds` (RFC 6131): the same reply, at most once in some days to each sender; whole days are
 * equivalent.
 */
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
    return { rule: inWholeDays, cost: rounded ? 'each sender gets at most one reply a day' : null };
  },
};

/** Seconds. */
const DAY = 86_400;

/** Without `enotify` (RFC 5435): no notification is sent. */
export const withoutNotify: Transformation = {
  without: 'enotify',
  rewrite: (rule) => ({ rule: without(['notify'])(rule), cost: 'no notification is sent' }),
};

/**
 * Without `reject` or `ereject` (RFC 5429): the other one, if the target supports it; else mail is discarded or kept.
 */
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
  const cost = has ? 'the sender is told about the rejection in another way' : `mail is ${refused} instead of rejected`;
  return { rule: withActions(rule, replaced), cost };
}

/** Without `fileinto` (RFC 5228 section 4.1): mail stays in the inbox, and no copy is made. */
export const withoutFileinto: Transformation = {
  without: 'fileinto',
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => {
      if (action.action !== 'fileinto') return [action];
      return action.copy ? [] : [{ action: 'keep', flags: action.flags }];
    }),
    cost: 'the filed mail stays in the inbox',
  }),
};

/** Without `mailbox` (RFC 5490): folders are not created and must exist. */
export const withoutMailbox: Transformation = {
  without: 'mailbox',
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => [withoutCreate(action)]),
    cost: 'its folders must be created by hand',
  }),
};

function withoutCreate(action: Action): Action {
  if (action.action !== 'fileinto' && action.action !== 'fileinto-use') return action;
  const { create: _, ...rest } = action;
  return rest;
}

/** Without `special-use` (RFC 8579): mail goes into the folder by name. */
export const withoutSpecialUse: Transformation = {
  without: 'special-use',
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => [byName(action)]),
    cost: 'the folder is found by its name only',
  }),
};

function byName(action: Action): Action {
  if (action.action !== 'fileinto-use') return action;
  const { folder, copy, flags, create } = action;
  return { action: 'fileinto', folder, copy, flags, ...(create ? { create } : {}) };
}
