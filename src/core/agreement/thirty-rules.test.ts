import { expect, test } from 'vitest';
import { THIRTY } from '../../../test/thirty-rules';
import { compareChains } from '../reason/equivalence';
import type { Chain, Rule } from '../rules/rule';
import { sentenceOf } from '../rules/sentence';
import { named, ruleOfRow } from '../rules/sheet';
import { readTold } from '../rules/told/read';
import { toldLine } from '../rules/told/told';

const ME = ['maren@mill.example'];

function toldRule(line: string, at: number): Rule {
  const read = readTold(line, `r${at}`, { me: ME, folders: [] });
  expect({ line, unread: read?.unread, remarks: read?.remarks }).toEqual({ line, unread: [], remarks: [] });
  return read?.rule ?? expect.unreachable();
}

test('thirty rules by sentence, by sheet and by pasted list are the same chain (need N38)', () => {
  expect(THIRTY).toHaveLength(30);
  const chainOf = (entries: readonly Rule[]): Chain => ({ entries, closing: '' });
  const sentences = THIRTY.map(({ sentence }, at) => toldRule(sentence, at));
  const listed = THIRTY.map((one, at) => toldRule(one.listed, at));
  const rows = THIRTY.map(({ cells }, at) => {
    const reading = ruleOfRow(named(cells), `r${at}`, ME);
    return reading.ok ? reading.rule : expect.unreachable(JSON.stringify(reading.faults));
  });
  expect(rows.map((rule) => sentenceOf(rule))).toEqual(sentences.map((rule) => sentenceOf(rule)));
  expect(listed.map((rule) => sentenceOf(rule))).toEqual(sentences.map((rule) => sentenceOf(rule)));
  for (const other of [rows, listed]) {
    expect(compareChains(chainOf(sentences), chainOf(other)).verdict).toBe('equivalent');
  }
});

test('the thirty rules are written in words alone, whatever they are called, and read back', () => {
  for (const [at, { sentence }] of THIRTY.entries()) {
    const rule = toldRule(sentence, at);
    // A name that says something of itself, such as an address, stands in quotation marks.
    for (const name of [rule.name, 'Oak', 'attachment', 'ben@mill.example', 'to me']) {
      const line = toldLine({ ...rule, name });
      expect(line).not.toContain('Sieve');
      const back = toldRule(line, at);
      expect([back.name, sentenceOf(back)]).toEqual([name, sentenceOf(rule)]);
    }
  }
});
