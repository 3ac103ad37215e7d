import { describe, expect, test } from 'vitest';
import { conversationsOf, identifiersIn, type Ties } from './conversations';

const message = (messageId: string | null, ...references: string[]): Ties => ({ messageId, references });
const roots = (...messages: Ties[]) => [...conversationsOf(messages)];

describe('conversations (RFC 5322 section 3.6.4)', () => {
  test('an answer belongs to what it answers, whichever comes first', () => {
    expect(roots(message('a'), message('b', 'a'), message('x'))).toEqual([0, 0, 2]);
    expect(roots(message('b', 'a'), message('x'), message('a'))).toEqual([0, 1, 0]);
  });

  test('through one that is not there, and joined late', () => {
    expect(roots(message('b', 'gone'), message('c', 'gone'))).toEqual([0, 0]);
    expect(roots(message('a'), message('b'), message('c', 'b', 'a'))).toEqual([0, 0, 0]);
  });

  test('messages without an identifier stand alone, and two of the same are one conversation', () => {
    expect(roots(message(null), message(null), message('a'), message('a'))).toEqual([0, 1, 2, 2]);
  });

  test('a long chain of answers takes no long time, and no deep stack', () => {
    const chain = Array.from({ length: 200_000 }, (_, n) => message(`${n}`, `${n + 1}`));
    expect(new Set(conversationsOf(chain.reverse()))).toEqual(new Set([0]));
  });

  test('identifiers stand in angle brackets', () => {
    expect(identifiersIn('<a@x.example> (by phone) <b@x.example>')).toEqual(['a@x.example', 'b@x.example']);
    expect(identifiersIn('no identifier, < not one >')).toEqual([]);
  });
});
