import { LineIndex, type Span } from '../text/span';

/** A fault in a script: a code, its place, and details for its wording, which is only in `WORDS`. */
export interface Diagnostic {
  readonly code: DiagnosticCode;
  readonly span: Span;
  readonly details: Readonly<Record<string, string>>;
}

type Words = (details: Readonly<Record<string, string>>) => string;

const WORDS = {
  'not-utf8': (d) => `byte ${d.byte} is not UTF-8 text (RFC 5228 section 2.1)`,
  'unexpected-character': (d) => `${d.found} is not allowed here (RFC 5228 section 8.1)`,
  'unclosed-string': () => 'this string has no closing quotation mark (RFC 5228 section 2.4.2)',
  'unclosed-text': () => 'this text has no closing line with a single dot (RFC 5228 section 2.4.2)',
  'text-same-line': () => 'the text after "text:" must start on the next line (RFC 5228 section 2.4.2)',
  'unclosed-comment': () => 'this comment has no closing */ (RFC 5228 section 2.3)',
  'number-too-large': (d) => `the number ${d.found} is too large (RFC 5228 section 2.4.1)`,
  'bad-number': (d) => `${d.found} is not a number: only K, M or G may follow the digits (RFC 5228 section 2.4.1)`,
  expected: (d) => `expected ${d.expected}, found ${d.found} (RFC 5228 section 8.2)`,
  'empty-list': () => 'a list must contain at least one string (RFC 5228 section 8.2)',
  'unknown-namespace': (d) =>
    `no supported extension defines the variable "${d.name}": the namespace "${d.namespace}." is unknown (RFC 5229 section 3)`,
  'unclosed-block': () => 'this block has no closing } (RFC 5228 section 8.2)',
  'stray-brace': () => 'this } closes no block (RFC 5228 section 8.2)',
  'too-deep': (d) => `nested more than ${d.limit} deep (RFC 5228 section 2.5.1 for tests, section 2.8 for blocks)`,
  'unknown-command': (d) => `unknown command "${d.name}"${suggestion(d)} (RFC 5228 section 2.9)`,
  'unknown-test': (d) => `unknown test "${d.name}"${suggestion(d)} (RFC 5228 section 2.5)`,
  'test-as-command': (d) => `"${d.name}" is a test and cannot be used as a command (RFC 5228 section 2.9)`,
  'command-as-test': (d) => `"${d.name}" is a command and cannot be used as a test (RFC 5228 section 2.9)`,
  'unknown-capability': (d) => `the capability "${d.name}" is not supported${suggestion(d)} (RFC 5228 section 3.2)`,
  'missing-require': (d) => `${d.what} needs: require "${d.capability}"; (RFC 5228 section 3.2)`,
  'require-too-late': () => 'require must come before all other commands (RFC 5228 section 3.2)',
  'branch-without-if': (d) => `${d.name} must follow an if or elsif (RFC 5228 section 3.1)`,
  'unknown-tag': (d) => `${d.name} does not take :${d.tag}${suggestion(d)} (${d.section})`,
  'tag-twice': (d) => `:${d.tag} and :${d.before} cannot be used together (RFC 5228 section 2.6.2)`,
  'tag-after-positional': (d) => `:${d.tag} must come before the other arguments (RFC 5228 section 2.6.2)`,
  'tag-missing': (d) => `${d.name} needs one of ${d.tags} (${d.section})`,
  'tag-beside': (d) => `${d.name} can only be used together with ${d.tags} (${d.section})`,
  'argument-missing': (d) => `${d.name} needs ${d.type} for its ${d.argument} (${d.section})`,
  'argument-type': (d) => `${d.name} takes ${d.type} for its ${d.argument}, found ${d.found} (${d.section})`,
  'argument-extra': (d) => `${d.name} takes no further argument, found ${d.found} (${d.section})`,
  'test-missing': (d) => `${d.name} needs a test (${d.section})`,
  'test-count': (d) => `${d.name} takes ${d.expected} (${d.section})`,
  'test-list-form': (d) => `the tests of ${d.name} must be in parentheses (RFC 5228 section 8.2)`,
  'block-missing': (d) => `${d.name} needs a block in braces (RFC 5228 section 3.1)`,
  'block-extra': (d) => `${d.name} takes no block (RFC 5228 section 8.2)`,
  'unknown-comparator': (d) => `the comparator "${d.name}" is not known${suggestion(d)} (RFC 5228 section 2.7.3)`,
  'bad-address': (d) => `"${d.address}" is not a single complete address (RFC 5228 section 2.4.2.3)`,
  'bad-header-name': (d) => `"${d.name}" cannot be the name of a header field (RFC 5228 section 2.4.2.2)`,
  'bad-envelope-part': (d) => `"${d.name}" is not a part of the envelope (RFC 5228 section 5.4)`,
  'comparator-lacks': (d) => `the comparator "${d.name}" cannot be used with :${d.tag} (RFC 4790 section 4.2)`,
  'bad-regex': (d) => `this regular expression cannot be used: ${d.reason} (draft-ietf-sieve-regex section 2)`,
  'bad-value': (d) => `"${d.found}" is not allowed here: expected ${d.expected}`,
  'bad-encoded-character': (d) => `${d.found} is not a character (RFC 5228 section 2.4.2.4)`,
  'conflicting-actions': (d) => `${d.name} and ${d.other} cannot both act on one message (${d.section})`,
  'twice-in-script': (d) => `${d.name} may act only once (${d.section})`,
  outside: (d) => `${d.name} must be inside ${d.within} (${d.section})`,
  'empty-folder': () => 'the name of a folder cannot be empty (RFC 5228 section 4.1)',
  'nul-character': () => 'a script cannot contain a NUL character (RFC 5228 section 8.1)',
} satisfies Record<string, Words>;

export type DiagnosticCode = keyof typeof WORDS;

function suggestion(details: Readonly<Record<string, string>>): string {
  return details.nearest ? `; did you mean "${details.nearest}"?` : '';
}

/** A diagnostic at a place, which may be a tree node: only its offsets are kept. */
export function diagnostic(
  code: DiagnosticCode,
  { start, end }: Span,
  details: Record<string, string> = {},
): Diagnostic {
  return { code, span: { start, end }, details };
}

/** One sentence without a full stop: what was found, what was expected, and the section. */
export function wordsOf(fault: Diagnostic): string {
  const shown = Object.entries(fault.details).map(([name, value]) => [name, onOneLine(value)]);
  const words: Words = WORDS[fault.code];
  return words(Object.fromEntries(shown));
}

/** Most characters of a script quoted in a diagnostic. */
const SHOWN = 80;

function onOneLine(value: string): string {
  // biome-ignore lint/suspicious/noControlCharactersInRegex: these are what may not reach a terminal or begin a line
  const plain = value.replace(/[\u0000-\u001f\u007f-\u009f\u2028\u2029]+/g, ' ');
  return plain.length <= SHOWN
    ? plain
    : `${Array.from(plain.slice(0, 2 * SHOWN))
        .slice(0, SHOWN - 2)
        .join('')}...`;
}

/** `FILE:line:column: message`, one per diagnostic, in the order of the text. */
export function listing(file: string, source: string, faults: readonly Diagnostic[]): string[] {
  const lines = new LineIndex(source);
  return [...faults]
    .sort((a, b) => a.span.start - b.span.start)
    .map((fault) => {
      const { line, column } = lines.position(fault.span.start);
      return `${file}:${line}:${column}: ${wordsOf(fault)}`;
    });
}
