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
  /** The internal variable of RFC 5232 section 2: lower case, without doubles, in order of first mention. */
  flags: readonly string[];
  /** Why nothing more is run: to the end of the script, of an included script, or of a loop. */
  signal: Signal | null;
  readonly variables: Variables;
  /** The part at hand within foreverypart (RFC 5703 section 3). */
  part: MimePart | null;
  /** Scripts being included, the outermost first, and those included so far (RFC 6609). */
  readonly including: string[];
  readonly included: Set<string>;
  readonly language: Language;
  /** Statements and tests that may still be run. */
  budget: number;
  /** Collects what was tried, or null where nobody asks. */
  readonly trace: TraceStep[] | null;
}

/** What a run may ask of the language itself. */
export interface Language {
  readonly knows: (capability: string) => boolean;
  readonly compile: (script: Script) => (run: Run) => void;
}

export type Signal = { readonly kind: 'stop' | 'return' } | { readonly kind: 'break'; readonly label: string | null };

/** RFC 5229; names in lower case. */
export interface Variables {
  values: Map<string, string>;
  readonly globals: Map<string, string>;
  /** Names that `global` has declared in the script at hand (RFC 6609 section 3.4.1). */
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

/** What made a test hold: the words of the message that a key met. */
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
