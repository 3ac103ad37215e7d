import fc from 'fast-check';
import { XMLValidator } from 'fast-xml-parser';
import { describe, expect, test } from 'vitest';
import { fullScriptText, scriptText } from '../agreement/arbitrary';
import { withoutSpans } from '../agreement/compare';
import { parse } from './parse';
import { print } from './print';
import { readXml, writeXml } from './xml';

function again(source: string) {
  const { script } = parse(source);
  const xml = writeXml(script);
  expect(XMLValidator.validate(xml)).toBe(true);
  const read = readXml(xml);
  if (!read.ok) throw new Error(read.message);
  return { before: script, after: read.script, xml };
}

describe('Sieve in XML (RFC 5784)', () => {
  test('the names of its elements', () => {
    const { xml } = again('require "fileinto";\nif header :is "a" ["b", "c"] { fileinto "x"; stop; }');
    expect(xml).toBe(`<?xml version="1.0" encoding="UTF-8"?>
<sieve xmlns="urn:ietf:params:xml:ns:sieve" xmlns:own="urn:x-ysomeris:sieve-tree">
  <control name="require">
    <str>fileinto</str>
  </control>
  <control name="if">
    <test name="header">
      <tag>is</tag>
      <str>a</str>
      <list><str>b</str><str>c</str></list>
    </test>
    <action name="fileinto">
      <str>x</str>
    </action>
    <control name="stop">
    </control>
  </control>
</sieve>
`);
  });

  test('what has no place in the schema comes back too', () => {
    const source =
      '# a\n/* b */ if /* in */ anyof (size :over 5K) { # c\n keep; }\nredirect text:\n<&> \t\r\n.\n;\nunknown (true) { }\n# end\n';
    const { before, after } = again(source);
    expect(withoutSpans({ ...after, source: '' })).toEqual(withoutSpans({ ...before, source: '' }));
  });

  test('generated scripts come back as the very same trees', () => {
    const commented = fc
      .tuple(fc.oneof(scriptText, fullScriptText), fc.string({ unit: 'binary', maxLength: 20 }))
      .map(
        ([source, words]) =>
          `${source}# ${words.replace(/[\r\n\0]/g, ' ')}\nredirect ${JSON.stringify(words.replace(/[\\"\0]/g, ''))};`,
      );
    fc.assert(
      fc.property(commented, (source) => {
        const { before, after } = again(source);
        expect(withoutSpans(after.commands)).toEqual(withoutSpans(before.commands));
        expect(print(after)).toBe(print(before));
      }),
      { numRuns: 500 },
    );
  });

  test('a document of another hand, in plain RFC 5784', () => {
    const read = readXml(`<sieve xmlns="urn:ietf:params:xml:ns:sieve">
      <control name="if"><test name="not"><test name="exists"><list><str>From</str><str>Date</str></list></test></test>
        <action name="discard"/></control></sieve>`);
    expect(read.ok && print(read.script)).toBe('if not exists ["From", "Date"] {\n    discard;\n}\n');
  });

  test.each([
    ['not XML', 'keep;'],
    ['a broken element', '<sieve><control name="stop"></sieve>'],
    ['another root', '<html></html>'],
    ['no name', '<sieve><action/></sieve>'],
    ['a bad number', '<sieve><control name="if"><test name="size"><num>5X</num></test></control></sieve>'],
    ['entities of its own', '<!DOCTYPE sieve [<!ENTITY a "aa">]><sieve><action name="keep"/></sieve>'],
    ['a block where none can be', '<sieve><action name="keep"><action name="stop"/></action></sieve>'],
    ['endless nesting', `<sieve>${'<control name="if">'.repeat(500)}${'</control>'.repeat(500)}</sieve>`],
  ])('%s is refused with a reason', (_what, text) => {
    expect(readXml(text)).toMatchObject({ ok: false, message: expect.any(String) });
  });
});
