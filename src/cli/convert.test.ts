import { describe, expect, test } from 'vitest';
import { cli, write } from '../../test/cli';
import { LINES, MBOX, ONE, parsed, RULES, TWO } from '../../test/cli-data';

describe('convert', () => {
  test('to XML and back: the same fates', () => {
    const xml = cli('convert', '--rules', RULES, '--to', 'xml');
    expect([xml.status, xml.err]).toEqual([0, '']);
    const file = write('rules.xml', xml.out);
    const { out } = cli('simulate', '--rules', file, '--messages', MBOX, '--me', 'me@mill.example');
    expect(parsed(out).map((line) => ({ ...line, fired: [] }))).toEqual(LINES.map((line) => ({ ...line, fired: [] })));
    expect(cli('check', file).status).toBe(0);
  });
  test('to Sieve and JSON, with what is lost on standard error', () => {
    const sieve = cli('convert', '--rules', RULES, '--to', 'sieve');
    expect(cli('check', write('again.sieve', sieve.out)).status).toBe(0);
    const broken = cli('convert', '--rules', write('broken.sieve', 'keep;\nvanish;'), '--to', 'json');
    expect(broken.status).toBe(1);
    expect(parsed(broken.err)).toMatchObject([{ kind: 'fault' }, { kind: 'loss', text: 'vanish;' }]);
    expect(JSON.parse(broken.out)).toMatchObject({
      format: 'ysomeris-chain',
      entries: [{ kind: 'rule' }, { kind: 'script' }],
    });
  });
});

test('to a target, with the costs on standard error', () => {
  const rules = write(
    'costs.sieve',
    'require ["fileinto", "copy", "body"];\n# A\nif true { fileinto :copy "A"; }\n# B\nif body "x" { discard; }\n',
  );
  const { out, err, status } = cli('convert', '--rules', rules, '--to', 'sieve', '--target', 'fileinto');
  expect(status).toBe(0);
  expect(out).toBe('require "fileinto";\n\n# A\nif true {\n    fileinto "A";\n    keep;\n}\n');
  expect(parsed(err)).toMatchObject([
    { kind: 'cost', rule: 'A', without: 'copy' },
    { kind: 'loss', rule: 'B', without: 'body' },
  ]);
  expect(cli('convert', '--rules', rules, '--to', 'sieve', '--target', 'core').out).not.toContain('fileinto');
  expect(cli('convert', '--rules', rules, '--to', 'sieve', '--target', 'nonsense').status).toBe(1);
});

test('to a sheet and back: the same fates; what is wrong in a sheet is told by its row', () => {
  const sheet = cli('convert', '--rules', RULES, '--to', 'sheet');
  expect([sheet.status, sheet.err]).toEqual([0, '']);
  const file = write('rules.csv', sheet.out);
  const { out } = cli('simulate', '--rules', file, '--messages', MBOX, '--me', 'me@mill.example');
  expect(parsed(out)).toEqual(LINES);
  const broken = cli('convert', '--rules', write('broken.csv', 'Rule,Redirect to\nA,nobody\n'), '--to', 'sieve');
  expect(broken.status).toBe(1);
  expect(broken.err).toContain('broken.csv:2: Redirect to: “nobody” is not a complete address.');
  expect(cli('convert', '--rules', write('other.csv', 'a,b\n1,2\n'), '--to', 'sieve').err).toContain(
    'no column “Rule”',
  );
});

test('to sentences and back: the same fates; words that are not understood are told by their line', () => {
  const sentences = cli('convert', '--rules', RULES, '--to', 'sentences');
  expect([sentences.status, sentences.err]).toEqual([0, '']);
  const file = write('rules.txt', sentences.out);
  const { out } = cli('simulate', '--rules', file, '--messages', MBOX, '--me', 'me@mill.example');
  expect(parsed(out)).toEqual(LINES);
  expect(cli('check', file)).toMatchObject({ status: 0, err: '' });
  const told = write(
    'told.txt',
    '# from my notes\nBills: from a@b.example into Bills\nsent only to me, when it rains, into Wet\n',
  );
  const broken = cli('check', told);
  expect(broken.status).toBe(1);
  expect(broken.err).toContain('told.txt:3:26: “rains” is not understood');
  expect(broken.err).toContain('told.txt:3:1: Your own addresses are not known yet.');
  const json = cli('convert', '--rules', told, '--to', 'json');
  expect(JSON.parse(json.out).entries).toMatchObject([
    { name: 'Bills', note: 'from my notes', on: true },
    { on: false, note: 'Told as: sent only to me, when it rains, into Wet' },
  ]);
});

describe('rules in JSON', () => {
  test('are read back: the same fates, and the same document again', () => {
    const document = cli('convert', '--rules', RULES, '--to', 'json').out;
    const file = write('rules.json', document);
    const { out } = cli('simulate', '--rules', file, '--messages', MBOX, '--me', 'me@mill.example');
    expect(parsed(out)).toEqual(LINES);
    expect(JSON.parse(cli('convert', '--rules', file, '--to', 'json').out)).toEqual(JSON.parse(document));
    expect(cli('check', file)).toMatchObject({ status: 0, err: '' });
  });
  test('of a whole audit are its rules as they are now, and its mail is read from the same file', () => {
    const { entries, closing } = JSON.parse(cli('convert', '--rules', RULES, '--to', 'json').out);
    const mail = [ONE, TWO].map((letter) => {
      const raw = Buffer.from(letter).toString('base64');
      return { folder: 'INBOX', flags: [], received: null, fromLine: null, oddities: [], raw };
    });
    const audit = { format: 'ysomeris-audit', version: 1, draft: { entries, closing }, mail };
    const file = write('audit.json', JSON.stringify(audit));
    const { out } = cli('simulate', '--rules', file, '--messages', file, '--me', 'me@mill.example');
    expect(parsed(out)).toEqual(LINES.slice(0, 2));
  });
  test.each([
    ['{"format":"other"}', 'it contains no rules'],
    ['{"format":"ysomeris-chain","version":2}', 'it has version 2'],
    ['{"format":"ysomeris-chain","version":1,"entries":[{}]}', 'it is damaged at entries.0'],
    ['{"format":"ysomeris-chain"', 'it is not JSON, or it is truncated'],
  ])('%s is told', (text, told) => {
    const { status, err } = cli('check', write('bad.json', text));
    expect([status, err]).toEqual([1, expect.stringContaining(told)]);
  });
});

describe('header edits that a server cannot be told', () => {
  test('are told as lost, and what they cost the rules that look at them, also of a chain that was read from JSON', () => {
    const source = write(
      'edits.sieve',
      'require ["editheader", "fileinto"];\n# Practice\naddheader "X-Practice" "yes";\n# Seen\nif header :is "X-Practice" "yes" { fileinto "Seen"; }\n# Oak\nif header :contains "subject" "oak" { keep; }\n',
    );
    const json = write('edits.json', cli('convert', '--rules', source, '--to', 'json').out);
    for (const rules of [source, json]) {
      const { out, err } = cli('convert', '--rules', rules, '--to', 'sieve', '--target', 'fileinto');
      expect(out).not.toContain('addheader');
      expect(parsed(err).map((line) => [line.kind, line.rule])).toEqual([
        ['loss', 'Practice'],
        ['cost', 'Seen'],
      ]);
      expect(cli('convert', '--rules', rules, '--to', 'sieve')).toMatchObject({ status: 0, err: '' });
    }
  });
});
