/**
 * What the values of fields look like, as automata with named states over single characters: plain text, an address, one
 * mailbox, a list of mailboxes (RFC 5322 sections 3.2, 3.4). A step says, beside the next state, which parts of an address
 * the character belongs to.
 *
 * Addresses are taken to be written plainly: without comments or blanks within, a local part quoted only where it has to be
 * and then without backslashes and with something beside dots that needs it, at most one group in a list. Display names may be any text, since encoded words may stand for any.
 */

/** Which tests read a character, apart from tests of the whole text. */
export type Reads = 'nothing' | 'local' | 'domain' | 'address';

export interface Move {
  readonly to: string;
  readonly reads: Reads;
  /** Whether a mailbox begins at this character, or ended just before this character. */
  readonly mailbox?: 'begins' | 'ended';
}

export interface Shape {
  readonly name: ShapeName;
  readonly start: string;
  readonly moves: (state: string, character: string) => readonly Move[];
  /** Whether a value may end here; `open` if the value ends within a mailbox. */
  readonly ends: (state: string) => 'no' | 'closed' | 'open';
}

export type ShapeName = 'text' | 'lines' | 'path' | 'mailbox' | 'mailboxes';

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
};

/** Whether the character that leads to this state belongs to a display name. */
export const isInName = (state: string): boolean => /^g?name ?$/.test(state);

/** Any text, such as a body. */
const LINES: Shape = {
  name: 'lines',
  start: 'start',
  moves: () => [{ to: 'start', reads: 'nothing' }],
  ends: () => 'closed',
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
  };
}

export const SHAPES: Readonly<Record<ShapeName, Shape>> = {
  text: TEXT,
  lines: LINES,
  path: PATH,
  mailbox: mailboxShape('mailbox', false),
  mailboxes: mailboxShape('mailboxes', true),
};
