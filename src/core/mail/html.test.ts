import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { browserText } from '../agreement/browser-text';
import { htmlToText } from './html';

describe('the words of HTML (RFC 5173 section 5.3)', () => {
  test.each([
    ['<p>The <b>weir</b> is open.</p><p>Come.</p>', 'The weir is open.\nCome.'],
    ['one<br>two<br/>three', 'one\ntwo\nthree'],
    ['<style>p { color: red }</style>words<script>if (a < b) alert("x")</script>', 'words'],
    ['<head><title>no</title></head><body>yes</body>', 'yes'],
    ['<!-- <p>no</p> -->yes', 'yes'],
    ['<!-- never closed', ''],
    // Real mail: a browser begins the body where words begin.
    ['<html><head><title>no</title><body>yes', 'yes'],
    ['<html><head>\n<p>yes</p>', 'yes'],
    ['<table><tr><td>one</td><td>two</td></tr><tr><td>three</table>', 'one two\nthree'],
    ['<b><i>one</b> two</i> three', 'one two three'],
    [
      'Jos&eacute; Le&oacute;n &ldquo;weir&rdquo; &hellip; &#147;mill&#148; &#x80;5&nbsp;000 &rarr; &notin;',
      'José León “weir” … “mill” €5\u00a0000 → ∉',
    ],
    ['<!--[if mso]>no<![endif]-->yes', 'yes'],
    ['<SCRIPT>no</Script >yes', 'yes'],
    ['<style><!-- p > a { } --></style>yes', 'yes'],
    ['<a title="a > b">yes</a>', 'yes'],
    ['one<!-->two', 'onetwo'],
    ['a < b and b > c', 'a < b and b > c'],
    ['fish &amp; chips &lt;here&gt; &#252; &#xFC; &uuml;', 'fish & chips <here> ü ü ü'],
    ['&#0; &#xD800; &#x110000; &nosuch;', '\ufffd \ufffd \ufffd &nosuch;'],
    ['w&#101;ir', 'weir'],
    ['we<span></span>ir', 'weir'],
    ['<a href="https://x.example/">li', 'li'],
    ['<p', ''],
    ['', ''],
    ['  many \t blanks  \n\n\n and lines ', 'many blanks and lines'],
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

  test('are those of the tree that a browser builds, whatever is left open or misnested (parse5)', () => {
    const piece = fc.constantFrom(
      ...[
        '<b>',
        '</b>',
        '<p>',
        '</p>',
        '<head>',
        '</head>',
        '<body>',
        '<title>',
        '</title>',
        '<script>',
        '</script>',
        '<div',
        ' a="x>y"',
        '>',
      ],
      ...[
        '<table>',
        '<tr>',
        '<td>',
        '</table>',
        '<!--',
        '-->',
        '<br/>',
        '&lt;',
        '&oacute',
        '&#151;',
        'word',
        ' ',
        '\n',
        '<',
        '&',
        '<style>',
        '</style>',
      ],
    );
    const bare = (text: string) => text.replace(/[ \t\n\f]+/g, '');
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 25 }), (pieces) => {
        const html = pieces.join('');
        // The words of a table that stand in no cell are moved before it: order aside, they are the same.
        const sorted = (text: string) => Array.from(bare(text)).sort().join('');
        expect(sorted(htmlToText(html))).toBe(sorted(browserText(html)));
      }),
      { numRuns: 2000 },
    );
  });

  test('a tag of a megabyte and 100,000 tags within each other are read in proportion to their length', () => {
    expect(htmlToText(`<a title="${'x'.repeat(1_000_000)}">yes`)).toBe('yes');
    expect(htmlToText(`${'<div>'.repeat(100_000)}yes`)).toBe('yes');
    expect(htmlToText(`${'<i>'.repeat(100_000)}yes${'</b>'.repeat(100_000)}`)).toBe('yes');
    expect(htmlToText(`a${' '.repeat(1_000_000)}b`)).toBe('a b');
  });
});
