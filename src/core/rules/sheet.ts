import { maybeSingleAddress } from '../mail/address';
import { printTest } from '../sieve/print';
import { actionsText, readWrittenActions, readWrittenTest } from './as-written';
import { testNode } from './nodes';
import { type Action, type Chain, leavesOf, type Rule, type TestTree } from './rule';
import { isSame } from './same';
import {
  ANYWHERE,
  ATTACHED,
  type ConditionColumn,
  FIELD,
  IMPORTANT,
  keysIn,
  maybeYes,
  namedColumn,
  onlyColumn,
  peopleColumn,
  RECIPIENTS,
  SUBJECT,
  SUBJECT_OR_TEXT,
  sizeColumn,
  TEXT,
  wordsColumn,
} from './sheet-conditions';

/**
 * Rules as rows of a sheet, one rule a row. Plain cells express most rules; cells of Sieve express the rest, so that
 * any rule survives being written and read back.
 */

export type SheetColumn =
  | 'name'
  | 'on'
  | 'sender'
  | 'recipient'
  | 'subject'
  | 'text'
  | 'either'
  | 'anywhere'
  | 'list'
  | 'delivered'
  | 'only'
  | 'attachment'
  | 'size'
  | 'important'
  | 'which'
  | 'tests'
  | 'exceptSender'
  | 'exceptRecipient'
  | 'exceptSubject'
  | 'exceptText'
  | 'exceptions'
  | 'folder'
  | 'copy'
  | 'keep'
  | 'seen'
  | 'flags'
  | 'forward'
  | 'forwardCopy'
  | 'drop'
  | 'actions'
  | 'ending'
  | 'link'
  | 'note'
  | 'tags'
  | OwnColumn;

/** A column of words in a header field that the user names: “Field X-Tag”. */
export type OwnColumn = `Field ${string}`;

/** The columns in their order, with their titles and what their cells may contain. */
export const SHEET_COLUMNS: readonly {
  readonly id: SheetColumn;
  readonly title: string;
  /** The title in sheets that earlier versions wrote. */
  readonly formerly?: string;
  readonly hint: string;
}[] = [
  { id: 'name', title: 'Rule', hint: 'the name of the rule' },
  { id: 'on', title: 'On', hint: 'yes or no; empty means yes' },
  {
    id: 'sender',
    title: 'From',
    formerly: 'Sender',
    hint: 'addresses, @domains, *.domains with all below them, or parts of names, separated by ; or commas',
  },
  { id: 'recipient', title: 'Addressed to', hint: 'the same, in To or Cc' },
  { id: 'subject', title: 'Subject has', hint: 'words, separated by ;' },
  { id: 'text', title: 'Body has', formerly: 'Text has', hint: 'words, separated by ;' },
  { id: 'either', title: 'Subject or body has', hint: 'words in either of them, separated by ;' },
  { id: 'anywhere', title: 'Anywhere', hint: 'words in subject, sender, recipients or body, separated by ;' },
  { id: 'list', title: 'Mailing list', hint: 'parts of its List-Id' },
  { id: 'delivered', title: 'Delivered to', hint: 'addresses in the field Delivered-To' },
  { id: 'only', title: 'Only to', hint: 'me, or addresses: one of them is the only one in To and Cc' },
  { id: 'attachment', title: 'Attachment', hint: 'yes for mail with attachments, no for mail without' },
  { id: 'size', title: 'Size', hint: 'such as over 5 MB, or under 10 KB' },
  { id: 'important', title: 'Important', hint: 'yes for mail that its sender marked as important' },
  { id: 'which', title: 'All or any', hint: 'all or any of the tests before; empty means all' },
  { id: 'tests', title: 'Test as Sieve', hint: 'instead of the tests before, or in addition' },
  { id: 'exceptSender', title: 'Not from', hint: 'exempt senders' },
  { id: 'exceptRecipient', title: 'Not addressed to', hint: 'exempt recipients' },
  { id: 'exceptSubject', title: 'Subject without', hint: 'words in the subject of exempt mail' },
  { id: 'exceptText', title: 'Body without', hint: 'words in the body of exempt mail' },
  { id: 'exceptions', title: 'Exceptions as Sieve', hint: 'a Sieve test; several exceptions with anyof' },
  { id: 'folder', title: 'Into folder', hint: 'the name of the folder' },
  { id: 'copy', title: 'Only a copy', hint: 'yes or no' },
  { id: 'keep', title: 'Keep in inbox', hint: 'whether filed mail stays in the inbox too: yes or no' },
  { id: 'seen', title: 'Mark as seen', hint: 'yes or no' },
  { id: 'flags', title: 'Flags', hint: 'flags and keywords, separated by ;' },
  { id: 'forward', title: 'Redirect to', hint: 'addresses' },
  {
    id: 'forwardCopy',
    title: 'Keep a copy',
    formerly: 'Keep it too',
    hint: 'whether redirected mail is kept too: yes or no; empty means yes',
  },
  { id: 'drop', title: 'Discard', formerly: 'Drop', hint: 'yes or no' },
  { id: 'actions', title: 'Actions as Sieve', hint: 'instead of the actions before, or in addition' },
  { id: 'ending', title: 'Stops', formerly: 'Ends here', hint: 'yes or no; empty means yes' },
  {
    id: 'link',
    title: 'Only otherwise',
    hint: 'whether the rule is tried only if the one before did not act: yes or no',
  },
  { id: 'note', title: 'Note', hint: 'anything' },
  { id: 'tags', title: 'Tags', hint: 'words to find the rule by, separated by ;' },
];

/** The cells of a row; absent cells are empty. */
export type SheetRow = Readonly<Partial<Record<SheetColumn, string>>>;

export interface CellFault {
  readonly column: SheetColumn;
  readonly words: string;
}

export type RowReading =
  | {
      readonly ok: true;
      readonly rule: Rule;
      /** What is odd, though it can be so. */
      readonly warnings: readonly CellFault[];
    }
  | { readonly ok: false; readonly faults: readonly CellFault[] };

/** An empty row, which stands for no rule. */
export const isBlank = (row: SheetRow): boolean => Object.values(row).every((cell) => (cell ?? '').trim() === '');

/** The cells from which an unnamed rule is named, most telling first. */
const TELLING = [
  'sender',
  'subject',
  'list',
  'recipient',
  'text',
  'either',
  'anywhere',
  'delivered',
  'folder',
] as const;

/** Names an unnamed row by what it is about; a blank row stays as it is. */
export function named(row: SheetRow): SheetRow {
  if (isBlank(row) || (row.name ?? '').trim() !== '') return row;
  const cell = TELLING.map((column) => row[column]?.split(/[;\n]/)[0]?.replace(/^\s*@/, '').trim() ?? '').find(Boolean);
  const used = SHEET_COLUMNS.find(({ id }) => (row[id] ?? '').trim() !== '')?.title;
  return { ...row, name: (cell ?? used ?? 'Rule').slice(0, LONGEST_NAME) };
}

const LONGEST_NAME = 80;

/** The rule of a row, or the faults of its cells; `me` are the user's own addresses. */
export function ruleOfRow(row: SheetRow, id: string, me: readonly string[] = []): RowReading {
  const reader = new RowReader(row, me);
  const rule = reader.rule(id);
  if (reader.faults.length > 0) return { ok: false, faults: reader.faults };
  const isForAll = rule.tests.kind === 'all' && rule.tests.children.length === 0;
  return { ok: true, rule, warnings: isForAll ? [{ column: 'sender', words: FOR_ALL }] : [] };
}

const FOR_ALL = 'The row has no test: the rule is for all mail.';

/** The columns of tests, in the order in which their tests stand in the rule. */
const TEST_COLUMNS = [
  peopleColumn('sender', ['from']),
  peopleColumn('recipient', RECIPIENTS),
  peopleColumn('delivered', ['delivered-to']),
  onlyColumn('only'),
  wordsColumn('subject', SUBJECT),
  wordsColumn('text', TEXT),
  wordsColumn('either', SUBJECT_OR_TEXT),
  wordsColumn('anywhere', ANYWHERE),
  wordsColumn('list', FIELD('list-id')),
  namedColumn('attachment', ATTACHED),
  sizeColumn('size'),
  namedColumn('important', IMPORTANT),
] as const satisfies readonly ConditionColumn<SheetColumn>[];

const EXCEPTION_COLUMNS = [
  peopleColumn('exceptSender', ['from']),
  peopleColumn('exceptRecipient', RECIPIENTS),
  wordsColumn('exceptSubject', SUBJECT),
  wordsColumn('exceptText', TEXT),
] as const satisfies readonly ConditionColumn<SheetColumn>[];

const isOwn = (column: string): column is OwnColumn => /^Field \S+$/.test(column);
const fieldOf = (column: OwnColumn): string => column.slice('Field '.length);
const ownColumns = (row: SheetRow) =>
  Object.keys(row)
    .filter(isOwn)
    .map((column) => wordsColumn(column, FIELD(fieldOf(column))));

class RowReader {
  readonly faults: CellFault[] = [];

  constructor(
    readonly row: SheetRow,
    readonly me: readonly string[],
  ) {}

  rule(id: string): Rule {
    const name = this.#cell('name');
    if (name === '') this.#say('name', 'The rule has no name.');
    const actions = this.#actions();
    const tags = this.#keys('tags');
    const rule: Rule = {
      kind: 'rule',
      id,
      name,
      note: this.row.note?.trim() ?? '',
      on: this.#yes('on', true),
      tests: this.#tests(),
      unless: this.#exceptions(),
      actions,
      ending: this.#yes('ending', true) ? 'stop' : 'continue',
      link: this.#yes('link', false) ? 'otherwise' : 'always',
    };
    return tags.length === 0 ? rule : { ...rule, tags };
  }

  #tests(): TestTree {
    const tests = [...this.#conditions([...TEST_COLUMNS, ...ownColumns(this.row)]), ...this.#sieveTest('tests')];
    const which = this.#cell('which').toLowerCase();
    if (!/^(all|any|)$/.test(which)) this.#say('which', 'Enter all or any.');
    const [only, another] = tests;
    if (only && !another) return only;
    return { kind: which === 'any' ? 'any' : 'all', children: tests };
  }

  #exceptions(): TestTree[] {
    return [
      ...this.#conditions(EXCEPTION_COLUMNS),
      ...(maybeYes(this.#cell('attachment')) === false ? [ATTACHED] : []),
      ...this.#sieveTest('exceptions').flatMap((tree) => (tree.kind === 'any' ? tree.children : [tree])),
    ];
  }

  #conditions(columns: readonly ConditionColumn<SheetColumn>[]): TestTree[] {
    return columns.flatMap(({ id, read }) => {
      const { trees, faults } = read(this.#cell(id), this.me);
      for (const fault of faults) this.#say(id, fault);
      return trees;
    });
  }

  #sieveTest(column: 'tests' | 'exceptions'): TestTree[] {
    const text = this.#cell(column);
    if (text === '') return [];
    const reading = readWrittenTest(text);
    if (reading.ok) return [reading.said];
    this.#say(column, `As Sieve: ${reading.words}.`);
    return [];
  }

  #actions(): Action[] {
    const flags = [...(this.#yes('seen', false) ? ['\\seen'] : []), ...this.#keys('flags')];
    const bad = flags.find((flag) => /\s/.test(flag));
    if (bad !== undefined) this.#say('flags', `“${bad}” cannot be a flag: a keyword is one word without spaces.`);
    const folder = this.#cell('folder');
    // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
    if (/[\u0000-\u001f\u007f]/.test(folder)) this.#say('folder', 'The folder name contains a control character.');
    const copy = this.#yes('copy', false);
    if (copy && folder === '') this.#say('copy', 'A copy needs a folder.');
    const keep = this.#yes('forwardCopy', true);
    const forward = this.#keys('forward');
    const wrong = forward.find((address) => !maybeSingleAddress(address));
    if (wrong !== undefined) this.#say('forward', `“${wrong}” is not a complete address.`);
    const drop = this.#yes('drop', false);
    const written = readWrittenActions(this.#cell('actions'));
    if (!written.ok) this.#say('actions', `As Sieve: ${written.words}.`);
    return [
      ...(flags.length > 0 ? [{ action: 'addflag', flags } as const] : []),
      ...(folder === '' ? [] : [{ action: 'fileinto', folder, copy, flags: null } as const]),
      ...(this.#yes('keep', false) ? [{ action: 'keep', flags: null } as const] : []),
      ...forward.map((address): Action => ({ action: 'redirect', address, copy: keep })),
      ...(drop ? [{ action: 'discard' } as const] : []),
      ...(written.ok ? written.said : []),
    ];
  }

  #cell(column: SheetColumn): string {
    return this.row[column]?.trim() ?? '';
  }

  #keys(column: SheetColumn): string[] {
    return keysIn(this.#cell(column));
  }

  #yes(column: SheetColumn, otherwise: boolean): boolean {
    const cell = this.#cell(column);
    if (cell === '') return otherwise;
    const yes = maybeYes(cell);
    if (yes === null) this.#say(column, 'Enter yes or no.');
    return yes ?? false;
  }

  #say(column: SheetColumn, words: string): void {
    this.faults.push({ column, words });
  }
}

/** A sheet as a chain, with faults by cell; faulty rows are left out. */
export interface ReadSheet {
  readonly chain: Chain;
  /** The rows that were left out. */
  readonly refused: readonly SheetRow[];
  /** Rows count from 1, without the heading. */
  readonly faults: readonly { readonly row: number; readonly column: string; readonly words: string }[];
}

/** The column with this title or id; null for any other heading. */
export function columnNamed(head: string): SheetColumn | null {
  const plain = (text: string) => text.trim().toLowerCase();
  const isHead = (name?: string) => name !== undefined && plain(name) === plain(head);
  const known = SHEET_COLUMNS.find(({ id, title, formerly }) => isHead(title) || isHead(formerly) || isHead(id))?.id;
  return known ?? ownColumn(head);
}

/** “Field X-Tag” is a column of words in X-Tag; null for anything else. */
export function ownColumn(head: string): OwnColumn | null {
  const [, name] = /^field\s+([!-9;-~]+)$/i.exec(head.trim()) ?? [];
  return name === undefined ? null : `Field ${name}`;
}

/** Whether the first row consists of our headings. */
export const isSheet = ([heads]: readonly (readonly string[])[]): boolean =>
  heads?.some((head) => columnNamed(head) === 'name') ?? false;

/** Reads a sheet with our columns, heading first. */
export function chainFromSheet([heads = [], ...rows]: readonly (readonly string[])[]): ReadSheet {
  const columns = heads.map(columnNamed);
  const faults: ReadSheet['faults'][number][] = heads.flatMap((head, at) =>
    columns[at] === null ? [{ row: 0, column: head, words: 'the sheet has no such column' }] : [],
  );
  const refused: SheetRow[] = [];
  const entries = rows.flatMap((cells, at): Rule[] => {
    const row: SheetRow = Object.fromEntries(
      columns.flatMap((column, place) => (column === null ? [] : [[column, cells[place] ?? '']])),
    );
    if (isBlank(row)) return [];
    const reading = ruleOfRow(named(row), `r${at + 1}`);
    if (reading.ok) return [reading.rule];
    faults.push(...reading.faults.map(({ column, words }) => ({ row: at + 1, column: titleOf(column), words })));
    refused.push(row);
    return [];
  });
  const chain = { entries: entries.map((rule, at) => ({ ...rule, id: `r${at + 1}` })), closing: '' };
  return { chain, faults, refused };
}

const titleOf = (column: SheetColumn): string => SHEET_COLUMNS.find(({ id }) => id === column)?.title ?? column;

/** The rules of a chain as a sheet, heading first. Script blocks are left out. */
export function sheetOf({ entries }: Chain): string[][] {
  const rows = entries.flatMap((entry) => (entry.kind === 'rule' ? [rowOfRule(entry)] : []));
  const own = [...new Set(rows.flatMap((row) => Object.keys(row).filter(isOwn)))];
  const columns: readonly SheetColumn[] = [...SHEET_COLUMNS.map(({ id }) => id), ...own];
  return [columns.map(titleOf), ...rows.map((row) => columns.map((id) => row[id] ?? ''))];
}

/** The row of a rule. */
export function rowOfRule(rule: Rule): SheetRow {
  const base = {
    name: rule.name,
    on: rule.on ? 'yes' : 'no',
    ending: rule.ending === 'stop' ? 'yes' : 'no',
    link: rule.link === 'otherwise' ? 'yes' : '',
    note: rule.note,
    tags: rule.tags?.join('; ') ?? '',
  };
  const tests = plainTests(rule) ?? { tests: printTest(testNode(rule.tests)) };
  const unless = plainExceptions(rule) ?? { exceptions: exceptionsText(rule.unless) };
  const actions = plainActions(rule) ?? { actions: actionsText(rule.actions) };
  return Object.fromEntries(
    Object.entries({ ...base, ...tests, ...unless, ...actions }).filter(([, cell]) => cell !== ''),
  );
}

/** Whether a row with these cells reads back as these parts. */
function says(cells: SheetRow, part: 'tests' | 'unless' | 'actions', rule: Rule): boolean {
  const read = ruleOfRow({ name: 'x', ...cells }, 'x');
  return read.ok && isSame(read.rule[part], rule[part]);
}

function plainTests(rule: Rule): SheetRow | null {
  const { tests } = rule;
  const whole = cellsOf([tests], testColumnsFor(tests));
  if (whole && says(whole, 'tests', rule)) return whole;
  const listed = tests.kind === 'all' || tests.kind === 'any' ? tests.children : [];
  const parts = cellsOf(listed, testColumnsFor(tests));
  const which = { ...parts, which: tests.kind };
  return parts && says(which, 'tests', rule) ? which : null;
}

/** With columns for the fields that tests name. */
function testColumnsFor(tests: TestTree): readonly ConditionColumn<SheetColumn>[] {
  const names = leavesOf(tests).flatMap((test) =>
    test.test === 'header' && test.headers.length === 1 ? test.headers : [],
  );
  const own = [...new Set(names)].flatMap((name) => ownColumn(`Field ${name}`) ?? []);
  return [...TEST_COLUMNS, ...own.map((column) => wordsColumn(column, FIELD(fieldOf(column))))];
}

function plainExceptions(rule: Rule): SheetRow | null {
  if (rule.unless.length === 0) return {};
  const cells = cellsOf(rule.unless, EXCEPTION_COLUMNS);
  return cells && says(cells, 'unless', rule) ? cells : null;
}

/** The keys of tests, by the cells they would fit into; the caller checks that this means the same. */
function cellsOf(trees: readonly TestTree[], columns: readonly ConditionColumn<SheetColumn>[]): SheetRow | null {
  const cells: Partial<Record<SheetColumn, string[]>> = {};
  for (const tree of trees) {
    const found = columns.flatMap(({ id, write }) => {
      const keys = write(tree);
      return keys ? [{ id, keys }] : [];
    })[0];
    if (!found) return null;
    cells[found.id] = [...(cells[found.id] ?? []), ...found.keys];
  }
  return Object.fromEntries(Object.entries(cells).map(([column, keys]) => [column, keys?.join('; ') ?? '']));
}

function plainActions(rule: Rule): SheetRow | null {
  const cells: Partial<Record<SheetColumn, string>> = {};
  const add = (column: SheetColumn, value: string) => {
    cells[column] = cells[column] === undefined ? value : `${cells[column]}; ${value}`;
  };
  for (const action of rule.actions) {
    if (action.action === 'addflag') add('flags', action.flags.join('; '));
    else if (action.action === 'keep') cells.keep = 'yes';
    else if (action.action === 'fileinto') {
      add('folder', action.folder);
      if (action.copy) cells.copy = 'yes';
    } else if (action.action === 'redirect') {
      add('forward', action.address);
      cells.forwardCopy = action.copy ? 'yes' : 'no';
    } else if (action.action === 'discard') cells.drop = 'yes';
    else return null;
  }
  return says(cells, 'actions', rule) ? cells : null;
}

function exceptionsText(unless: readonly TestTree[]): string {
  const [only, another] = unless;
  const whole: TestTree = only && !another && only.kind !== 'any' ? only : { kind: 'any', children: unless };
  return printTest(testNode(whole));
}
