import type { CommandDefinition, TestDefinition } from './language/definition';
import { capabilities, capabilitiesOf, commands, tests } from './language/table';
import { tagUsage, usageOf } from './language/usage';
import { comparatorNames } from './match/comparators';
import { Lexer, TOKEN, type TokenKind } from './tokens';

/** Completions at a position of a script, from the table of the language. */
export interface Completions {
  /** The start of the word that a completion replaces; it ends at the cursor. */
  readonly from: number;
  readonly options: readonly CompletionOption[];
}

export interface CompletionOption {
  readonly label: string;
  readonly kind: 'command' | 'test' | 'tag' | 'string';
  /** The capability it needs, and its syntax. */
  readonly detail: string;
  readonly about: string;
}

type Definition = CommandDefinition | TestDefinition;

/** The syntactic position: what was begun last, and what comes next. */
interface Place {
  /**
   * The command or test whose arguments are being written; null at the beginning of a statement or for an unknown name.
   */
  readonly head: Definition | null;
  readonly next: 'command' | 'test' | 'argument';
  /** The tags given to `head` so far. */
  readonly tags: readonly string[];
}

const RELATIONS = ['gt', 'ge', 'lt', 'le', 'eq', 'ne'];

/** Null inside comments and free texts. */
export function maybeCompletions(source: string, offset: number): Completions | null {
  const before = source.slice(0, offset);
  const last: { kind: TokenKind; start: number; end: number } = { kind: TOKEN.end, start: 0, end: -1 };
  const lexer = new Lexer(before);
  for (lexer.next(); lexer.kind !== TOKEN.end; lexer.next()) {
    last.kind = lexer.kind;
    last.start = lexer.start;
    last.end = lexer.end;
  }
  const open = lexer.diagnostics.find(({ code }) => /^unclosed-/.test(code));
  if (open?.code === 'unclosed-string') {
    const inside = placeOf(before.slice(0, open.span.start));
    return { from: open.span.start + 1, options: stringOptions(inside) };
  }
  const { kind } = last;
  const comment = lexer.comments.at(-1);
  if (open || (comment?.form === 'hash' && comment.end === offset)) return null;
  const touches = last.end === offset;
  const word = touches && (kind === TOKEN.identifier || kind === TOKEN.tag || before.endsWith(':'));
  const from = word ? (before.endsWith(':') ? offset - 1 : last.start) : offset;
  const place = placeOf(before.slice(0, from));
  if (before[from] === ':') return { from, options: tagOptions(place) };
  if (touches && !word && (kind === TOKEN.number || kind === TOKEN.quoted || kind === TOKEN.escaped)) return null;
  if (place.next === 'command') return { from, options: [...commands.values()].map(nameOption) };
  if (place.next === 'test') return { from, options: [...tests.values()].map(nameOption) };
  return { from, options: tagOptions(place) };
}

/** Parses the text before a position, which may be incomplete. */
function placeOf(before: string): Place {
  const lexer = new Lexer(before);
  let place: Place = { head: null, next: 'command', tags: [] };
  let lists = 0;
  for (lexer.next(); lexer.kind !== TOKEN.end; lexer.next()) {
    const { kind, name } = lexer;
    if (kind === TOKEN['[']) lists++;
    else if (kind === TOKEN[']']) lists--;
    else if (kind === TOKEN[','] && lists > 0) continue;
    else place = after(place, kind, kind === TOKEN.identifier || kind === TOKEN.tag ? name : '');
  }
  return place;
}

function after(place: Place, kind: TokenKind, name: string): Place {
  switch (kind) {
    case TOKEN[';']:
    case TOKEN['{']:
    case TOKEN['}']:
      return { head: null, next: 'command', tags: [] };
    case TOKEN['(']:
    case TOKEN[',']:
      return { head: null, next: 'test', tags: [] };
    case TOKEN.identifier: {
      const head = (place.next === 'command' ? commands.get(name) : tests.get(name)) ?? null;
      return { head, next: head && head.subtests !== 'none' ? 'test' : 'argument', tags: [] };
    }
    case TOKEN.tag:
      return { ...place, tags: [...place.tags, name] };
    default:
      return place;
  }
}

function tagOptions({ head, tags }: Place): CompletionOption[] {
  if (!head) return [];
  return head.tagGroups
    .filter((group) => !group.tags.some(({ tag }) => tags.includes(tag)))
    .flatMap((group) => group.tags)
    .filter(
      ({ beside }) =>
        !beside ||
        head.tagGroups.some(({ name, tags: own }) => name === beside && own.some(({ tag }) => tags.includes(tag))),
    )
    .map((tag) => ({
      label: `:${tag.tag}`,
      kind: 'tag',
      detail: tag.capability ?? '',
      about: tagUsage(tag),
    }));
}

/** String arguments with a list of values in the standards. */
function stringOptions({ head, tags }: Place): CompletionOption[] {
  const last = tags[tags.length - 1];
  if (head?.name === 'require' || head?.name === 'ihave') return [...capabilities].sort().map(stringOption);
  if (last === 'comparator') return comparatorNames().map(stringOption);
  if (last === 'value' || last === 'count') return RELATIONS.map(stringOption);
  return [];
}

const stringOption = (label: string): CompletionOption => ({ label, kind: 'string', detail: '', about: '' });

function nameOption(definition: Definition): CompletionOption {
  return {
    label: definition.name,
    kind: definition.kind,
    detail: capabilitiesOf(definition)[0] ?? '',
    about: `${definition.about}\n${usageOf(definition)}`,
  };
}
