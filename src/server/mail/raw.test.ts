import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { id, store, withAudit } from '../../../test/harness';
import { corpus } from '../../core/agreement/corpus';
import { rawPieces } from '../database/schema';
import { maybeRaw, RawBlocks } from './raw';

withAudit();

function keep(messages: readonly Uint8Array[], first: number): number {
  const blocks = new RawBlocks();
  for (const [at, raw] of messages.entries()) blocks.add(first + at, raw);
  const rows = blocks.take();
  for (const { data, ...row } of rows)
    store
      .insert(rawPieces)
      .values({ auditId: id, ...row, data: Buffer.from(data) })
      .run();
  return rows.length;
}
const textOf = (octets: Uint8Array | null) => octets && Buffer.from(octets).toString('latin1');

describe('octets of messages', () => {
  test('of any size, one after another and in any order, as they were', () => {
    const sizes = [0, 1, 65_536, 65_537, 0, 4 * 1024 * 1024, 4 * 1024 * 1024 + 1, 3, 9_000_000, 60_000, 6000];
    const made = sizes.map((size, at) => new Uint8Array(size).fill(at));
    const all = [...made, ...corpus().slice(0, 300)];
    expect(keep(all, 10)).toBeLessThan(all.length / 3);
    expect(maybeRaw(store, id, 9)).toBeNull();
    expect(maybeRaw(store, id, 10 + all.length)).toBeNull();
    const wrong = [...all.keys()].filter((at) => textOf(maybeRaw(store, id, 10 + at)) !== textOf(given(all[at])));
    expect(wrong).toEqual([]);
    const backwards = [...all.keys()].reverse().filter((at) => !maybeRaw(store, id, 10 + at)?.equals(given(all[at])));
    expect(backwards).toEqual([]);
    expect(maybeRaw(store, id, 10 + 8, 1000)?.length).toBe(4 * 1024 * 1024);
  });

  test('numbers that are given anew have the new octets', () => {
    const [first, second] = [Buffer.from('one'), Buffer.from('another')];
    keep([first, second], 0);
    expect(textOf(maybeRaw(store, id, 1))).toBe('another');
    store.delete(rawPieces).run();
    keep([second, first], 0);
    expect(textOf(maybeRaw(store, id, 1))).toBe('one');
    store.delete(rawPieces).run();
    expect(maybeRaw(store, id, 1)).toBeNull();
  });
});
