import { expect, test } from 'vitest';
import { formatBytes, formatDay, formatMoment, formatNumber, formatPart, messagesWord } from './format';

test.each([
  [0, '0 bytes'],
  [1, '1 byte'],
  [1023, '1023 bytes'],
  [1024, '1.0 KB'],
  [1536, '1.5 KB'],
  [1024 ** 2 - 1, '1.0 MB'],
  [1024 ** 2 - 1024, '1023.0 KB'],
  [1024 ** 3 - 1, '1.0 GB'],
  [5000 * 1024 ** 3, '5000.0 GB'],
])('%i octets are %s', (bytes, shown) => {
  expect(formatBytes(bytes)).toBe(shown);
});

test('numbers have groups, and parts their whole', () => {
  expect(formatNumber(1234567)).toBe('1,234,567');
  expect(formatPart(0, 4000)).toBe('0 of 4,000');
  expect([0, 1, 2, 1000].map(messagesWord)).toEqual(['0 messages', '1 message', '2 messages', '1,000 messages']);
});

test('dates are those of UTC, wherever the reader is; a message may have none', () => {
  const midnight = Date.UTC(2026, 2, 14);
  expect(formatDay(midnight)).toBe('14 Mar 2026');
  expect(formatDay(midnight - 1)).toBe('13 Mar 2026');
  expect(formatDay(null)).toBe('no date');
  expect(formatMoment(midnight - 60_000)).toBe('13 Mar 2026, 23:59 UTC');
});
