import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { htmlToText } from './html';

describe('the words of HTML (RFC 5173 section 5.3)', () => {
  test.each([
    ['<p>The <b>weir</b> is open.</p><p>Come.</p>', 'The weir is open.\nCome.'],
    ['one<br>two<br/>three', 'one\ntwo\nthree'],
    ['<style>p { color: red }</style>words<script>if (a < b) alert("x")</script>', 'words'],
    ['<head><title>no</title></head><body>yes</body>', 'yes'],
    ['<!-- <p>no</p> -->yes', 'yes'],
    ['<!-- never closed', ''],
    ['a < b and b > c', 'a < b and b > c'],
    ['fish &amp; chips &lt;here&gt; &#252; &#xFC; &uuml;', 'fish & chips <here> ü ü ü'],
    ['&#0; &#xD800; &#x110000; &nosuch;', '\ufffd \ufffd \ufffd &nosuch;'],
    ['w&#101;ir', 'weir'],
    ['we<span></span>ir', 'weir'],
    ['<a href="https://x.example/">li', 'li'],
    ['<p', ''],
    ['', ''],
    ['  many \t blanks  \n\n\n and lines ', 'many blanks\nand lines'],
  ])('%j: %j', (html, words) => expect(htmlToText(html)).toBe(words));

  test('text without a mark is itself, and rubbish takes time in proportion to its length', () => {
    fc.assert(
      fc.property(fc.string({ unit: fc.constantFrom('a', 'b', 'ü', '水'), maxLength: 40 }), (text) => {
        expect(htmlToText(text)).toBe(text);
      }),
    );
    for (const piece of ['<', '<!--', '&', '<a ', '</', '&#', '<script>']) {
      expect(htmlToText(piece.repeat(200_000)).length).toBeLessThanOrEqual(piece.length * 200_000);
    }
  });
});
