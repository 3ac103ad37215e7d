import { describe, expect, test } from 'vitest';
import { given } from '../../../../test/given';
import { parse } from '../parse';
import { bind } from './bind';
import { nearest } from './nearest';
import { needsOf } from './needs';
import { commands, tests } from './table';
import { capabilityParts, usageOf } from './usage';

const commandIn = (source: string) => {
  const [node] = parse(source).script.commands;
  if (node?.kind !== 'command') throw new Error(`no command: ${source}`);
  return node;
};
const bound = (source: string, variables = false) => {
  const node = commandIn(source);
  return bind(given(commands.get(node.name)), node, { variables });
};
const boundTest = (source: string) => {
  const node = given(commandIn(`if ${source} { stop; }`).tests[0]);
  return bind(given(tests.get(node.name)), node);
};
const codesOf = (source: string) => bound(source).diagnostics.map(({ code }) => code);

describe('arguments are sorted by what they mean', () => {
  test('tags by their groups, values by their names', () => {
    const found = boundTest('header :contains :comparator "i;octet" ["Subject", "To"] "oak"').bound;
    expect(found.tag('match-type')).toBe('contains');
    expect(found.tagAmong('match-type', ['is', 'matches'])).toBeNull();
    expect(found.string('comparator')).toBe('i;octet');
    expect(found.strings('header-list')).toEqual(['Subject', 'To']);
    expect(found.strings('key-list')).toEqual(['oak']);
    expect(found.has('relation')).toBe(false);
  });

  test('numbers, and errors for what was never given or is of another kind', () => {
    const found = boundTest('size :over 2K').bound;
    expect(found.number('limit')).toBe(2048);
    expect(() => found.strings('limit')).toThrow('is a number, not strings');
    expect(() => found.string('other')).toThrow('the argument other is not bound');
  });

  test('what a tag needs is told with its place', () => {
    const { needs } = bound('fileinto :copy :flags "x" "Oak";');
    expect(needs.map(({ capability, what }) => [capability, what])).toEqual([
      ['copy', ':copy'],
      ['imap4flags', ':flags'],
    ]);
  });

  test.each([
    ['fileinto;', ['argument-missing']],
    ['fileinto 1;', ['argument-type']],
    ['fileinto "a" "b";', ['argument-extra']],
    ['fileinto :cpoy "a";', ['unknown-tag']],
    ['fileinto :copy :copy "a";', ['tag-twice']],
    ['fileinto "a" :copy;', ['tag-after-positional']],
    ['fileinto :flags 1 "a";', ['argument-missing', 'argument-type', 'argument-extra']],
    ['vacation :create "a";', ['tag-beside']],
    ['fileinto ["a", "b"];', ['argument-type']],
  ])('%s is refused', (source, codes) => expect(codesOf(source)).toEqual(codes));

  test('an optional argument in front is the one that is missing (RFC 5232 section 4)', () => {
    const [alone, both] = [bound('addflag "\\\\Seen";'), bound('addflag "v" "\\\\Seen";')];
    expect([alone.bound.has('variable'), both.bound.has('variable')]).toEqual([false, true]);
    expect(both.needs.map(({ capability }) => capability)).toEqual(['variables']);
  });

  test('a string varies only where variables are looked for', () => {
    expect(bound('fileinto "${x}";', true).bound.varies('${x}')).toBe(true);
    expect(bound('fileinto "${x}";').bound.varies('${x}')).toBe(false);
    expect(bound('fileinto "plain";', true).bound.varies('plain')).toBe(false);
  });
});

test('what a statement needs: its own capability, those of its tests, tags, comparators and of what is in its block', () => {
  const source = `if header :regex :comparator "i;ascii-numeric" "x" "y" { fileinto :copy "a"; if body :contains "b" { reject "no"; } }`;
  expect([...new Set(needsOf(commandIn(source)))].sort()).toEqual([
    'body',
    'comparator-i;ascii-numeric',
    'copy',
    'fileinto',
    'regex',
    'reject',
  ]);
});

describe('how the language is told', () => {
  test('usage stands in the notation of the standards', () => {
    expect(usageOf(given(commands.get('stop')))).toBe('stop;');
    expect(usageOf(given(commands.get('if')))).toBe('if <test> { ... }');
    expect(usageOf(given(tests.get('size')))).toBe('size :over / :under <limit: number>');
    expect(usageOf(given(tests.get('anyof')))).toBe('anyof (<test>, <test>, ...)');
  });

  test('a capability tells what it brings', () => {
    const partsOf = (name: string) => given(capabilityParts().find((parts) => parts.name === name));
    expect(partsOf('fileinto')).toMatchObject({ commands: ['fileinto'], tests: [], tags: [] });
    expect(partsOf('imap4flags')).toMatchObject({ tests: ['hasflag'] });
    expect(partsOf('relational').tags).toContain(':count of header');
    expect(partsOf('comparator-i;ascii-numeric').comparators).toEqual(['i;ascii-numeric']);
  });

  test('the nearest name is at most two letters off', () => {
    expect(nearest('fileino', ['keep', 'fileinto'])).toBe('fileinto');
    expect(nearest('contians', ['is', 'contains'], ':')).toBe(':contains');
    expect(nearest('oak', ['keep', 'is'])).toBe('');
  });
});
