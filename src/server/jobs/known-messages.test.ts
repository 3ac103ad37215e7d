import { createHash } from 'node:crypto';
import { expect, test } from 'vitest';
import { KnownMessages } from './known-messages';

test('agrees with a map', () => {
  const known = new KnownMessages();
  const map = new Map<string, number>();
  const digestOf = (number: number) =>
    createHash('sha256')
      .update(String(number % 7000))
      .digest();
  for (let number = 0; number < 20_000; number++) {
    const folder = number % 3 === 0 ? 'INBOX' : `Folder ${number % 5}`;
    const digest = digestOf(number);
    const key = `${digest.toString('hex')} ${folder}`;
    expect(known.maybeNumber(digest, folder)).toBe(map.get(key) ?? null);
    if (map.has(key)) continue;
    map.set(key, number);
    known.set(digest, folder, number);
  }
  expect(known.maybeNumber(digestOf(1), 'Absent')).toBeNull();
});
