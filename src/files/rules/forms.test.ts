import { describe, expect, test } from 'vitest';
import { chainFromSieve } from '../../core/rules/from-sieve';
import type { Chain } from '../../core/rules/rule';
import { sentenceOf } from '../../core/rules/sentence';
import { keysOf } from '../../core/text/lookup';
import { RULES_FORMS, rulesForm } from './forms';

const octets = (text: string) => new TextEncoder().encode(text);
/** Each format assigns new ids. */
const sayings = ({ entries }: Chain) => entries.map((entry) => [entry.name, sentenceOf(entry)]);

const { chain } = chainFromSieve(`require ["fileinto", "imap4flags"];
# Oak
if header :contains "subject" ["oak", "beam"] { fileinto "Works/Oak"; stop; }
# Not from Ann
if not address :is "from" "ann@mill.example" { addflag "\\\\Flagged"; }
`);

describe('forms of rules', () => {
  test.each([
    ['rules.csv', 'Rule,Subject has\n', 'sheet'],
    ['rules.TSV', 'Rule\tSubject has\n', 'sheet'],
    ['rules.json', '{ "format": "ysomeris-chain" }', 'json'],
    ['rules', '\ufeff {"format": "x"}', 'json'],
    ['rules.txt', '<?xml version="1.0"?><sieve/>', 'xml'],
    ['rules.txt', 'Bills: from a@b.example into Bills\n', 'sentences'],
    ['rules.txt', '# Bills\nif address :is "from" "a@b.example" { keep; }', 'sieve'],
    ['rules.sieve', 'keep;', 'sieve'],
    ['rules', '', 'sieve'],
  ])('%s with %s is %s', (name, text, form) => {
    expect(rulesForm(name, octets(text))).toBe(form);
  });

  test.each(keysOf(RULES_FORMS))(
    '%s: what is written is told as that form, and read back as the same rules',
    (name) => {
      const text = RULES_FORMS[name].write(chain);
      const fileName = { sheet: 'rules.csv', sentences: 'rules.txt', json: 'rules', xml: 'rules', sieve: 'rules' }[
        name
      ];
      expect(rulesForm(fileName, octets(text))).toBe(name);
      const read = RULES_FORMS[name].read(octets(text));
      expect(read).toMatchObject({ ok: true, faults: [] });
      if (read.ok) expect(sayings(read.chain)).toEqual(sayings(chain));
    },
  );

  test.each([
    ['sheet', 'a,b\n1,2\n', 'no column “Rule”'],
    ['json', '{ "format": "other" }', 'contains no rules'],
    ['json', '{ "format"', 'contains no rules'],
    ['xml', '<sieve xmlns="urn:ietf:params:xml:ns:sieve"><control>', ''],
  ] as const)('%s that is none is refused: %s', (name, text, reason) => {
    const read = RULES_FORMS[name].read(octets(text));
    expect(read.ok).toBe(false);
    if (!read.ok) expect(read.reason).toContain(reason);
  });

  test('what is wrong in a script is told by its place, and by the rule that it concerns', () => {
    const read = RULES_FORMS.sieve.read(octets('# A\nkeep;\n# B\nvanish;\n'));
    expect(read).toMatchObject({ ok: true, faults: [{ at: '4:1', entry: 1 }] });
  });
});
