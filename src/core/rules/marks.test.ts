import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { chainFromSieve } from './from-sieve';
import { markedName, notedLine, noteOf, TOLD_MARK, tidyNote, unmarked } from './marks';
import { editingText, readRewrite } from './rewrite';
import type { Chain } from './rule';
import { sieveFromChain } from './to-sieve';

const hostile = fc.oneof(
  fc.constantFrom('»', '» told', '\\» x', '\\\\»', ' » y', 'off: a', 'ON:', 'on: off: on:', '#', '*/', ''),
  fc.string({ unit: 'binary' }).map((text) => text.replace(/[\r\n\0]/g, '')),
);

/** One rule in which only the name and the note matter. */
const ruleWith = (name: string, note: string, on = true): Chain => ({
  entries: [
    {
      kind: 'rule',
      id: 'r1',
      name,
      note,
      on,
      link: 'always',
      tests: { kind: 'leaf', test: { test: 'exists', headers: ['Subject'] } },
      unless: [],
      actions: [{ action: 'discard' }],
      ending: 'stop',
    },
  ],
  closing: '',
});

describe('names', () => {
  test('whatever they are, tell whether their rule is on', () => {
    fc.assert(
      fc.property(hostile, fc.boolean(), (text, on) => {
        const name = text.trim() || 'x';
        expect(unmarked(markedName({ name, on }))).toEqual({ name, on });
      }),
    );
  });
});

describe('notes', () => {
  test('a line that begins like what an export tells is no such thing', () => {
    fc.assert(
      fc.property(hostile, (text) => {
        const line = text.trim();
        const written = notedLine(line);
        expect(written.startsWith(TOLD_MARK.trim())).toBe(false);
        expect(noteOf(written)).toBe(line);
      }),
    );
    expect(noteOf(`${TOLD_MARK}When the subject contains “a”: drop it`)).toBeNull();
  });

  test('are read back as they were written, in an export with sentences too', () => {
    fc.assert(
      fc.property(fc.array(hostile, { maxLength: 4 }), fc.boolean(), (lines, sentences) => {
        const chain = ruleWith('Oak', tidyNote(lines.join('\n')));
        const { text } = sieveFromChain(chain, 'export', { sentences });
        expect(chainFromSieve(text).chain).toEqual(chain);
      }),
    );
  });

  test('with empty lines and indented ones are no change when their text is left as it is', () => {
    const chain = ruleWith('Oak', '\n  first\n\n   second, indented\r\nthird  \n\n', false);
    expect(readRewrite(chain, null, editingText(chain, null))).toMatchObject({ edit: null, diagnostics: [] });
  });

  test('are tidy once they are', () => {
    expect(tidyNote('\n\n a \r\n\r\n b\r\n \n')).toBe('a\n\nb');
    fc.assert(
      fc.property(fc.string(), (note) => {
        expect(tidyNote(tidyNote(note))).toBe(tidyNote(note));
      }),
    );
  });
});
