import { actionNode, readAction } from '../../rules/nodes';
import type { Argument, TagArgument } from '../../sieve/tree';
import { type Transformation, withActions } from './transformation';

const without = (names: readonly string[]) => (rule: Parameters<Transformation['rewrite']>[0]) =>
  withActions(rule, (action) => (action.action === 'sieve' && names.includes(action.name) ? [] : [action]));

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
    const inDays = (argument: Argument, at: number, all: readonly Argument[]): Argument => {
      if (isSeconds(argument)) return { ...argument, name: 'days' };
      if (argument.kind !== 'number' || !isSeconds(all[at - 1])) return argument;
      // At least one (RFC 5230 section 4.1).
      const days = Math.max(1, Math.ceil(argument.value / DAY));
      rounded ||= days * DAY !== argument.value;
      return { ...argument, value: days, quantifier: null };
    };
    const inWholeDays = withActions(rule, (action) => {
      if (action.action !== 'sieve' || action.name !== 'vacation') return [action];
      const written = actionNode(action);
      const read = readAction({ ...written, args: written.args.map(inDays) });
      return read ? [read] : [];
    });
    return { rule: inWholeDays, cost: rounded ? 'the same sender is answered once in a day at most' : null };
  },
};

/** Seconds. */
const DAY = 86_400;

const isSeconds = (argument: Argument | undefined): argument is TagArgument =>
  argument?.kind === 'tag' && argument.name === 'seconds';

/** Without `enotify` (RFC 5435): nobody is notified. */
export const withoutNotify: Transformation = {
  without: 'enotify',
  rewrite: (rule) => ({ rule: without(['notify'])(rule), cost: 'nobody is notified' }),
};
