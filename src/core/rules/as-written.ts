import { check } from '../sieve/check';
import { type Diagnostic, wordsOf } from '../sieve/diagnostics';
import { parse } from '../sieve/parse';
import type { CommandNode } from '../sieve/tree';
import { readAction, readTest } from './nodes';
import type { Action, LeafTest, TestTree } from './rule';

/** What words of Sieve say, or what is wrong with them in plain words. */
export type Reading<T> = { readonly ok: true; readonly said: T } | { readonly ok: false; readonly words: string };

/** Words that are one test of Sieve, as a tree of tests; allof, anyof and not become branches of it. */
export function readWrittenTest(text: string): Reading<TestTree> {
  const only = onlyCommand(`if ${text.trim()}\n{}`);
  if (!only.ok) return only;
  const [test] = only.said.tests;
  if (only.said.name !== 'if' || !test || only.said.block?.commands.length !== 0) return { ok: false, words: NO_TEST };
  const tree = readTest(test);
  return tree
    ? { ok: true, said: tree }
    : { ok: false, words: 'rules cannot hold this test: it reads what scripts set' };
}

/** The single test that words of Sieve say; throws where they are anything else. */
export function testWritten(text: string): LeafTest {
  const reading = readWrittenTest(text);
  if (!reading.ok || reading.said.kind !== 'leaf') throw new Error(`not a single test: ${text}`);
  return reading.said.test;
}

/** Words that are one action of Sieve. */
export function readWrittenAction(text: string): Reading<Action> {
  const trimmed = text.trim();
  const only = onlyCommand(trimmed.endsWith(';') ? trimmed : `${trimmed}\n;`);
  if (!only.ok) return only;
  const action = readAction(only.said);
  return action ? { ok: true, said: action } : { ok: false, words: 'this is no action that a rule can hold' };
}

/** Words that are actions of Sieve, one behind the other. */
export function readWrittenActions(text: string): Reading<readonly Action[]> {
  const { script, diagnostics } = parse(text.trim());
  const [fault] = [...diagnostics, ...check(script)].filter(isGrave);
  if (fault) return { ok: false, words: wordsOf(fault) };
  const actions = script.commands.map((command) => (command.kind === 'command' ? readAction(command) : null));
  const said = actions.filter((action) => action !== null);
  return said.length === actions.length
    ? { ok: true, said }
    : { ok: false, words: 'not all of this is an action that a rule can hold' };
}

const NO_TEST = 'this is not one test of Sieve';

function onlyCommand(script: string): Reading<CommandNode> {
  const { script: read, diagnostics } = parse(script);
  const [fault] = [...diagnostics, ...check(read)].filter(isGrave);
  if (fault) return { ok: false, words: wordsOf(fault) };
  const [only, another] = read.commands;
  if (only?.kind !== 'command' || another) return { ok: false, words: 'this is more than one command of Sieve' };
  return { ok: true, said: only };
}

/** What a script requires is added when it is written; a list that nothing was written into yet is told by the form. */
const isGrave = ({ code }: Diagnostic): boolean => code !== 'missing-require' && code !== 'empty-list';
