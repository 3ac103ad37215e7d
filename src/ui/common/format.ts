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

/** Said of an example message that depends on the current date. */
export const neededClock = (time: number): string => `It has to arrive at ${formatMoment(time)}.`;

/** Numbers of messages are always shown with the number they are part of. */
export const formatPart = (part: number, whole: number): string => `${number.format(part)} of ${number.format(whole)}`;

export const messagesWord = (count: number): string =>
  `${number.format(count)} ${count === 1 ? 'message' : 'messages'}`;

const UNITS = ['KB', 'MB', 'GB'] as const;

export function formatBytes(bytes: number): string {
  if (bytes < 1024) return `${bytes} ${bytes === 1 ? 'byte' : 'bytes'}`;
  // What would round to 1024.0 of a unit becomes 1.0 of the next.
  const fits = UNITS.findIndex((_, at) => bytes / 1024 ** (at + 1) < 1023.95);
  const at = fits < 0 ? UNITS.length - 1 : fits;
  return `${(bytes / 1024 ** (at + 1)).toFixed(1)} ${UNITS[at]}`;
}
