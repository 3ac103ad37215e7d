import { readWrittenAction } from '../../rules/as-written';
import { type Transformation, withActions } from './transformation';

const without = (names: readonly string[]) => (rule: Parameters<Transformation['rewrite']>[0]) =>
  withActions(rule, (action) => (action.action === 'sieve' && names.includes(action.name) ? [] : [action]));

/** Without `vacation` (RFC 5230): nothing is answered. */
export const withoutVacation: Transformation = {
  without: 'vacation',
  rewrite: (rule) => ({ rule: without(['vacation'])(rule), cost: 'nobody is answered' }),
};

/** Without `vacation-seconds` (RFC 6131): the same answer, to the same sender once in some days. */
export const withoutVacationSeconds: Transformation = {
  without: 'vacation-seconds',
  rewrite: (rule) => ({
    rule: withActions(rule, (action) => {
      if (action.action !== 'sieve' || action.name !== 'vacation') return [action];
      const reading = readWrittenAction(
        action.text.replace(/:seconds (\d+)/, (_, seconds) => `:days ${daysOf(seconds)}`),
      );
      return reading.ok ? [reading.said] : [];
    }),
    cost: 'the same sender is answered once in a day at most',
  }),
};

/** At least one (RFC 5230 section 4.1). */
const daysOf = (seconds: string): number => Math.max(1, Math.ceil(Number(seconds) / 86_400));

/** Without `enotify` (RFC 5435): nobody is notified. */
export const withoutNotify: Transformation = {
  without: 'enotify',
  rewrite: (rule) => ({ rule: without(['notify'])(rule), cost: 'nobody is notified' }),
};
