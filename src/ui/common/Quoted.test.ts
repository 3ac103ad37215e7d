import { createElement } from 'react';
import { renderToStaticMarkup } from 'react-dom/server';
import { expect, test } from 'vitest';
import { Quoted } from './Quoted';

const shown = (sentence: string) => renderToStaticMarkup(createElement(Quoted, null, sentence));

test('what users wrote is isolated, our words are not', () => {
  expect(shown('“דואר” comes before “Bulk”.')).toBe('<bdi>“דואר”</bdi> comes before <bdi>“Bulk”</bdi>.');
  expect(shown('Nothing is quoted here.')).toBe('Nothing is quoted here.');
  expect(shown('A mark “ that is not closed, and “one” that is.')).toBe(
    'A mark “ that is not closed, and <bdi>“one”</bdi> that is.',
  );
});
