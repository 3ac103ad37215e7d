/**
 * The values of fields, as automata with named states over single characters. A step says, beside the next state, which
 * parts of an address the character belongs to.
 *
 * Well-formed values: plain text, an address, one mailbox, a list of mailboxes (RFC 5322 sections 3.2, 3.4). Their
 * addresses have no comments or blanks inside, a local part quoted only if necessary and then without backslashes, and
 * a list has at most one group. Display names may be any text, since encoded words may stand for any.
 *
 * Values as they are found in mail: any text; an address as `mail/address.ts` returns it, possibly without a domain; any
 * text with addresses somewhere inside.
 */

/** Which tests read a character, apart from tests of the whole text. */
export type Reads = 'nothing' | 'local' | 'domain' | 'address';

export interface Move {
  readonly to: string;
  readonly reads: Reads;
  /** Whether a mailbox begins at this character, or ended just before this character, perhaps without a domain. */
  readonly mailbox?: 'begins' | 'ended' | 'ended without domain';
}

export interface Shape {
  readonly name: ShapeName;
  readonly start: string;
  readonly moves: (state: string, character: string) => readonly Move[];
  /** Whether a value may end here; `open` if the value ends within a mailbox. */
  readonly ends: (state: string) => 'no' | 'closed' | 'open' | 'open without domain';
  /** Whether each value has exactly one mailbox. */
  readonly single: boolean;
}

/** Well-formed values. */
export type StrictShape = 'text' | 'lines' | 'path' | 'mailbox' | 'mailboxes';

/** Values as found in mail; `addressed once` has at most one address. */
export type LooseShape = 'any text' | 'address' | 'addressed' | 'addressed once';

export type ShapeName = StrictShape | LooseShape;

const BLANK = /^\s$/u;
/** Characters of a dot-atom: all but blanks and specials; beyond US-ASCII by RFC 6532. */
const ATEXT = /^[^\s"(),:;<>@[\\\].]$/u;
/** A well-formed value has no control characters except the tab. */
const isText = (character: string): boolean => (character >= ' ' && character !== '\u007f') || character === '\t';

/** Values are trimmed, so no value begins or ends with a blank. */
const TEXT: Shape = {
  name: 'text',
  start: 'start',
  moves: (state, character) => {
    if (!isText(character)) return [];
    if (BLANK.test(character)) return state === 'start' ? [] : [{ to: 'blank', reads: 'nothing' }];
    return [{ to: 'text', reads: 'nothing' }];
  },
  ends: (state) => (state === 'blank' ? 'no' : 'closed'),
  single: false,
};

/** Whether the character that leads to this state belongs to a display name. */
export const isInName = (state: string): boolean => /^g?name ?$/.test(state);

/** Any text, such as a body. */
const LINES: Shape = {
  name: 'lines',
  start: 'start',
  moves: () => [{ to: 'start', reads: 'nothing' }],
  ends: () => 'closed',
  single: false,
};

const nothing = (to: string): Move => ({ to, reads: 'nothing' });

/** The transitions within an address; `close` is the transition after the address. */
function addressMoves(state: string, character: string): readonly Move[] {
  switch (state) {
    case 'local':
      if (ATEXT.test(character)) return [{ to: 'local', reads: 'local' }];
      if (character === '.') return [{ to: 'local.', reads: 'local' }];
      return character === '@' ? [{ to: '@', reads: 'address' }] : [];
    case 'local.':
      return ATEXT.test(character) ? [{ to: 'local', reads: 'local' }] : [];
    case 'quoted':
    case 'quoted needed':
      if (character === '"') return state === 'quoted' ? [] : [{ to: '"', reads: 'address' }];
      if (character === '\\' || !isText(character)) return [];
      // A local part is quoted only if something in the local part needs the quotation marks.
      return [{ to: ATEXT.test(character) || character === '.' ? state : 'quoted needed', reads: 'local' }];
    case '"':
      return character === '@' ? [{ to: '@', reads: 'address' }] : [];
    case '@':
      if (character === '[') return [{ to: 'literal', reads: 'domain' }];
      return ATEXT.test(character) ? [{ to: 'domain', reads: 'domain' }] : [];
    case 'domain':
      if (ATEXT.test(character)) return [{ to: 'domain', reads: 'domain' }];
      return character === '.' ? [{ to: 'domain.', reads: 'domain' }] : [];
    case 'domain.':
      return ATEXT.test(character) ? [{ to: 'domain', reads: 'domain' }] : [];
    case 'literal':
      if (character === ']') return [{ to: 'literal end', reads: 'domain' }];
      return isText(character) && !/[[\\]/.test(character) ? [{ to: 'literal', reads: 'domain' }] : [];
    default:
      return [];
  }
}

/** The transitions at the beginning of an address. */
function opening(character: string): readonly Move[] {
  if (ATEXT.test(character)) return [{ to: 'local', reads: 'local', mailbox: 'begins' }];
  return character === '"' ? [{ to: 'quoted', reads: 'address', mailbox: 'begins' }] : [];
}

const endsAddress = (state: string): boolean => state === 'domain' || state === 'literal end';

const PATH: Shape = {
  name: 'path',
  start: 'start',
  moves: (state, character) => (state === 'start' ? opening(character) : addressMoves(state, character)),
  ends: (state) => (endsAddress(state) ? 'open' : 'no'),
  single: true,
};

/**
 * Ann Lee <ann@mill.example>, bob@mill.example
 * ^ name  ^ angle             ^ start again
 * States within angle brackets carry a mark, so that what must come behind is known; so do those within a group.
 */
function mailboxShape(name: ShapeName, several: boolean): Shape {
  const within = (group: string, moves: readonly Move[], mark: string): Move[] =>
    moves.map((move) => ({ ...move, to: `${group}${mark}${move.to}` }));
  const element = (group: string, character: string): Move[] => [
    ...within(group, opening(character), ''),
    ...(character === '<' ? [nothing(`${group}<`)] : []),
    ...(isText(character) && !BLANK.test(character) ? [nothing(`${group}name`)] : []),
  ];
  const at = (group: string, state: string, character: string): readonly Move[] => {
    const here = (to: string) => `${group}${to}`;
    if (state.startsWith('<')) {
      const inner = state.slice(1);
      if (inner === '') return within(group, opening(character), '<');
      if (endsAddress(inner) && character === '>') return [{ to: here('>'), reads: 'nothing', mailbox: 'ended' }];
      return within(group, addressMoves(inner, character), '<');
    }
    switch (state) {
      case 'start':
        return element(group, character);
      case 'name':
      case 'name ':
        return [
          ...(isText(character) ? [nothing(here(BLANK.test(character) ? 'name ' : 'name'))] : []),
          ...(character === '<' ? [nothing(here('<'))] : []),
          ...(several && group === '' && character === ':' ? [nothing('g:')] : []),
        ];
      case ':':
        if (character === ';') return [nothing('done')];
        return character === ' ' ? [nothing(here(':'))] : element(group, character);
      case '>':
        return after(group, character, null);
      case ',':
        return character === ' ' ? [nothing(here(','))] : element(group, character);
      default: {
        const moves = within(group, addressMoves(state, character), '');
        return endsAddress(state) ? [...moves, ...after(group, character, 'ended')] : moves;
      }
    }
  };
  const after = (group: string, character: string, mailbox: 'ended' | null): Move[] => {
    const ended = mailbox ? { mailbox } : {};
    if (several && character === ',') return [{ to: `${group}${','}`, reads: 'nothing', ...ended }];
    return group !== '' && character === ';' ? [{ to: 'done', reads: 'nothing', ...ended }] : [];
  };
  return {
    name,
    start: 'start',
    moves: (state, character) =>
      state.startsWith('g') ? at('g', state.slice(1), character) : at('', state, character),
    ends: (state) => (endsAddress(state) ? 'open' : state === '>' || state === 'done' ? 'closed' : 'no'),
    single: !several,
  };
}

/** Characters that the reader trims off both ends of a value (`trimmed` in `mail/headers.ts`). */
const TRIMMED = /^[ \t\r\n]$/;

/** The state after one more character of any text that is trimmed; null if no such text begins so. */
function textState(state: string, character: string): string | null {
  if (!TRIMMED.test(character)) return 'text';
  return state === 'start' ? null : 'blank';
}

const ANY_TEXT: Shape = {
  name: 'any text',
  start: 'start',
  moves: (state, character) => {
    const to = textState(state, character);
    return to === null ? [] : [nothing(to)];
  },
  ends: (state) => (state === 'blank' ? 'no' : 'closed'),
  single: false,
};

/** How an address may end after these characters. */
function looseEnd(state: string): 'no' | 'ended' | 'ended without domain' {
  if (endsAddress(state)) return 'ended';
  return state === 'local' || state === '"' ? 'ended without domain' : 'no';
}

/** The transitions within an address as `addressText` returns it: any local part, quoted if necessary. */
function looseMoves(state: string, character: string): readonly Move[] {
  const local = (to: string): Move[] => [{ to, reads: 'local' }];
  switch (state) {
    case 'quoted empty':
    case 'quoted atom':
    case 'quoted dot':
    case 'quoted needed':
      // Neither an empty local part nor a dot-atom is quoted.
      if (character === '"')
        return state === 'quoted dot' || state === 'quoted needed' ? [{ to: '"', reads: 'address' }] : [];
      if (character === '\\') return [{ to: 'quoted pair', reads: 'address' }];
      if (state === 'quoted needed') return local(state);
      if (ATEXT.test(character)) return local('quoted atom');
      return local(character === '.' && state === 'quoted atom' ? 'quoted dot' : 'quoted needed');
    case 'quoted pair':
      return character === '"' || character === '\\' ? local('quoted needed') : [];
    case 'literal':
      return [{ to: character === ']' ? 'literal end' : 'literal', reads: 'domain' }];
    default:
      return addressMoves(state, character);
  }
}

function looseOpening(character: string): readonly Move[] {
  if (ATEXT.test(character)) return [{ to: 'local', reads: 'local', mailbox: 'begins' }];
  // The local part may be empty.
  if (character === '@') return [{ to: '@', reads: 'address', mailbox: 'begins' }];
  return character === '"' ? [{ to: 'quoted empty', reads: 'address', mailbox: 'begins' }] : [];
}

const ADDRESS: Shape = {
  name: 'address',
  start: 'start',
  moves: (state, character) => (state === 'start' ? looseOpening(character) : looseMoves(state, character)),
  ends: (state) => {
    // An empty local part without a domain.
    if (state === 'start') return 'open without domain';
    const end = looseEnd(state);
    return end === 'no' ? 'no' : end === 'ended' ? 'open' : 'open without domain';
  },
  single: true,
};

const FREE = ['start', 'text', 'blank'];

/** "" @mill.example: the address has an empty local part, which is written with quotation marks. */
function afterEmptyLocal(state: string, character: string): Move[] {
  if (state === '""') return character === '@' ? [{ to: '@', reads: 'address', mailbox: 'begins' }] : [];
  return character === '"' ? [nothing(state === 'empty' ? '""' : 'empty')] : [];
}

/**
 * Any text with addresses in it, at least one character apart. Once the text may have no further address, its states are
 * marked.
 */
function addressedShape(name: ShapeName, several: boolean): Shape {
  const marked = (state: string) => (several ? state : `-${state}`);
  const after = (end: 'ended' | 'ended without domain', character: string): Move[] => {
    const to = textState('text', character);
    return to === null ? [] : [{ to: marked(to), reads: 'nothing', mailbox: end }];
  };
  return {
    name,
    start: 'start',
    moves: (state, character) => {
      const isDone = state.startsWith('-');
      const plain = isDone ? state.slice(1) : state;
      if (plain === 'empty' || plain === '""') return afterEmptyLocal(plain, character);
      if (!FREE.includes(plain)) {
        const end = looseEnd(state);
        return [...looseMoves(state, character), ...(end === 'no' ? [] : after(end, character))];
      }
      const to = textState(plain, character);
      const free = to === null ? [] : [nothing(isDone ? `-${to}` : to)];
      if (isDone) return free;
      const opening = character === '@' ? [] : looseOpening(character);
      return [...free, ...opening, ...afterEmptyLocal('start', character)];
    },
    ends: (state) => {
      const plain = state.startsWith('-') ? state.slice(1) : state;
      if (FREE.includes(plain)) return plain === 'blank' ? 'no' : 'closed';
      if (plain === 'empty' || plain === '""') return 'no';
      return ADDRESS.ends(state);
    },
    single: false,
  };
}

export const SHAPES: Readonly<Record<ShapeName, Shape>> = {
  text: TEXT,
  lines: LINES,
  path: PATH,
  mailbox: mailboxShape('mailbox', false),
  mailboxes: mailboxShape('mailboxes', true),
  'any text': ANY_TEXT,
  address: ADDRESS,
  addressed: addressedShape('addressed', true),
  'addressed once': addressedShape('addressed once', false),
};
