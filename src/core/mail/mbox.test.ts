import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { MBOX_DEFAULTS, type MboxEntry, MessageTooLarge, readMbox, splitMbox, writeMboxEntry } from './mbox';

const octets = (text: string) => new TextEncoder().encode(text);
const text = (bytes: Uint8Array) => new TextDecoder().decode(bytes);
const read = (file: string, quoting: 'reversible' | 'old' = 'reversible'): MboxEntry[] => [
  ...splitMbox(octets(file), { quoting, largest: 1e9 }),
];
const FROM = 'From ann@mill.example Thu Jan  1 10:00:00 2026';

describe('mbox (RFC 4155)', () => {
  test('two messages, separated by a blank line that belongs to neither', () => {
    const entries = read(`${FROM}\nSubject: a\n\none\n\n${FROM}\nSubject: b\n\ntwo\n\n`);
    expect(entries.map((entry) => text(entry.raw))).toEqual(['Subject: a\n\none\n', 'Subject: b\n\ntwo\n']);
    expect(entries.map((entry) => entry.oddities)).toEqual([[], []]);
  });

  test('CRLF files read the same', () => {
    const entries = read(`${FROM}\r\nSubject: a\r\n\r\none\r\n\r\n${FROM}\r\nSubject: b\r\n\r\ntwo\r\n`);
    expect(entries.map((entry) => text(entry.raw))).toEqual(['Subject: a\r\n\r\none\r\n', 'Subject: b\r\n\r\ntwo\r\n']);
  });

  test('the two ways of quoting (common practice)', () => {
    const file = `${FROM}\nSubject: a\n\n>From here\n>>From there\n> From\n`;
    expect(text(given(read(file)[0]).raw)).toContain('\nFrom here\n>From there\n> From\n');
    expect(text(given(read(file, 'old')[0]).raw)).toContain('\nFrom here\n>>From there\n> From\n');
  });

  test('prose that begins with From is no separator', () => {
    expect(read(`${FROM}\nSubject: a\n\nwe walked.\n\nFrom the weir to the mill.\nIt was 10 miles\n`)).toHaveLength(1);
  });

  test('a separator without a date stands before a header', () => {
    expect(read(`From ann\nSubject: a\n\none\n\nFrom bob\nSubject: b\n\ntwo\n`)).toHaveLength(2);
  });

  test('what stands before the first separator is kept and said', () => {
    const entries = read(`rubbish\n\n${FROM}\nSubject: a\n\none\n`);
    expect(entries[0]).toMatchObject({ fromLine: null, oddities: ['no-separator'] });
    expect(text(given(entries[0]).raw)).toBe('rubbish\n');
  });

  test('a missing blank line, a cut end, a NUL and an empty message are said', () => {
    const entries = read(`${FROM}\nSubject: a\n\none\n${FROM}\n${FROM}\nSubject: b\0\n\ntw`);
    expect(entries.map((entry) => entry.oddities)).toEqual([[], ['no-blank-line-before', 'empty'], ['cut-off', 'nul']]);
  });

  test('binary rubbish and emptiness do not throw', () => {
    expect(read('')).toEqual([]);
    expect(read('\n\n')).toEqual([]);
    const rubbish = Uint8Array.from({ length: 5000 }, (_, at) => (at * 7919) & 255);
    expect([...splitMbox(rubbish)][0]?.raw).toEqual(rubbish);
  });

  test('writing and reading give the same octets', () => {
    const line = fc.oneof(fc.string(), fc.constantFrom('From x', '>From x', '>>From ', '', 'From'));
    fc.assert(
      fc.property(fc.array(fc.array(line, { maxLength: 6 }), { minLength: 1, maxLength: 5 }), (bodies) => {
        const raws = bodies.map((body) => octets(`Subject: s\n\n${body.join('\n')}\n`));
        const file = raws.map((raw) => text(writeMboxEntry({ fromLine: FROM, raw }))).join('');
        expect(read(file).map((entry) => text(entry.raw))).toEqual(raws.map(text));
      }),
      { numRuns: 500 },
    );
  });

  test('chunks of any size read the same', async () => {
    const body = `x`.repeat(5000);
    const file = octets(
      Array.from({ length: 6 }, (_, n) => `${FROM}\nSubject: ${n}\n\n>From ${body}\nFrom\n\n`).join(''),
    );
    const whole = [...splitMbox(file)];
    for (const size of [1, 3, 17, 4096, 5001]) {
      async function* chunks() {
        for (let at = 0; at < file.length; at += size) yield file.subarray(at, at + size);
      }
      const entries: MboxEntry[] = [];
      for await (const some of readMbox(chunks())) entries.push(...some);
      expect(entries).toEqual(whole);
    }
  });

  test('what comes before a message that is too large is read, whatever chunk it is in', async () => {
    const file = octets(`${FROM}\nSubject: 1\n\n\n${FROM}\nSubject: 2\n\n${'x'.repeat(500)}\n`);
    async function* chunks() {
      yield file;
    }
    const entries: MboxEntry[] = [];
    const reading = async () => {
      for await (const some of readMbox(chunks(), { ...MBOX_DEFAULTS, largest: 100 })) entries.push(...some);
    };
    await expect(reading()).rejects.toThrow(MessageTooLarge);
    expect(entries.map(({ raw }) => text(raw))).toEqual(['Subject: 1\n\n']);
  });
});
