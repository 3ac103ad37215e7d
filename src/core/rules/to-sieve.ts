import { needsOf } from '../sieve/language/needs';
import { parse } from '../sieve/parse';
import { print, printComment } from '../sieve/print';
import { quote } from '../sieve/quote';
import { literal, mapStrings, type StringReading } from '../sieve/strings';
import type { CommandNode, Comment, Script, Statement, TestNode } from '../sieve/tree';
import { elementAt } from '../text/lookup';
import { command, strings } from './arguments';
import { markedName, notedLine, TOLD_MARK } from './marks';
import { actionNode, testNode } from './nodes';
import { inSieve, profileOf } from './profile';
import type { Chain, ChainEntry, Rule, ScriptBlock, TestTree } from './rule';
import { sentenceOf } from './sentence';

const NOWHERE = { start: 0, end: 0 };

export interface WrittenChain {
  readonly script: Script;
  /** The script as text, which parses to `script`; script blocks are included word for word. */
  readonly text: string;
  /** The chain entry of each top-level command; `require` has none. */
  readonly entryOf: ReadonlyMap<Statement, ChainEntry>;
}

/**
 * `export`: rules that are off are left out, and text that was not understood becomes a comment. `editing`: everything
 * is included, rules that are off under a marked name, so that reading the text back gives the same chain.
 */
export type Form = 'export' | 'editing';

/** What an export contains besides the rules that are on. */
export interface WritingSettings {
  /** Ids of entries that are off and become comments; others that are off are left out. */
  readonly comments?: ReadonlySet<string>;
  /** Whether each rule has its sentence above it, in a comment that is not read back as a note. */
  readonly sentences?: boolean;
  /**
   * The most capabilities in one `require`, if a server has such a limit; several are equivalent (RFC 5228 section
   * 3.2).
   */
  readonly requires?: number | null;
  /** Capabilities to require in any case. */
  readonly also?: readonly string[];
  /** Whether the script is run to see which entries fire, even those that have no effect besides others. */
  readonly isTraced?: boolean;
  /** Called for each entry; may throw to cancel. */
  readonly checkpoint?: () => void;
}

/** The output of one entry: its commands, with the comments above them. */
interface Piece {
  readonly entry: ChainEntry;
  readonly statements: readonly Statement[];
  /** Lines above verbatim text; printed statements have their comments in the tree. */
  readonly above: string;
  /** Verbatim text; null if the statements are printed. */
  readonly words: string | null;
}

/** Writes the chain as a Sieve script with the `require` it needs. */
export function sieveFromChain(chain: Chain, form: Form = 'export', settings: WritingSettings = {}): WrittenChain {
  if (profileOf(chain) && form === 'export') return fromProfile(chain, settings);
  const { checkpoint = () => {}, also = [] } = settings;
  const meant = piecesOf(chain, form, settings);
  const needs = meant.flatMap((piece) => {
    checkpoint();
    return pieceNeeds(piece, form);
  });
  const needed = [...new Set([...also, ...needs])].sort();
  const unset = needed.includes('variables') ? unsetName(meant) : '';
  const pieces = meant.map((piece) => asRead(piece, needed, unset));
  const most = settings.requires ?? needed.length;
  const head = needed.flatMap((_, at) =>
    at % most === 0 ? [command('require', [strings(needed.slice(at, at + most))])] : [],
  );
  const trailing = notedLines(chain.closing).map(comment);
  const text = [
    ...head.map(printStatement),
    ...pieces.map((piece) => {
      checkpoint();
      return piece.above + (piece.words ?? piece.statements.map(printStatement).join(''));
    }),
    ...(trailing.length > 0 ? [`${trailing.map(printComment).join('\n')}\n`] : []),
  ].join('\n');
  const commands = [...head, ...pieces.flatMap((piece) => piece.statements)];
  const entryOf = new Map(pieces.flatMap((piece) => piece.statements.map((statement) => [statement, piece.entry])));
  return { script: { kind: 'script', source: text, commands, trailing }, text, entryOf };
}

/** A script that does what the program does; its commands belong to the entries that they come from. */
function fromProfile(given: Chain, settings: WritingSettings): WrittenChain {
  const { chain, sources } = inSieve(given, settings.isTraced);
  const { entryOf, ...written } = sieveFromChain(chain, 'export', settings);
  const sourceOf = new Map(Array.from(entryOf, ([statement, entry]) => [statement, sources.get(entry) ?? entry]));
  return { ...written, entryOf: sourceOf };
}

function pieceNeeds({ entry, statements }: Piece, form: Form): string[] {
  // In an export, entries that are off or not understood become comments.
  const inForce = form === 'editing' || (entry.kind === 'script' && entry.on && entry.works);
  const own = entry.kind === 'script' && inForce ? entry.requires : [];
  return [...statements.flatMap(needsOf), ...own];
}

/** Rewrites the strings of a piece so that they keep their meaning under everything the script requires. */
function asRead(piece: Piece, needed: readonly string[], unset: string): Piece {
  const own = piece.entry.kind === 'script' ? piece.entry.requires : [];
  const beyond = (capability: string) => needed.includes(capability) && !own.includes(capability);
  const reading: StringReading = {
    variables: beyond('variables'),
    encoded: beyond('encoded-character'),
    unset,
  };
  if (!reading.variables && !reading.encoded) return piece;
  let changed = false;
  const change = (value: string) => {
    const written = literal(value, reading);
    changed ||= written !== value;
    return written;
  };
  const statements = piece.statements.map((statement) => mapStrings(statement, change));
  return changed ? { ...piece, statements, above: '', words: null } : piece;
}

/** A variable name that no script block mentions, so that it is never set. */
function unsetName(pieces: readonly Piece[]): string {
  const said = new Set<string>();
  for (const { words } of pieces) {
    for (const [, digits = ''] of words?.toLowerCase().matchAll(/nothing(\d{0,9})/g) ?? []) {
      for (let length = 0; length <= digits.length; length++) said.add(digits.slice(0, length));
    }
  }
  let count = 1;
  while (said.has(count === 1 ? '' : String(count))) count++;
  return count === 1 ? 'nothing' : `nothing${count}`;
}

function piecesOf(chain: Chain, form: Form, { comments, sentences = false, checkpoint }: WritingSettings): Piece[] {
  const pieces: Piece[] = [];
  // Whether a rule of the current run has been written, so that the next becomes an elsif.
  let runOpen = false;
  for (const [place, entry] of chain.entries.entries()) {
    checkpoint?.();
    if (entry.kind === 'script' || entry.link === 'always') runOpen = false;
    if (!entry.on && form === 'export') {
      if (comments?.has(entry.id)) pieces.push(commentPiece(entry));
      continue;
    }
    const name = form === 'editing' ? markedName(entry) : entry.name;
    if (entry.kind === 'script') pieces.push(blockPiece(entry, name, form));
    else {
      const above = [...notedLines(entry.note), ...(sentences ? [sentenceLine(entry)] : []), name];
      const branch = !runOpen || entry.link === 'always' ? 'if' : isRest(chain, place, form) ? 'else' : 'elsif';
      pieces.push({ entry, statements: [ruleNode(entry, above, branch)], above: '', words: null });
      runOpen = true;
    }
  }
  return pieces;
}

const sentenceLine = (rule: Rule): string => `${TOLD_MARK}${sentenceOf(rule)}`.replace(/[\r\n]+/g, ' ');

/** An entry that is off, as comments. */
function commentPiece(entry: ChainEntry): Piece {
  const alone: Chain = { entries: [{ ...entry, on: true }], closing: '' };
  const text = entry.kind === 'rule' ? sieveFromChain(alone).text : entry.text;
  const lines = [`${entry.name}: switched off`, ...text.trimEnd().split(/\r?\n/)].map((line) => `${TOLD_MARK}${line}`);
  return { entry, statements: [], above: '', words: lines.map((line) => `${printComment(comment(line))}\n`).join('') };
}

function blockPiece(entry: ScriptBlock, name: string, form: Form): Piece {
  const commented = (lines: readonly string[]) => lines.map((line) => `${printComment(comment(line))}\n`).join('');
  const notes = notedLines(entry.note);
  if (entry.works || form === 'editing') {
    const above = commented([...notes, name]);
    return { entry, statements: entry.works ? statementsOf(entry, above) : [], above, words: `${entry.text}\n` };
  }
  const required = entry.requires.length > 0 ? `; it requires ${entry.requires.map(quote).join(', ')}` : '';
  const above = commented([...notes, `${name}: not understood, not run${required}`]);
  const words = commented(entry.text.split(/\r?\n/).map((line) => `| ${line}`));
  return { entry, statements: [], above, words };
}

const readBlocks = new WeakMap<ScriptBlock, { readonly above: string; readonly statements: readonly Statement[] }>();

/** Blocks are written repeatedly, so derived text is cached. */
function statementsOf(block: ScriptBlock, above: string): readonly Statement[] {
  const known = readBlocks.get(block);
  if (known?.above === above) return known.statements;
  const statements = parse(above + block.text).script.commands;
  readBlocks.set(block, { above, statements });
  return statements;
}

function printStatement(statement: Statement): string {
  return print({ kind: 'script', source: '', commands: [statement], trailing: [] });
}

/**
 * Whether a rule takes everything its run has left, and is the last of the run. A rule without actions is written with
 * its test, so that it stays visible.
 */
function isRest({ entries }: Chain, place: number, form: Form): boolean {
  const entry = elementAt(entries, place);
  if (entry.kind === 'script') return false;
  const { tests, unless, actions, ending } = entry;
  if (actions.length === 0 && ending === 'continue') return false;
  if (tests.kind !== 'all' || tests.children.length > 0 || unless.length > 0) return false;
  for (const next of entries.slice(place + 1)) {
    if (next.kind === 'script' || next.link === 'always') return true;
    if (next.on || form === 'editing') return false;
  }
  return true;
}

function ruleNode(rule: Rule, above: readonly string[], branch: 'if' | 'elsif' | 'else'): CommandNode {
  const ending = rule.ending === 'stop' ? [command('stop', [])] : [];
  const body = [...rule.actions.map(actionNode), ...ending];
  return {
    ...command(branch, []),
    leading: above.map(comment),
    tests: branch === 'else' ? [] : [ruleTest(rule)],
    block: { kind: 'block', commands: body, trailing: [], ...NOWHERE },
  };
}

/**
 * Exceptions become `not` beside the tests, and negations among the tests get an allof of their own, so that reading
 * the script back distinguishes them.
 */
function ruleTest({ tests, unless }: Rule): TestNode {
  const children = tests.kind === 'all' && tests.children.length > 0 ? tests.children : [tests];
  const negations = children.filter((child) => child.kind === 'none').length;
  const apart = negations > 0 && (unless.length > 0 || negations < children.length);
  if (unless.length === 0) return testNode(apart ? { kind: 'all', children: [tests] } : tests);
  const positive: readonly TestTree[] = apart ? [{ kind: 'all', children }] : children;
  return testNode({ kind: 'all', children: [...positive, { kind: 'none', children: unless }] });
}

const notedLines = (note: string): string[] => (note === '' ? [] : note.split(/\r?\n/).map(notedLine));

function comment(text: string): Comment {
  return { form: 'hash', text: text.replace(/[\r\n\0]+/g, ' ').trim(), ...NOWHERE };
}
