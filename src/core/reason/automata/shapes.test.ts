import { describe, expect, test } from 'vitest';
import { SHAPES, type ShapeName } from './shapes';

/** Whether the automaton of a shape accepts a text. */
function isValue(name: ShapeName, text: string): boolean {
  const shape = SHAPES[name];
  let states = [shape.start];
  for (const character of text) states = states.flatMap((state) => shape.moves(state, character).map(({ to }) => to));
  return states.some((state) => shape.ends(state) !== 'no');
}

describe('values by RFC 5322 sections 3.2 to 3.4', () => {
  test.each<[ShapeName, string]>([
    ['text', ''],
    ['text', 'Planks, and more'],
    ['lines', ' two\nlines '],
    ['path', 'ann@mill.example'],
    ['path', '"ann lee"@mill.example'],
    ['path', 'ann@[192.0.2.1]'],
    ['mailbox', 'ann@mill.example'],
    ['mailbox', 'Ann Lee <ann@mill.example>'],
    ['mailbox', '<ann@mill.example>'],
    ['mailbox', '"Lee, Ann" <ann.lee@mill.example>'],
    ['mailbox', '石 <ann@mill.example>'],
    ['mailboxes', 'ann@mill.example, Bob <bob@mill.example>'],
    ['mailboxes', 'ann@mill.example,bob@mill.example'],
    ['mailboxes', 'undisclosed-recipients:;'],
    ['mailboxes', 'Team: ann@mill.example, bob@mill.example;'],
  ])('%s: “%s”', (shape, text) => {
    expect(isValue(shape, text)).toBe(true);
  });

  test.each<[ShapeName, string]>([
    ['text', ' begins with a blank'],
    ['text', 'ends with one '],
    ['text', 'two\nlines'],
    ['path', ''],
    ['path', 'ann'],
    ['path', 'ann@'],
    ['path', 'a..b@mill.example'],
    ['path', '.a@mill.example'],
    ['path', 'a@mill..example'],
    ['path', '"ann"@mill.example'],
    ['path', 'Ann <ann@mill.example>'],
    ['mailbox', ''],
    ['mailbox', 'Ann Lee'],
    ['mailbox', 'Ann <ann@mill.example'],
    ['mailbox', 'ann@mill.example, bob@mill.example'],
    ['mailboxes', 'ann@mill.example,'],
    ['mailboxes', 'Team: ann@mill.example'],
  ])('not %s: “%s”', (shape, text) => {
    expect(isValue(shape, text)).toBe(false);
  });
});
