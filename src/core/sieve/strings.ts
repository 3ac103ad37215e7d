import type { Argument, Block, CommandNode, Statement, StringArgument, TestNode } from './tree';

/** A statement with every string within it changed; tests and blocks included. */
export function mapStrings(statement: Statement, change: (value: string) => string): Statement {
  if (statement.kind === 'unreadable') return statement;
  const inArgument = (argument: Argument): Argument => {
    if (argument.kind === 'string') return inString(argument);
    return argument.kind === 'string-list' ? { ...argument, items: argument.items.map(inString) } : argument;
  };
  const inString = (item: StringArgument): StringArgument => ({ ...item, value: change(item.value) });
  const inTest = (test: TestNode): TestNode => ({
    ...test,
    args: test.args.map(inArgument),
    tests: test.tests.map(inTest),
  });
  const inBlock = (block: Block): Block => ({ ...block, commands: block.commands.map(inStatement) });
  const inStatement = (inner: Statement): Statement =>
    inner.kind === 'unreadable'
      ? inner
      : {
          ...inner,
          args: inner.args.map(inArgument),
          tests: inner.tests.map(inTest),
          block: inner.block && inBlock(inner.block),
        };
  return inStatement(statement);
}

/** The strings among arguments, those of lists included, in their order. */
export function stringsIn(args: readonly Argument[]): readonly StringArgument[] {
  return args.flatMap((arg) => (arg.kind === 'string' ? [arg] : arg.kind === 'string-list' ? arg.items : []));
}

/** Calls `look` for every string of the statements, tests and blocks included. */
export function eachString(statements: readonly Statement[], look: (item: StringArgument) => void): void {
  const inTest = (test: TestNode) => {
    stringsIn(test.args).forEach(look);
    test.tests.forEach(inTest);
  };
  const inCommand = (node: CommandNode) => {
    stringsIn(node.args).forEach(look);
    node.tests.forEach(inTest);
    eachString(node.block?.commands ?? [], look);
  };
  for (const statement of statements) if (statement.kind === 'command') inCommand(statement);
}
