import type { Envelope, MailMessage } from '../../mail/message';
import type { MimePart } from '../../mail/parts';
import type { Span } from '../../text/span';
import type { CommandNode, Script, TestNode } from '../tree';
import type { FateBuilder } from './fate';
import type { World } from './world';

/** The state of one run of a script over one message. */
export interface Run {
  /** Replaced when header fields are edited (RFC 5293). */
  message: MailMessage;
  readonly envelope: Envelope;
  readonly world: World;
  readonly fate: FateBuilder;
  /** The internal variable of RFC 5232 section 2: lower case, without duplicates, in order of first mention. */
  flags: readonly string[];
  /** What has ended execution: of the script, of an included script, or of a loop. */
  signal: Signal | null;
  readonly variables: Variables;
  /** The current part within foreverypart (RFC 5703 section 3). */
  part: MimePart | null;
  /** Scripts being included, outermost first, and all included so far (RFC 6609). */
  readonly including: string[];
  readonly included: Set<string>;
  readonly language: Language;
  /** Statements and tests that may still run. */
  budget: number;
  /** Collects trace steps, or null if no trace was requested. */
  readonly trace: TraceStep[] | null;
}

/** Capabilities of the run that depend on the script. */
export interface Language {
  readonly knows: (capability: string) => boolean;
  readonly compile: (script: Script) => (run: Run) => void;
}

export type Signal = { readonly kind: 'stop' | 'return' } | { readonly kind: 'break'; readonly label: string | null };

/** RFC 5229; names in lower case. */
export interface Variables {
  values: Map<string, string>;
  readonly globals: Map<string, string>;
  /** Names declared by `global` in the current script (RFC 6609 section 3.4.1). */
  declared: Set<string>;
  /** Characters of all values together. */
  length: number;
  /** ${0}, ${1}, ... of the last successful match. */
  matches: readonly string[];
}

export type TraceStep =
  | { readonly kind: 'test'; readonly node: TestNode; readonly holds: boolean; readonly evidence: readonly Evidence[] }
  /** `took`: it did something to the message or its flags, which setting a variable does not. */
  | { readonly kind: 'action'; readonly node: CommandNode; readonly took: boolean };

/** What made a test true: the words of the message that a key matched. */
export interface Evidence {
  readonly where: Where;
  /** The value compared: a decoded header value, an address part, a size. */
  readonly value: string;
  readonly key: string;
  /** Parts of `value`. */
  readonly spans: readonly Span[];
}

export type Where =
  | { readonly kind: 'header'; readonly name: string /** Index among all fields. */; readonly field: number }
  | { readonly kind: 'envelope'; readonly part: string }
  | { readonly kind: 'size' }
  | { readonly kind: 'flags' }
  /** The text of a part, by its place among all parts as `walkParts` goes through them; null for the body as it came. */
  | { readonly kind: 'body'; readonly part: number | null }
  /** Anything else, named in words: "current date". */
  | { readonly kind: 'other'; readonly what: string };

/** An error at run time: the script ends, and the message is kept (RFC 5228 section 2.10.6). */
export class ScriptError extends Error {}

/** RFC 5229 section 3 requires at least 4000 octets; longer values are cut, so that no script grows without bound. */
const VALUE_LIMIT = 64 * 1024;
/** Characters of all values together. */
const ALL_VALUES = 4 * 1024 * 1024;
/** RFC 5229 section 3: `${name}`, `${namespace.name}` or `${1}`. */
export const REFERENCE = /\$\{([A-Za-z_][A-Za-z0-9_]*(?:\.[A-Za-z_][A-Za-z0-9_]*)*|[0-9]+)\}/g;

export const hasReferences = (text: string): boolean => /\$\{(?:[A-Za-z_]|[0-9]+\})/.test(text);

/** Expands `${name}` and `${1}` in one pass; unknown names are empty (RFC 5229 section 3). */
export function expand(text: string, run: Run): string {
  if (!text.includes('${')) return text;
  // Text beyond the limit is not built first: a string may name a long value a million times.
  let length = 0;
  const put = text.replace(REFERENCE, (_whole, name: string) => {
    const value = length > VALUE_LIMIT ? '' : readVariable(name, run);
    length += value.length;
    return value;
  });
  return put.slice(0, VALUE_LIMIT);
}

export function readVariable(name: string, run: Run): string {
  const { variables } = run;
  if (/^[0-9]/.test(name)) return variables.matches[Number(name)] ?? '';
  const lower = name.toLowerCase();
  if (lower.startsWith('global.')) return variables.globals.get(lower.slice('global.'.length)) ?? '';
  const from = variables.declared.has(lower) ? variables.globals : variables.values;
  return from.get(lower) ?? '';
}

export function writeVariable(name: string, value: string, run: Run): void {
  const { variables } = run;
  const lower = name.toLowerCase();
  const cut = value.slice(0, VALUE_LIMIT);
  variables.length += cut.length - readVariable(lower, run).length;
  if (variables.length > ALL_VALUES) throw new ScriptError('variables hold more than 4 MB of text');
  if (lower.startsWith('global.')) variables.globals.set(lower.slice('global.'.length), cut);
  else if (variables.declared.has(lower)) variables.globals.set(lower, cut);
  else variables.values.set(lower, cut);
}
