import { hasReferences } from '../sieve/interpret/expand';
import { bind } from '../sieve/language/bind';
import type { Signature, Touch } from '../sieve/language/definition';
import { commands, tests } from '../sieve/language/table';
import { stringsIn } from '../sieve/strings';
import type { CommandNode, Statement, TestNode } from '../sieve/tree';
import { readAction, readTest } from './nodes';

/** A stretch of groups that must stay one script block, `to` exclusive. */
interface Kept {
  readonly from: number;
  readonly to: number;
  readonly reason: string;
  /** Capabilities that change how its strings are read. */
  readonly requires: readonly string[];
}

/** Commands, an `if` with all its branches as one group. */
export function groupsOf(statements: readonly Statement[]): (readonly Statement[])[] {
  const groups: Statement[][] = [];
  for (const statement of statements) {
    const last = groups[groups.length - 1];
    const head = last?.[0];
    const branch = statement.kind === 'command' && (statement.name === 'elsif' || statement.name === 'else');
    if (branch && head?.kind === 'command' && head.name === 'if') last?.push(statement);
    else groups.push([statement]);
  }
  return groups;
}

/**
 * What rules cannot express reaches over several commands: a variable from where it is set to where it is read, an edited
 * header to the end of the script, since all later tests see it, and so does what an included script may do. What only the
 * interpreter can run and looks at flags takes along the commands before it that set them.
 */
export function keptTogether(groups: readonly (readonly Statement[])[], variables: boolean): Kept[] {
  const looks = groups.map(lookAt);
  const ranges: Kept[] = [];
  const lastRead = variables ? looks.findLastIndex(({ touched }) => touched.has('reads variables')) : -1;
  if (lastRead >= 0) {
    const from = looks.findIndex(({ touched }) => touched.has('reads variables') || touched.has('sets variables'));
    ranges.push({ from, to: lastRead + 1, reason: 'it uses variables', requires: ['variables'] });
  }
  const edits = looks.findIndex(({ touched }) => touched.has('edits message'));
  if (edits >= 0) {
    const reason = looks[edits]?.includes ? 'it includes another script' : 'it edits headers that later tests look at';
    ranges.push({ from: edits, to: groups.length, reason, requires: [] });
  }
  looks.forEach(({ touched }, at) => {
    if (!touched.has('reads flags') || isPlain(groups[at] ?? [])) return;
    ranges.push({ from: at, to: at + 1, reason: 'it looks at flags in a way that rules cannot', requires: [] });
  });
  // Reaching back for flags may make two stretches one.
  return merged(ranges.map((range) => reachingBack(range, looks)));
}

function reachingBack(range: Kept, looks: readonly Look[]): Kept {
  const asks = looks.slice(range.from, range.to).some(({ touched }) => touched.has('reads flags'));
  const marks = looks.findIndex(({ touched }) => touched.has('sets flags'));
  return asks && marks >= 0 && marks < range.from ? { ...range, from: marks } : range;
}

/** Overlapping stretches become one; the first of them gives the reason. */
function merged(ranges: readonly Kept[]): Kept[] {
  const whole: Kept[] = [];
  for (const range of [...ranges].sort((first, second) => first.from - second.from)) {
    const last = whole[whole.length - 1];
    if (!last || range.from >= last.to) whole.push(range);
    else {
      const requires = [...new Set([...last.requires, ...range.requires])];
      whole[whole.length - 1] = { ...last, to: Math.max(last.to, range.to), requires };
    }
  }
  return whole;
}

/** What a group shares with others. */
interface Look {
  readonly touched: ReadonlySet<Touch>;
  readonly includes: boolean;
}

export function lookAt(group: readonly Statement[]): Look {
  const touched = new Set<Touch>();
  let includes = false;
  const touch = (node: CommandNode | TestNode, signature: Signature | undefined) => {
    for (const one of signature?.touches?.(bind(signature, node).bound) ?? []) touched.add(one);
    if (stringsIn(node.args).some(({ value }) => hasReferences(value))) touched.add('reads variables');
    // A match sets the match variables (RFC 5229 section 3.2).
    if (node.args.some((arg) => arg.kind === 'tag' && /^(matches|regex)$/.test(arg.name)))
      touched.add('sets variables');
  };
  const inTest = (test: TestNode) => {
    touch(test, tests.get(test.name));
    test.tests.forEach(inTest);
  };
  const inCommand = (node: CommandNode) => {
    touch(node, commands.get(node.name));
    if (node.name === 'include') includes = true;
    node.tests.forEach(inTest);
    for (const inner of node.block?.commands ?? []) if (inner.kind === 'command') inCommand(inner);
  };
  for (const statement of group) if (statement.kind === 'command') inCommand(statement);
  return { touched, includes };
}

/** Whether rules have forms for all that statements hold, so that the flow engine runs them by itself. */
function isPlain(statements: readonly Statement[]): boolean {
  return statements.every((node) => {
    if (node.kind === 'unreadable') return true;
    if (!/^(if|elsif|else|stop)$/.test(node.name)) return readAction(node) !== null;
    return node.tests.every((test) => readTest(test) !== null) && isPlain(node.block?.commands ?? []);
  });
}
