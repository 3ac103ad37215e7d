import { createElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { expect, test } from 'vitest';
import { RuleWords } from './RuleWords';

const markup = (depths: readonly number[] | null) =>
  renderToStaticMarkup(
    createElement(RuleWords, {
      rule: { sentence: 'All of it.', outline: depths?.map((depth, at) => ({ depth, text: `<${at}>` })) ?? null },
      className: 'words',
    }),
  ).replaceAll(/ class="[^"]*"/g, '');

test('a rule is one sentence where that is all it needs', () => {
  expect(markup(null)).toBe('<p>All of it.</p>');
});

test('lines stand within the one above that is less deep, whatever depths they have', () => {
  expect(markup([0, 1, 2, 2, 1, 0])).toBe(
    '<ul><li>&lt;0&gt;<ul><li>&lt;1&gt;<ul><li>&lt;2&gt;</li><li>&lt;3&gt;</li></ul></li><li>&lt;4&gt;</li></ul></li><li>&lt;5&gt;</li></ul>',
  );
  expect(markup([0, 3, 1])).toBe('<ul><li>&lt;0&gt;<ul><li>&lt;1&gt;</li><li>&lt;2&gt;</li></ul></li></ul>');
});
