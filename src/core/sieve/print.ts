import { elementAt } from '../text/lookup';
import { quote } from './quote';
import type { Argument, Block, CommandNode, Comment, Script, Statement, StringArgument, TestNode } from './tree';

const INDENT = '    ';
const WIDTH = 88;

/** Writes a script that parses to the same tree; lines end in LF. Unreadable parts are written word for word. */
export function print(script: Script): string {
  const lines: string[] = [];
  writeStatements(script.commands, script.source, '', lines);
  writeComments(script.trailing, '', lines);
  return lines.length === 0 ? '' : `${lines.join('\n')}\n`;
}

function writeStatements(statements: readonly Statement[], source: string, indent: string, lines: string[]): void {
  for (const statement of statements) {
    writeComments(statement.leading, indent, lines);
    if (statement.kind === 'unreadable') lines.push(source.slice(statement.start, statement.end));
    else writeCommand(statement, source, indent, lines);
  }
}

function writeCommand(node: CommandNode, source: string, indent: string, lines: string[]): void {
  writeComments(node.inner, indent, lines);
  const head = [node.name, ...node.args.map((arg) => printArgument(arg, indent))];
  const tests = printTests(node.tests, node.listed, indent, head.join(' ').length);
  if (tests) head.push(tests);
  const text = indent + head.join(' ');
  if (node.block) writeBlock(node.block, source, text, indent, lines);
  else lines.push(text.endsWith('\n') ? `${text}${indent};` : `${text};`);
}

function writeBlock(block: Block, source: string, head: string, indent: string, lines: string[]): void {
  lines.push(`${head} {`);
  writeStatements(block.commands, source, indent + INDENT, lines);
  writeComments(block.trailing, indent + INDENT, lines);
  lines.push(`${indent}}`);
}

function writeComments(comments: readonly Comment[], indent: string, lines: string[]): void {
  for (const comment of comments) lines.push(indent + printComment(comment));
}

/** A hash comment ends with its line, a bracket comment at the first star and slash: no text can escape from either. */
export function printComment(comment: Pick<Comment, 'form' | 'text'>): string {
  if (comment.form === 'bracket') return `/* ${comment.text.replaceAll('*/', '* /')} */`;
  return comment.text === '' ? '#' : `# ${comment.text.replace(/[\r\n\0]+/g, ' ')}`;
}

/** `before` is the number of characters before it on its line. */
export function printTest(node: TestNode, indent = '', before = 0): string {
  const head = [node.name, ...node.args.map((arg) => printArgument(arg, indent))];
  const tests = printTests(node.tests, node.listed, indent, before + 1 + head.join(' ').length);
  if (tests) head.push(tests);
  return head.join(' ');
}

function printTests(tests: readonly TestNode[], listed: boolean, indent: string, before: number): string {
  if (tests.length === 0) return '';
  if (!listed) return printTest(elementAt(tests, 0), indent, before);
  const room = WIDTH - indent.length - before;
  // Stops as soon as the line is too long, so that the time does not double with each level.
  if (roomLeft(tests, room) >= 0) {
    const line = `(${tests.map((test) => printTest(test, indent)).join(', ')})`;
    if (line.length <= room && !line.includes('\n')) return line;
  }
  const inner = indent + INDENT;
  return `(\n${tests.map((test) => inner + printTest(test, inner)).join(',\n')}\n${indent})`;
}

/** The most characters left on a line for tests; not counted further once used up. */
function roomLeft(tests: readonly TestNode[], room: number): number {
  let left = room;
  for (const { name, args, tests: inner } of tests) {
    left -= name.length + 1;
    for (const argument of args) left -= 1 + leastLength(argument);
    if (left < 0) return left;
    left = roomLeft(inner, left);
  }
  return left;
}

function leastLength(argument: Argument): number {
  if (argument.kind === 'string') return argument.value.length;
  return argument.kind === 'string-list' ? argument.items.reduce((sum, { value }) => sum + value.length, 0) : 1;
}

export function printArgument(argument: Argument, indent = ''): string {
  switch (argument.kind) {
    case 'string':
      return printString(argument);
    case 'string-list':
      return printList(argument.items, indent);
    case 'number':
      return printNumber(argument.value, argument.quantifier);
    case 'tag':
      return `:${argument.name}`;
    default:
      argument satisfies never;
      throw new Error('unknown argument');
  }
}

function printString(argument: StringArgument): string {
  return argument.form === 'multiline' ? multilineText(argument.value) : quote(argument.value);
}

function multilineText(value: string): string {
  const body = value.replace(/\r\n/g, '\n');
  if (body !== '' && !body.endsWith('\n')) return quote(value);
  return `text:\n${body.replace(/^\./gm, '..')}.\n`;
}

function printList(items: readonly StringArgument[], indent: string): string {
  const line = `[${items.map(printString).join(', ')}]`;
  if (line.length + indent.length <= WIDTH && !line.includes('\n')) return line;
  const inner = indent + INDENT;
  return `[\n${items.map((item) => inner + printString(item)).join(',\n')}\n${indent}]`;
}

function printNumber(value: number, quantifier: 'K' | 'M' | 'G' | null): string {
  const unit = quantifier ? { K: 1024, M: 1024 ** 2, G: 1024 ** 3 }[quantifier] : 1;
  return `${value / unit}${quantifier ?? ''}`;
}
