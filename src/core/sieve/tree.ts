import type { Span } from '../text/span';

/**
 * The syntax tree of a Sieve script by the generic grammar of RFC 5228 section 8.2. It knows no command by name;
 * `language/` defines the meaning of names. All nodes are plain data with the span of their text.
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
  /** Whether the tests are in parentheses. */
  readonly listed: boolean;
  readonly block: Block | null;
  /** Comments between the previous command and this one. */
  readonly leading: readonly Comment[];
  /** Comments among its arguments and tests. */
  readonly inner: readonly Comment[];
}

/** Unparsable text: `source.slice(span.start, span.end)`. */
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
  /** Whether the tests are in parentheses: `anyof (a, b)` as opposed to `not a`. */
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
  /** Multiplied by the quantifier: K, M, G are powers of 1024 (RFC 5228 section 2.4.1). */
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

/** The position of a command's or test's name: at its start. */
export function nameSpan({ start, end, name }: CommandNode | TestNode): Span {
  return { start, end: Math.min(end, start + name.length) };
}
