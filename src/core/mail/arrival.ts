import { fieldDate } from './date';
import { fieldsNamed, type MailMessage } from './message';

/**
 * When a message arrived, in milliseconds since 1970: from its newest readable Received field, which comes first (RFC
 * 5321 section 4.4), else from its Date field; null if neither is readable.
 */
export function arrivalOf(message: MailMessage): number | null {
  for (const { raw } of fieldsNamed(message, 'received')) {
    const read = fieldDate(raw);
    if (read) return read.time;
  }
  const date = fieldsNamed(message, 'date')[0];
  return (date && fieldDate(date.raw)?.time) ?? null;
}

/** The current date that rules see: the time when each message arrived, or one time for all. */
export interface Clock {
  /** Milliseconds since 1970; null for the time of arrival. */
  readonly fixed: number | null;
  /** For messages whose time of arrival is unknown. */
  readonly otherwise: number;
}

export const nowFor = ({ fixed, otherwise }: Clock, message: MailMessage): number =>
  fixed ?? arrivalOf(message) ?? otherwise;
