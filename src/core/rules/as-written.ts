import { check } from '../sieve/check';
import { type Diagnostic, wordsOf } from '../sieve/diagnostics';
import { parse } from '../sieve/parse';
import { print } from '../sieve/print';
import type { CommandNode } from '../sieve/tree';
import { actionNode, readAction, readTest } from './nodes';
import type { Action, LeafTest, TestTree } from './rule';

/** The result of reading Sieve text, or what is wrong with it in plain words. */
export type Reading<T> = { readonly ok: true; readonly said: T } | { readonly ok: false; readonly words: string };

/** Reads one test; allof, anyof and not become groups of the tree. */
export function readWrittenTest(text: string): Reading<TestTree> {
  const only = onlyCommand(`if ${text.trim()}\n{}`);
  if (!only.ok) return only;
  const [test] = only.said.tests;
  if (only.said.name !== 'if' || !test || only.said.block?.commands.length !== 0) return { ok: false, words: NO_TEST };
  const tree = readTest(test);
  return tree
    ? { ok: true, said: tree }
    : { ok: false, words: 'rules cannot contain this test: it reads variables or parts that a script sets' };
}

/** Reads a single test without groups; throws for anything else. */
export function testWritten(text: string): LeafTest {
  const reading = readWrittenTest(text);
  if (!reading.ok || reading.said.kind !== 'leaf') throw new Error(`not a single test: ${text}`);
  return reading.said.test;
}

/** Reads one action. */
export function readWrittenAction(text: string): Reading<Action> {
  const trimmed = text.trim();
  const only = onlyCommand(trimmed.endsWith(';') ? trimmed : `${trimmed}\n;`);
  if (!only.ok) return only;
  const action = readAction(only.said);
  return action ? { ok: true, said: action } : { ok: false, words: 'a rule cannot contain this action' };
}

/** Reads a sequence of actions. */
export function readWrittenActions(text: string): Reading<readonly Action[]> {
  const { script, diagnostics } = parse(text.trim());
  const [fault] = [...diagnostics, ...check(script)].filter(isGrave);
  if (fault) return { ok: false, words: wordsOf(fault) };
  const actions = script.commands.map((command) => (command.kind === 'command' ? readAction(command) : null));
  const said = actions.filter((action) => action !== null);
  return said.length === actions.length
    ? { ok: true, said }
    : { ok: false, words: 'a rule cannot contain all of these actions' };
}

/** Actions as `readWrittenActions` reads them. */
export const actionsText = (actions: readonly Action[]): string =>
  print({ kind: 'script', source: '', commands: actions.map(actionNode), trailing: [] });

const NO_TEST = 'this is not a single Sieve test';

function onlyCommand(script: string): Reading<CommandNode> {
  const { script: read, diagnostics } = parse(script);
  const [fault] = [...diagnostics, ...check(read)].filter(isGrave);
  if (fault) return { ok: false, words: wordsOf(fault) };
  const [only, another] = read.commands;
  if (only?.kind !== 'command' || another) return { ok: false, words: 'this is more than one Sieve command' };
  return { ok: true, said: only };
}

/** Missing requires are added when the script is written; the form itself reports an empty list. */
const isGrave = ({ code }: Diagnostic): boolean => code !== 'missing-require' && code !== 'empty-list';
