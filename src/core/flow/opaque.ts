import { type Clock, nowFor } from '../mail/arrival';
import { wordsOfTest } from '../rules/nodes';
import type { Taken } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { makeWorld } from '../sieve/interpret/world';
import { parse } from '../sieve/parse';
import { quote } from '../sieve/quote';
import { ownJson } from '../text/lookup';
import type { Atom, ScriptAtom } from './atoms';
import { Bitmap } from './bitmap';
import type { ColumnSource } from './columns';

/** The outcome of a script block for a message. */
export interface ScriptOutcome {
  readonly taken: readonly Taken[];
  readonly stopped: boolean;
  readonly failed: boolean;
}

const MARK = '\u0001';

/** The key of the messages with one outcome of a script block. */
export const outcomeKey = (scriptKey: string, outcome: ScriptOutcome): string =>
  scriptKey + MARK + JSON.stringify(outcome);

/** The common prefix of the outcome keys of a script block. */
export const outcomePrefix = (scriptKey: string): string => scriptKey + MARK;

export const readOutcome = (key: string): ScriptOutcome => ownJson(key.slice(key.indexOf(MARK) + 1));

/** What only the interpreter can run: a script, or a test, each with the script that must have run before. */
export type OpaqueAtom = Exclude<Atom, { test: 'header' | 'address' | 'envelope' | 'exists' | 'size' }>;

/** Its key. */
export function opaqueKey(atom: OpaqueAtom): string {
  const before = 'before' in atom && atom.before !== undefined ? [atom.before] : [];
  return atom.test === 'script'
    ? JSON.stringify(['script', atom.text, [...atom.requires].sort(), ...before])
    : JSON.stringify(['sieve', wordsOfTest(atom), ...before]);
}

/**
 * Runs tests and script blocks on every message with the interpreter, each after its preceding script if it has one. A
 * script block also gets a bitmap of all messages under its own key, as a sign that it was run.
 */
export function evaluateOpaque(
  atoms: readonly OpaqueAtom[],
  source: ColumnSource,
  clock: Clock,
  checkpoint: () => void,
): Map<string, Bitmap> {
  const found = new Map<string, Bitmap>();
  const at = (key: string): Bitmap => {
    const bitmap = found.get(key) ?? new Bitmap(source.count);
    found.set(key, bitmap);
    return bitmap;
  };
  const runs = atoms.map((atom) => {
    const key = opaqueKey(atom);
    at(key);
    const isTest = atom.test !== 'script';
    const { script } = parse(isTest ? `if ${wordsOfTest(atom)} { discard; }` : withRequire(atom));
    const before = 'before' in atom ? atom.before : undefined;
    const run = before === undefined ? interpreter(script) : interpreter(script, parse(before).script);
    return { key, isTest, run };
  });
  source.messages((number, message, envelope) => {
    checkpoint();
    const now = nowFor(clock, message);
    for (const { key, isTest, run } of runs) {
      const { taken, stopped, error } = run(message, envelope, { world: makeWorld({ now }) });
      if (isTest) {
        if (taken.length > 0) at(key).add(number);
        continue;
      }
      at(key).add(number);
      at(outcomeKey(key, { taken: error === null ? taken : [], stopped, failed: error !== null })).add(number);
    }
  });
  return found;
}

/** A run needs only those requires that change the meaning of strings. */
function withRequire({ text, requires }: ScriptAtom): string {
  return requires.length === 0 ? text : `require [${requires.map(quote).join(', ')}];\n${text}`;
}
