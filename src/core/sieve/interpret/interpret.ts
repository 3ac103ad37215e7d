import type { Envelope, MailMessage } from '../../mail/message';
import { elementAt } from '../../text/lookup';
import { bind } from '../language/bind';
import type { ActionProgram, Setup, TestProgram } from '../language/definition';
import { capabilities, commands, tests } from '../language/table';
import { decodeEncoded, requires } from '../strings';
import type { CommandNode, Script, Statement, TestNode } from '../tree';
import { type Fate, FateBuilder, KEPT, type Taken } from './fate';
import { type Evidence, type Language, type Run, ScriptError, type TraceStep } from './run';
import { makeWorld, type World } from './world';

export interface Outcome {
  readonly fate: Fate;
  /** In execution order; empty unless a trace was requested. */
  readonly trace: readonly TraceStep[];
  /** Executed actions, in order, without the implicit keep. */
  readonly taken: readonly Taken[];
  readonly stopped: boolean;
  /** Why the script failed; the message is then kept and nothing else is done. */
  readonly error: string | null;
}

/** A script compiled for running on many messages. */
export type Interpreter = (message: MailMessage, envelope: Envelope, options?: RunOptions) => Outcome;

export interface RunOptions {
  readonly trace?: boolean;
  readonly world?: World;
}

/** Most statements and tests of one run, including included scripts and loops, so that no script hangs. */
const STEP_LIMIT = 200_000;

/**
 * Compiles a script. Unparsed and unknown parts do nothing: callers report the diagnostics of `parse` and `check`.
 * Unless a world is given, messages are independent: vacation and duplicate remember nothing. `before` is a script that
 * runs first on the same message; results are those of the script itself, none if `before` has ended the run.
 */
export function interpreter(script: Script, before: Script | null = null): Interpreter {
  const [prelude, body] = [before && compileScript(before), compileScript(script)];
  return (message, envelope, { trace: withTrace = false, world = makeWorld() } = {}) => {
    const trace: TraceStep[] | null = withTrace ? [] : null;
    const run: Run = {
      message,
      envelope,
      world,
      fate: new FateBuilder(),
      flags: [],
      signal: null,
      variables: { values: new Map(), globals: new Map(), declared: new Set(), length: 0, matches: [] },
      part: null,
      including: [],
      included: new Set(),
      language: LANGUAGE,
      budget: STEP_LIMIT,
      trace,
    };
    if (prelude && (runGuarded(prelude, run, false).error !== null || run.signal)) return NOTHING_DONE;
    const first = run.fate.taken.length;
    const { fate, error } = runGuarded(body, run);
    const taken = first === 0 ? run.fate.taken : run.fate.taken.slice(first);
    return { fate, taken, trace: trace ?? [], stopped: run.signal?.kind === 'stop', error };
  };
}

const NOTHING_DONE: Outcome = { fate: KEPT, taken: [], trace: [], stopped: false, error: null };

function runGuarded(body: ActionProgram, run: Run, finishes = true): Pick<Outcome, 'fate' | 'error'> {
  try {
    body(run);
    return { fate: finishes ? run.fate.finish(run.flags) : KEPT, error: null };
  } catch (error) {
    if (error instanceof ScriptError) return { fate: KEPT, error: error.message };
    throw error;
  }
}

function compileScript(script: Script): ActionProgram {
  const setup: Setup = { variables: requires(script, 'variables') };
  return compileStatements(decodeEncoded(script).commands, setup);
}

const LANGUAGE: Language = { knows: (capability) => capabilities.has(capability), compile: compileScript };

function compileStatements(statements: readonly Statement[], setup: Setup): ActionProgram {
  const steps: ActionProgram[] = [];
  for (let at = 0; at < statements.length; at++) {
    const statement = elementAt(statements, at);
    if (statement.kind === 'unreadable') continue;
    if (statement.name === 'if') {
      const branches = [statement];
      for (let next = statements[at + 1]; isBranch(next); next = statements[at + 1]) {
        branches.push(next);
        at++;
      }
      steps.push(compileIf(branches, setup));
    } else {
      const action = compileAction(statement, setup);
      if (action) steps.push(action);
    }
  }
  return (run) => {
    for (const step of steps) {
      if (run.signal) return;
      if (--run.budget < 0) throw new ScriptError(`the script ran more than ${STEP_LIMIT} steps`);
      step(run);
    }
  };
}

function isBranch(statement: Statement | undefined): statement is CommandNode {
  return statement?.kind === 'command' && (statement.name === 'elsif' || statement.name === 'else');
}

function compileIf(branches: readonly CommandNode[], setup: Setup): ActionProgram {
  const compiled = branches.map((branch) => ({
    test: branch.tests[0] ? compileTest(branch.tests[0], setup) : () => branch.name === 'else',
    body: compileStatements(branch.block?.commands ?? [], setup),
  }));
  return (run) => {
    for (const { test, body } of compiled) {
      if (test(run)) {
        body(run);
        return;
      }
    }
  };
}

function compileAction(node: CommandNode, setup: Setup): ActionProgram | null {
  const definition = commands.get(node.name);
  if (!definition?.compile) return null;
  const { bound, diagnostics } = bind(definition, node, setup);
  if (diagnostics.length > 0) return null;
  const body = compileStatements(node.block?.commands ?? [], setup);
  const program = definition.compile(bound, { node, setup, body });
  return (run) => {
    if (!run.trace) {
      program(run);
      return;
    }
    const step = { kind: 'action' as const, node, took: false };
    run.trace.push(step);
    const before = run.fate.taken.length;
    program(run);
    step.took = run.fate.taken.length > before;
  };
}

/** An unknown test, or one with wrong arguments, is false. */
function compileTest(node: TestNode, setup: Setup): TestProgram {
  const definition = tests.get(node.name);
  const binding = definition && bind(definition, node, setup);
  const children = node.tests.map((child) => compileTest(child, setup));
  const program =
    definition && binding?.diagnostics.length === 0 ? definition.compile(binding.bound, children, setup) : () => false;
  return (run) => {
    if (--run.budget < 0) throw new ScriptError(`the script ran more than ${STEP_LIMIT} steps`);
    if (!run.trace) return program(run);
    const evidence: Evidence[] = [];
    const holds = program(run, (found) => evidence.push(found));
    run.trace.push({ kind: 'test', node, holds, evidence });
    return holds;
  };
}
