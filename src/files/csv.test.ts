import fc from 'fast-check';
import { expect, test } from 'vitest';
import { decodeText, readCsv, writeCsv } from './csv';

test('cells are parted by commas, semicolons or tabs, and quoted ones hold anything', () => {
  expect(readCsv('Rule,Folder\r\n"a, ""b""\nc",d\r\n\r\n').rows).toEqual([
    ['Rule', 'Folder'],
    ['a, "b"\nc', 'd'],
  ]);
  expect(readCsv('\uFEFFRule;Folder\na;b').rows).toEqual([
    ['Rule', 'Folder'],
    ['a', 'b'],
  ]);
  expect(readCsv('Rule\tFolder\na\tb').rows[1]).toEqual(['a', 'b']);
});

test('a quote that is never closed is told', () => {
  expect(readCsv('a,"b\nc,d').odd.join()).toMatch(/quote/i);
});

test('no cell is a formula to a spreadsheet, and all are read back', () => {
  const formulas = ['=1+1', '+SUM(A1)', '-2', '@x', '\t=1', "'=1"];
  const text = writeCsv([formulas]);
  for (const cell of text.trim().split(',')) expect(cell).not.toMatch(/^"?[=+\-@\t]/);
  const cell = fc.string().filter((one) => !/^'[=+\-@\t\r]/.test(one));
  fc.assert(
    fc.property(fc.array(fc.tuple(fc.constant('x'), cell, cell), { minLength: 2 }), (rows) => {
      expect(readCsv(writeCsv([['a', 'b', 'c'], ...rows])).rows.slice(1)).toEqual(rows);
    }),
  );
});

test('files are read in the encoding that they are in', () => {
  const utf16 = new Uint8Array([0xff, 0xfe, 0x4f, 0x00, 0x61, 0x01]);
  expect(decodeText(utf16)).toBe('Oš');
  expect(decodeText(new Uint8Array([0xc3, 0xa4]))).toBe('ä');
  expect(decodeText(new Uint8Array([0xe4, 0x20]))).toBe('ä ');
});
