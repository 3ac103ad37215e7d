import { fieldDate } from './date';
import { fieldsNamed, type MailMessage } from './message';

/**
 * When a message arrived, in milliseconds since 1970: by its newest Received field that tells, which stands first (RFC 5321
 * section 4.4), else by its Date field; null where neither does.
 */
export function arrivalOf(message: MailMessage): number | null {
  for (const { raw } of fieldsNamed(message, 'received')) {
    const read = fieldDate(raw);
    if (read) return read.time;
  }
  const date = fieldsNamed(message, 'date')[0];
  return (date && fieldDate(date.raw)?.time) ?? null;
}

/** What tests of the current date see: the time at which each message arrived, or one time for all of them. */
export interface Clock {
  /** Milliseconds since 1970; null for the time of arrival. */
  readonly fixed: number | null;
  /** For messages that do not tell when they arrived. */
  readonly otherwise: number;
}

export const nowFor = ({ fixed, otherwise }: Clock, message: MailMessage): number =>
  fixed ?? arrivalOf(message) ?? otherwise;
