import type { Span } from '../text/span';

/**
 * The syntax tree of a Sieve script by the generic grammar of RFC 5228 section 8.2. It knows no command by name:
 * what a name means stands in `language/`. All nodes are plain data, and
 * each is the span of its own words.
 */
export interface Script {
  readonly kind: 'script';
  readonly source: string;
  readonly commands: readonly Statement[];
  /** Comments after the last command. */
  readonly trailing: readonly Comment[];
}

export type Statement = CommandNode | UnreadableNode;

export interface CommandNode extends Span {
  readonly kind: 'command';
  /** In lower case: identifiers are caseless (RFC 5228 section 2.1). */
  readonly name: string;
  readonly args: readonly Argument[];
  readonly tests: readonly TestNode[];
  /** Whether the tests stand in parentheses. */
  readonly listed: boolean;
  readonly block: Block | null;
  /** Comments between the command before and this one. */
  readonly leading: readonly Comment[];
  /** Comments among its arguments and tests. */
  readonly inner: readonly Comment[];
}

/** What could not be read; its words are `source.slice(span.start, span.end)`. */
export interface UnreadableNode extends Span {
  readonly kind: 'unreadable';
  readonly leading: readonly Comment[];
}

export interface Block extends Span {
  readonly kind: 'block';
  readonly commands: readonly Statement[];
  readonly trailing: readonly Comment[];
}

export interface TestNode extends Span {
  readonly kind: 'test';
  readonly name: string;
  readonly args: readonly Argument[];
  readonly tests: readonly TestNode[];
  /** Whether the tests stand in parentheses: `anyof (a, b)` against `not a`. */
  readonly listed: boolean;
}

export type Argument = StringArgument | StringListArgument | NumberArgument | TagArgument;

export interface StringArgument extends Span {
  readonly kind: 'string';
  readonly value: string;
  readonly form: 'quoted' | 'multiline';
}

export interface StringListArgument extends Span {
  readonly kind: 'string-list';
  readonly items: readonly StringArgument[];
}

export interface NumberArgument extends Span {
  readonly kind: 'number';
  /** With the quantifier multiplied in: K, M, G are powers of 1024 (RFC 5228 section 2.4.1). */
  readonly value: number;
  readonly quantifier: 'K' | 'M' | 'G' | null;
}

export interface TagArgument extends Span {
  readonly kind: 'tag';
  /** In lower case, without the colon. */
  readonly name: string;
}

export interface Comment extends Span {
  readonly form: 'hash' | 'bracket';
  /** Without the marks, trimmed. */
  readonly text: string;
}

/** Where the name of a command or test stands: at its beginning. */
export function nameSpan({ start, end, name }: CommandNode | TestNode): Span {
  return { start, end: Math.min(end, start + name.length) };
}
