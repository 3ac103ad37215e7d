import { describe, expect, test } from 'vitest';
import { ruleAt, rulesOf } from '../../../test/given';
import { envelopeOf, readMessage } from '../mail/message';
import { check } from '../sieve/check';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { chainFromSieve } from './from-sieve';
import { sentenceOf } from './sentence';
import { sieveFromChain } from './to-sieve';

const REQUIRE = 'require ["fileinto", "imap4flags"];\n';
const entries = (source: string) => chainFromSieve(REQUIRE + source).chain.entries;
const sentences = (source: string) => entries(source).map((one) => sentenceOf(one));

describe('rules from Sieve', () => {
  test('the name is the comment directly above, the rest is the note', () => {
    const [first, second, third] = entries(
      '# about the mill\n# Oak\nif true { keep; }\n\n# set off by a blank line\n\nif true { keep; } # behind\nif true { stop; }',
    );
    expect(first).toMatchObject({ name: 'Oak', note: 'about the mill' });
    expect(second).toMatchObject({ name: 'Rule 2', note: 'set off by a blank line' });
    expect(third).toMatchObject({ name: 'Rule 3', note: 'behind' });
  });

  test('a bracket comment names a rule too, and so does one above elsif', () => {
    const found = entries('/* Oak */\nif true { keep; }\n# Lime\nelsif true { stop; }\n# Rest\nelse { discard; }');
    expect(found.map(({ name }) => name)).toEqual(['Oak', 'Lime', 'Rest']);
    expect(rulesOf(found).map(({ link }) => link)).toEqual(['always', 'otherwise', 'otherwise']);
  });

  test('the first line of a bracket comment is the name; an else without a comment is named after its if', () => {
    const found = entries(
      '/* Oak\n * from the yard */\nif true { keep; }\nelse { stop; }\nif true { keep; } else { stop; }',
    );
    expect(found.map(({ name, note }) => [name, note])).toEqual([
      ['Oak', 'from the yard'],
      ['Oak, otherwise', ''],
      ['Rule 3', ''],
      ['Rule 4', ''],
    ]);
  });

  test('what is left to a run of branches is printed as else, unless another branch follows', () => {
    const written = (source: string) =>
      sieveFromChain(chainFromSieve(REQUIRE + source).chain).text.replace(/\s+/g, ' ');
    expect(written('if exists "a" { keep; } elsif true { discard; }')).toContain('else { discard; }');
    expect(written('if exists "a" { keep; } elsif true { discard; } else { stop; }')).toContain(
      'elsif true { discard; }',
    );
    expect(written('if true { discard; }')).toContain('if true');
  });

  test('lists of nothing, which Sieve does not have, are never written', () => {
    const rule = ruleAt(entries('if true { keep :flags ""; }'), 0);
    const leaf = {
      kind: 'leaf',
      test: { test: 'header', headers: ['a'], match: 'is', comparator: 'i;octet', keys: [] },
    } as const;
    const chain = {
      entries: [{ ...rule, tests: leaf, actions: [{ action: 'keep', flags: [] } as const] }],
      closing: '',
    };
    const { text } = sieveFromChain(chain);
    expect(text).toContain('if false');
    expect(chainFromSieve(text).diagnostics).toEqual([]);
  });

  test('negations beside other tests are exceptions', () => {
    const [rule] = rulesOf(
      entries('if allof (exists "a", not exists "b", not anyof (exists "c", exists "d")) { keep; }'),
    );
    expect(rule?.unless).toHaveLength(3);
    expect(rule?.tests).toEqual({ kind: 'leaf', test: { test: 'exists', headers: ['a'] } });
  });

  test('nested conditions become rules of their own', () => {
    const found = rulesOf(
      entries('# Oak\nif exists "a" { fileinto "x"; if exists "b" { fileinto "y"; stop; } keep; } else { discard; }'),
    );
    expect(found.map(({ kind, name }) => [kind, name])).toEqual([
      ['rule', 'Oak'],
      ['rule', 'Oak, continued'],
      ['rule', 'Oak, continued'],
      ['rule', 'Oak, otherwise'],
    ]);
    expect(found.map(({ ending }) => ending)).toEqual(['continue', 'stop', 'continue', 'continue']);
    expect(found.map((one) => sentenceOf(one))[3]).toBe('When the field A is missing: discard; later rules still run.');
  });

  test('what does not fit, or could not be read, stays word for word and says why', () => {
    const words = 'if hasflag "a" { addflag "b"; if hasflag "b" { keep; } }';
    expect(entries(words)).toMatchObject([
      { kind: 'script', text: words, works: true, reason: 'it tests flags that it changes itself' },
    ]);
    expect(entries('if true { stop; keep; }')).toMatchObject([{ kind: 'script', reason: 'commands follow a stop' }]);
    expect(entries('# Odd\nif vanish { discard; }\nkeep;')).toMatchObject([
      { kind: 'script', name: 'Odd', works: false, text: 'if vanish { discard; }' },
      { kind: 'rule' },
    ]);
  });

  test('an unknown extension is kept word for word with what it needs, and hides no rule', () => {
    const source = 'require ["fileinto", "vnd.oak"];\n# Odd\noak :ring 3 { beam; }\n# Plain\nfileinto "x";\n';
    const { chain, diagnostics } = chainFromSieve(source);
    expect(diagnostics.map(({ code }) => code)).toEqual(['unknown-capability', 'unknown-command', 'unknown-command']);
    expect(chain.entries).toMatchObject([
      { kind: 'script', name: 'Odd', works: false, text: 'oak :ring 3 { beam; }', requires: ['vnd.oak'] },
      { kind: 'rule', name: 'Plain' },
    ]);
    const { text } = sieveFromChain(chain);
    expect(text).toContain('# Odd: not understood, not run; it requires "vnd.oak"\n# | oak :ring 3');
    expect(chainFromSieve(text).diagnostics).toEqual([]);
    expect(chainFromSieve(sieveFromChain(chain, 'editing').text).chain.entries).toEqual(chain.entries);
    expect(chainFromSieve('require "vnd.oak";\nkeep;').chain.closing).toBe(
      'these required extensions are unknown: "vnd.oak"',
    );
  });

  test('the name of an unknown extension does not break out of the comment that tells of it', () => {
    const { chain } = chainFromSieve('require "x\ndiscard;";\n# Odd\nvanish;\nkeep;');
    const again = chainFromSieve(sieveFromChain(chain).text);
    expect(again.diagnostics).toEqual([]);
    expect(again.chain.entries).toMatchObject([{ kind: 'rule', actions: [{ action: 'keep' }] }]);
  });

  test('a script block says which test made it one', () => {
    expect(entries('if anyof (true, hasflag :count "ge" "1") { keep; }')).toMatchObject([
      { kind: 'script', works: true, reason: 'a rule cannot express the test hasflag' },
    ]);
  });

  test('words that are kept from being read as variables are read back as they were', () => {
    const kept = 'require ["variables"];\n# A\nif header :contains "subject" "$${nothing}{x}" { keep; }\n';
    expect(entries(kept)).toMatchObject([{ kind: 'rule', tests: { test: { keys: ['${x}'] } } }]);
    // Unless the name is used for something else, or nothing suggests a slip, the script itself defines it.
    expect(entries(`${kept}set "nothing" "y";`)).toMatchObject([{ kind: 'script' }, { kind: 'script' }]);
    expect(entries(kept.replace('nothing', 'folder'))).toMatchObject([{ kind: 'script' }]);
  });

  test('a missing require is a fault, but what is meant is plain', () => {
    const read = chainFromSieve('fileinto "x";');
    expect(read.diagnostics).toHaveLength(1);
    expect(read.chain.entries).toMatchObject([{ kind: 'rule' }]);
  });
});

describe('rules to Sieve', () => {
  test('only what is needed is required, and rules that are off are left out', () => {
    const { chain } = chainFromSieve('require ["fileinto", "imap4flags"];\n# A\nfileinto "x";\n# B\naddflag "y";\n');
    const off = { ...chain, entries: chain.entries.map((entry, at) => ({ ...entry, on: at === 0 })) };
    expect(sieveFromChain(off).text).toBe('require "fileinto";\n\n# A\nif true {\n    fileinto "x";\n}\n');
  });

  test('a run whose first rule is off begins with its next one', () => {
    const { chain } = chainFromSieve('# A\nif exists "a" { keep; }\n# B\nelsif exists "b" { stop; }');
    const off = { ...chain, entries: chain.entries.map((entry, at) => ({ ...entry, on: at !== 0 })) };
    expect(sieveFromChain(off).text).toBe('# B\nif exists "b" {\n    stop;\n}\n');
  });

  test('nothing in a name, a note or a folder breaks out', () => {
    const { chain } = chainFromSieve('require "fileinto";\nfileinto "x";');
    const hostile = 'a */ "; discard;\r\ndiscard; #\n stop;';
    const rule = { ...ruleAt(chain.entries, 0), name: hostile, note: hostile };
    const folder = { ...rule, actions: [{ action: 'fileinto' as const, folder: hostile, copy: false, flags: null }] };
    const again = chainFromSieve(sieveFromChain({ entries: [folder], closing: hostile }).text);
    expect(again.diagnostics).toEqual([]);
    expect(again.chain.entries).toHaveLength(1);
    expect(again.chain.entries[0]).toMatchObject({ actions: folder.actions, ending: 'continue' });
  });

  test('what could not be understood is exported as a comment', () => {
    const { chain } = chainFromSieve('# Odd\nif vanish { discard; }\nkeep;');
    const again = chainFromSieve(sieveFromChain(chain).text);
    expect(again.diagnostics).toEqual([]);
    expect(sieveFromChain(chain).text).toContain('# | if vanish { discard; }');
  });
});

describe('sentences', () => {
  test.each([
    [
      'if header :contains "subject" ["a", "b"] { fileinto "X"; stop; }',
      'When the subject contains “a” or “b”: file into “X”, then stop.',
    ],
    [
      'if allof (address :domain "from" "a.example", not header "subject" "x") { addflag "\\\\Seen"; }',
      'When the domain of From is “a.example”, unless the subject is “x”: mark as seen; later rules still run.',
    ],
    ['keep;', 'For every message: keep in the inbox; later rules still run.'],
    ['if size :over 2M { discard; }', 'When the message is larger than 2 MB: discard; later rules still run.'],
    ['stop;', 'For every message: stop.'],
  ])('%s', (source, sentence) => {
    expect(sentences(source)).toEqual([sentence]);
  });
});

describe('strings of rules beside script blocks that read strings in another way', () => {
  const VARIABLES =
    'require ["variables", "fileinto"];\n# Var\nif header :matches "subject" "*" { fileinto "${1}"; }\n';
  const ENCODED =
    'require ["encoded-character", "fileinto", "imap4flags"];\n# Enc\nif hasflag "a" { setflag "b"; if hasflag "b" { fileinto "${hex:40}"; } }\n';
  const plain =
    'require "fileinto";\n# Plain\nif header "subject" ["${x}", "${hex:40}", "$${${1}"] { fileinto "a"; }\n';
  const fates = (text: string, subject: string) => {
    const { script, diagnostics } = parse(text);
    expect([...diagnostics, ...check(script)]).toEqual([]);
    const message = readMessage(new TextEncoder().encode(`Subject: ${subject}\n\n`));
    return interpreter(script)(message, envelopeOf(message, null)).fate.deliveries.map(({ folder }) => folder);
  };

  // RFC 5229 section 3 and RFC 5228 section 2.4.2.4 have no escape, so the strings are written around it.
  test.each([
    ['variables', VARIABLES],
    ['encoded-character', ENCODED],
    ['both', `${VARIABLES}|${ENCODED}`],
  ])('they mean themselves where %s is required', (_what, others) => {
    const entries = [plain, ...others.split('|')].flatMap((source) => chainFromSieve(source).chain.entries);
    const chain = { entries: entries.map((entry, at) => ({ ...entry, id: `r${at}` })), closing: '' };
    const { text } = sieveFromChain(chain);
    for (const subject of ['${x}', '${hex:40}', '$${${1}']) expect(fates(text, subject)).toContain('a');
    expect(fates(text, '@')).not.toContain('a');
    expect(fates(text, '')).not.toContain('a');
  });

  test('a script block too keeps its meaning', () => {
    const block =
      'require ["imap4flags", "fileinto"];\n# Block\nif hasflag "a" { setflag "b"; if hasflag "b" { keep; } } else { fileinto "${x}"; }\n';
    const entries = [block, VARIABLES].flatMap((source) => chainFromSieve(source).chain.entries);
    const { text } = sieveFromChain({ entries: entries.map((entry, at) => ({ ...entry, id: `r${at}` })), closing: '' });
    expect(fates(text, 'oak')).toEqual(['${x}', 'oak']);
  });
});
