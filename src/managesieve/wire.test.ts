import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ScramClient, ScramFault } from './scram';
import { LineReader, WireFault, written } from './wire';

const linesOf = (...octets: readonly (string | Uint8Array)[]) => {
  const reader = new LineReader();
  const lines = [];
  for (const piece of octets) {
    reader.add(typeof piece === 'string' ? Buffer.from(piece) : piece);
    for (let line = reader.next(); line; line = reader.next()) lines.push(line);
  }
  return lines;
};

describe('lines', () => {
  test('of words, lists, quoted strings and literals', () => {
    expect(linesOf('OK (WARNINGS) "a \\"b\\" \\\\"\r\n{3}\r\na\r\n ACTIVE\r\n')).toEqual([
      [
        { kind: 'atom', value: 'OK' },
        { kind: 'list', items: [{ kind: 'atom', value: 'WARNINGS' }] },
        { kind: 'string', value: 'a "b" \\' },
      ],
      [
        { kind: 'string', value: 'a\r\n' },
        { kind: 'atom', value: 'ACTIVE' },
      ],
    ]);
  });

  test('are read the same however they come in', () => {
    const text = fc.string({ unit: 'grapheme' }).filter((value) => !value.includes('\0'));
    fc.assert(
      fc.property(
        fc.array(text, { minLength: 1 }),
        fc.constantFrom('client' as const, 'server' as const),
        fc.nat(),
        (words, from, cut) => {
          const octets = Buffer.concat([
            ...words.flatMap((word) => [written(word, from), Buffer.from(' ')]),
            Buffer.from('\r\n'),
          ]);
          const at = cut % (octets.length + 1);
          const [line, more] = linesOf(octets.subarray(0, at), octets.subarray(at));
          expect(more).toBeUndefined();
          expect(line?.map((word) => (word.kind === 'list' ? null : word.value))).toEqual(words);
        },
      ),
    );
  });

  test.each(['"a\nb"\r\n', ')\r\n', '{x}\r\n', '{5}x\r\n', 'a\rb\r\n', `${'('.repeat(20)}\r\n`])(
    '%j is refused',
    (text) => {
      expect(() => linesOf(text)).toThrow(WireFault);
    },
  );
});

describe('SCRAM-SHA-256', () => {
  test('as in the example of RFC 7677 section 3', () => {
    const client = new ScramClient('user', 'pencil', 'rOprNGfwEbeRWgbNEkqO');
    expect(client.first()).toBe('n,,n=user,r=rOprNGfwEbeRWgbNEkqO');
    const nonce = 'rOprNGfwEbeRWgbNEkqO%hvYDpWUa2RaTCAfuxFIlj)hNlF$k0';
    expect(client.final(`r=${nonce},s=W22ZaJ0SNY7soEsUEjb6gQ==,i=4096`)).toBe(
      `c=biws,r=${nonce},p=dHzbZapWIk4jUhN+Ute9ytag9zjfMHgsqmmiz7AndVQ=`,
    );
    expect(() => client.checkServer('v=6rriTRBi23WpRR/wtup+mMhUZUn/dB5nLTJRsjl95G4=')).not.toThrow();
    expect(() => client.checkServer('v=AAAATRBi23WpRR/wtup+mMhUZUn/dB5nLTJRsjl95G4=')).toThrow(ScramFault);
    expect(() => client.checkServer('e=other-error')).toThrow(ScramFault);
  });
  test('a server that adds nothing of its own, or asks for too few rounds, is not trusted', () => {
    const client = new ScramClient('a=b,c', 'x', 'abc');
    expect(client.first()).toBe('n,,n=a=3Db=2Cc,r=abc');
    expect(() => client.final('r=abc,s=AAAA,i=4096')).toThrow(ScramFault);
    expect(() => client.final('r=other,s=AAAA,i=4096')).toThrow(ScramFault);
    expect(() => client.final('r=abcd,s=AAAA,i=1')).toThrow(ScramFault);
    expect(() => client.final('r=abcd,s=AAAA,i=99999999')).toThrow(ScramFault);
  });
});
