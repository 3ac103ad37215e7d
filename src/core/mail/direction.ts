import type { MailMessage } from './message';

/**
 * Fields that only delivery adds: Received and Return-Path (RFC 5321 section 4.4), Delivered-To (RFC 9228), X-Original-To and
 * Envelope-To (common practice).
 */
const ARRIVAL_FIELDS: ReadonlySet<string> = new Set([
  'received',
  'return-path',
  'delivered-to',
  'x-original-to',
  'envelope-to',
]);

/** Names of folders of sent mail in many languages (common practice). */
const SENT_FOLDER =
  /(^|[/.\s])(sent|outbox|gesendet|envoy|enviad|inviat|verzonden|skickat|sendt|wys[lł]ane|отправ|送信|已发送)/i;

/** Whether a folder, by its name, holds copies of what was sent. */
export const isSentFolder = (folder: string): boolean => SENT_FOLDER.test(folder);

/**
 * Whether a message is the copy that its author kept: it bears no trace of having arrived, or is in a folder of sent mail, where
 * some servers keep the traces of submission. Sent by the user, if its author is the user.
 */
export function isOutgoing({ fields }: MailMessage, folder: string | null): boolean {
  if (folder !== null && isSentFolder(folder)) return true;
  return !fields.some(({ name }) => ARRIVAL_FIELDS.has(name.toLowerCase()));
}
