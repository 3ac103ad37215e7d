import { type Transformation, withActions } from './transformation';

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
