import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { parse } from '../sieve/parse';
import type { CommandNode } from '../sieve/tree';
import { chainFromSieve } from './from-sieve';
import { blockSteps, groupsOf, ruleable, variableUses } from './statements';

const commandsIn = (source: string) => parse(source).script.commands;
const namesOf = (group: readonly { readonly kind: string; readonly name?: string }[]) =>
  group.map((statement) => statement.name ?? statement.kind);

describe('groups of statements', () => {
  test('an if stands with its branches, all others alone', () => {
    const groups = groupsOf(
      commandsIn('keep; if true { stop; } elsif false { keep; } else { discard; } stop; if true { keep; }'),
    );
    expect(groups.map(namesOf)).toEqual([['keep'], ['if', 'elsif', 'else'], ['stop'], ['if']]);
  });

  test('a branch that has no if before it stands alone', () => {
    expect(groupsOf(commandsIn('keep; else { stop; }')).map(namesOf)).toEqual([['keep'], ['else']]);
  });
});

test('branches can be taken apart unless they look at flags that they change', () => {
  const branchesOf = (source: string) => commandsIn(source).filter((one): one is CommandNode => one.kind === 'command');
  expect(ruleable(branchesOf('if hasflag "a" { keep; }'))).toBe(true);
  expect(ruleable(branchesOf('if exists "a" { addflag "b"; if exists "c" { keep; } }'))).toBe(true);
  expect(ruleable(branchesOf('if hasflag "a" { addflag "b"; }'))).toBe(false);
});

describe('what a script block comes down to', () => {
  const stepsOf = (text: string, more: { requires?: string[]; works?: boolean; before?: string } = {}) => {
    const block = {
      kind: 'script',
      id: 'b',
      name: '',
      note: '',
      on: true,
      text,
      reason: '',
      works: true,
      requires: [],
    } as const;
    return blockSteps({ ...block, ...more });
  };

  test('conditions, actions and stops, as rules have them', () => {
    expect(stepsOf('if exists "a" { discard; } else { stop; } keep;')).toMatchObject([
      {
        kind: 'choose',
        branches: [
          {
            condition: { kind: 'leaf', test: { test: 'exists' } },
            body: [{ kind: 'act', action: { action: 'discard' } }],
          },
          { condition: { kind: 'all', children: [] }, body: [{ kind: 'stop' }] },
        ],
      },
      { kind: 'act', action: { action: 'keep' } },
    ]);
  });

  test('nothing where it does not work; null where only the interpreter can run it', () => {
    expect(stepsOf('keep;', { works: false })).toEqual([]);
    expect(stepsOf('keep;', { requires: ['variables'] })).toBeNull();
    expect(stepsOf('keep;', { before: 'addflag "a";' })).toBeNull();
    expect(stepsOf('foreverypart { keep; }')).toBeNull();
  });
});

describe('variables', () => {
  const reasonsOf = (source: string) => variableUses(groupsOf(commandsIn(source))).reasons;

  test('what sets or reads them is no rule; what does neither is', () => {
    const [set, read, plain] = reasonsOf('set "x" "a"; fileinto "${x}"; keep;');
    expect([set !== null, read !== null, plain]).toEqual([true, true, null]);
  });

  test('a test whose matches are read later is none either (RFC 5229 section 3.2)', () => {
    const [first, second] = reasonsOf('if header :matches "subject" "*" { keep; } fileinto "${1}";');
    expect([first !== null, second !== null]).toEqual([true, true]);
    expect(reasonsOf('if header :matches "subject" "*" { keep; } keep;')).toEqual([null, null]);
  });

  test('texts that only look like references come back as they were', () => {
    const { chain } = chainFromSieve(
      'require ["variables", "fileinto"];\nif exists "a" { fileinto "$${nothing}{x}"; }',
    );
    expect(given(chain.entries[0])).toMatchObject({ kind: 'rule', actions: [{ folder: '${x}' }] });
  });
});
