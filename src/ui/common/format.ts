/** Numbers and dates as the views show them. */
const number = new Intl.NumberFormat('en-GB');
const day = new Intl.DateTimeFormat('en-GB', { day: '2-digit', month: 'short', year: 'numeric', timeZone: 'UTC' });
const moment = new Intl.DateTimeFormat('en-GB', {
  day: '2-digit',
  month: 'short',
  year: 'numeric',
  hour: '2-digit',
  minute: '2-digit',
  timeZone: 'UTC',
});

export const formatNumber = (value: number): string => number.format(value);
export const formatDay = (time: number | null): string => (time === null ? 'no date' : day.format(time));
export const formatMoment = (time: number): string => `${moment.format(time)} UTC`;

/** A number of messages is always shown with the number it is part of. */
export const formatPart = (part: number, whole: number): string => `${number.format(part)} of ${number.format(whole)}`;

export const messagesWord = (count: number): string =>
  `${number.format(count)} ${count === 1 ? 'message' : 'messages'}`;

export function formatBytes(bytes: number): string {
  for (const [unit, size] of [
    ['GB', 1024 ** 3],
    ['MB', 1024 ** 2],
    ['KB', 1024],
  ] as const) {
    if (bytes >= size) return `${(bytes / size).toFixed(1)} ${unit}`;
  }
  return `${bytes} bytes`;
}
