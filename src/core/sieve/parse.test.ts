import { describe, expect, test } from 'vitest';
import { check } from './check';
import { listing } from './diagnostics';
import { parse } from './parse';

const faults = (source: string): string[] => {
  const { script, diagnostics } = parse(source);
  return listing('f', source, [...diagnostics, ...check(script)]);
};

describe('tokens (RFC 5228 section 8.1)', () => {
  const firstString = (source: string) => {
    const command = parse(source).script.commands[0];
    const argument = command?.kind === 'command' ? command.args[0] : undefined;
    return argument?.kind === 'string' ? argument.value : undefined;
  };

  test('quoted strings: a backslash makes any character stand for itself (section 2.4.2)', () => {
    expect(firstString('redirect "a\\"b\\\\c\\d";')).toBe('a"b\\cd');
    expect(firstString('redirect "two\nlines";')).toBe('two\nlines');
  });

  test('multi-line text: dot-stuffing, a comment behind text:, CRLF line ends (section 2.4.2)', () => {
    expect(firstString('redirect text: # words\n..dot\nplain\n.\n;')).toBe('.dot\r\nplain\r\n');
    expect(firstString('redirect text:\r\n.\r\n;')).toBe('');
  });

  test('numbers with quantifiers are powers of 1024 (section 2.4.1)', () => {
    const command = parse('if size :over 2k { keep; }').script.commands[0];
    const argument = command?.kind === 'command' ? command.tests[0]?.args[1] : undefined;
    expect(argument).toMatchObject({ kind: 'number', value: 2048, quantifier: 'K' });
  });

  test('comments of both kinds, identifiers and tags without regard to case (sections 2.1, 2.3)', () => {
    expect(faults('# a\n/* b\nc */ IF Header :IS "subject" "x" { KEEP; }')).toEqual([]);
  });
});

describe('faults are told with line and column, all of them in one go', () => {
  test.each([
    ['keep', ['f:1:5: expected ; or {, found the end of the script (RFC 5228 section 8.2)']],
    ['keep;\n}\nkeep;', ['f:2:1: this } closes no block (RFC 5228 section 8.2)']],
    ['if true {\n  keep;\n', ['f:1:9: this block has no closing } (RFC 5228 section 8.2)']],
    ['redirect "a@b.example;\nkeep;', ['f:1:10: this string has no closing quotation mark (RFC 5228 section 2.4.2)']],
    ['keep; /* x', ['f:1:7: this comment has no closing */ (RFC 5228 section 2.3)']],
    [
      'if size :over 1X { keep; }',
      ['f:1:15: 1X is not a number: only K, M or G may follow the digits (RFC 5228 section 2.4.1)'],
    ],
    ['kepe;', ['f:1:1: unknown command "kepe"; did you mean "keep"? (RFC 5228 section 2.9)']],
    ['if hedaer "a" "b" { keep; }', ['f:1:4: unknown test "hedaer"; did you mean "header"? (RFC 5228 section 2.5)']],
    ['fileinto "x";', ['f:1:1: fileinto needs: require "fileinto"; (RFC 5228 section 3.2)']],
    ['require "fileinto"; fileinto "";', ['f:1:30: the name of a folder cannot be empty (RFC 5228 section 4.1)']],
    ['keep; require "copy";', ['f:1:7: require must come before all other commands (RFC 5228 section 3.2)']],
    [
      'require "fielinto";',
      ['f:1:9: the capability "fielinto" is not supported; did you mean "fileinto"? (RFC 5228 section 3.2)'],
    ],
    [
      'if header :comparator "i;octett" "a" "b" { keep; }',
      ['f:1:23: the comparator "i;octett" is not known; did you mean "i;octet"? (RFC 5228 section 2.7.3)'],
    ],
    ['elsif true { keep; }', ['f:1:1: elsif must follow an if or elsif (RFC 5228 section 3.1)']],
    [
      'if header :is :contains "a" "b" { keep; }',
      ['f:1:15: :contains and :is cannot be used together (RFC 5228 section 2.6.2)'],
    ],
    ['if size 100 { keep; }', ['f:1:4: size needs one of :over, :under (RFC 5228 section 5.9)']],
    [
      'if header "a" { keep; }',
      ['f:1:4: header needs a string or list of strings for its key-list (RFC 5228 section 5.7)'],
    ],
    ['if not { keep; }', ['f:1:4: not needs a test (RFC 5228 section 5.8)']],
    ['if anyof true { keep; }', ['f:1:10: the tests of anyof must be in parentheses (RFC 5228 section 8.2)']],
    ['if true keep;', ['f:1:9: expected { or ;, found keep (RFC 5228 section 8.2)']],
    ['if true;', ['f:1:1: if needs a block in braces (RFC 5228 section 3.1)']],
    [
      'redirect "not an address";',
      ['f:1:10: "not an address" is not a single complete address (RFC 5228 section 2.4.2.3)'],
    ],
    [
      'redirect "a@b.example, c@d.example";',
      ['f:1:10: "a@b.example, c@d.example" is not a single complete address (RFC 5228 section 2.4.2.3)'],
    ],
    [
      'if header "a b:" "x" { keep; }',
      ['f:1:11: "a b:" cannot be the name of a header field (RFC 5228 section 2.4.2.2)'],
    ],
    [
      'if header :comparator "i;none" "a" "b" { keep; }',
      ['f:1:23: the comparator "i;none" is not known (RFC 5228 section 2.7.3)'],
    ],
    ['keep "x";', ['f:1:6: keep takes no further argument, found a string (RFC 5228 section 4.3)']],
    ['true;', ['f:1:1: "true" is a test and cannot be used as a command (RFC 5228 section 2.9)']],
    ['if keep { stop; }', ['f:1:4: "keep" is a command and cannot be used as a test (RFC 5228 section 2.9)']],
  ])('%s', (source, expected) => {
    expect(faults(source)).toEqual(expected);
  });

  test('several at once, and the readable rest is read', () => {
    const source = 'keep\nfileinto "a";\nif header :is "a" { stop; }\ndiscard;\n@;\nkeep;';
    const { script, diagnostics } = parse(source);
    expect(listing('f', source, [...diagnostics, ...check(script)]).map((line) => line.split(': ')[0])).toEqual([
      'f:1:5',
      'f:2:1',
      'f:3:4',
      'f:5:1',
    ]);
    const kinds = script.commands.map((command) => (command.kind === 'command' ? command.name : command.kind));
    expect(kinds).toEqual(['unreadable', 'fileinto', 'if', 'discard', 'unreadable', 'keep']);
    const first = script.commands[0];
    expect(source.slice(first?.start, first?.end)).toBe('keep');
  });

  test('a missing brace does not swallow the rules below it', () => {
    const source = 'if true {\n  keep;\nif false {\n  discard;\n}\n';
    const { script, diagnostics } = parse(source);
    expect(listing('f', source, diagnostics)).toEqual(['f:1:9: this block has no closing } (RFC 5228 section 8.2)']);
    expect(script.commands.map((command) => command.kind)).toEqual(['unreadable', 'command']);
  });

  test('comments behind a broken statement belong to the next one', () => {
    const { script } = parse(
      '# first\n@;\n# second\nkeep;\nfileinto [;\n/* third */ discard;\nif true { @; # fourth\n}\n',
    );
    const leading = script.commands.map(({ leading: comments }) => comments.map(({ text }) => text));
    expect(leading).toEqual([['first'], ['second'], [], ['third'], []]);
    const last = script.commands[4];
    expect(last?.kind === 'command' && last.block?.trailing.map(({ text }) => text)).toEqual(['fourth']);
  });

  test('columns count characters, lines end at LF or CRLF', () => {
    expect(faults('# 𝒳é\r\n/* 𝒳é */ kepe;')[0]).toMatch(/^f:2:10: /);
  });
});

describe('hostile input', () => {
  test.each([
    ['parentheses', '('.repeat(200_000)],
    ['open tests', `if ${'not '.repeat(200_000)}true { keep; }`],
    ['open blocks', 'if true {\n'.repeat(50_000)],
    ['indented blocks', Array.from({ length: 300 }, (_, n) => `${' '.repeat(n)}if true {`).join('\n')],
    ['brackets', '['.repeat(200_000)],
    ['closing braces', '}'.repeat(20_000)],
    ['NUL', '\0'.repeat(1000)],
    ['quotes', '"'.repeat(100_001)],
  ])('%s are refused with a place, and do not hang', (_name, source) => {
    const { diagnostics } = parse(source);
    expect(diagnostics.length).toBeGreaterThan(0);
  });

  test('15 nested blocks and 15 nested tests are read', () => {
    const blocks = `${'if true { '.repeat(15)}keep; ${'}'.repeat(15)}`;
    expect(faults(blocks)).toEqual([]);
    expect(faults(`if ${'not '.repeat(15)}true { keep; }`)).toEqual([]);
  });
});
