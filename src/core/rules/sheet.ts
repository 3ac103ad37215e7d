import { maybeSingleAddress } from '../mail/address';
import { printTest } from '../sieve/print';
import { actionsText, readWrittenActions, readWrittenTest } from './as-written';
import { bodyTest } from './known-comparisons';
import { testNode } from './nodes';
import { peopleTests, peopleWritten, readPeople } from './people-keys';
import type { Action, Chain, LeafTest, Rule, TestTree, TextMatch } from './rule';
import { isSame } from './same';

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
  | 'list'
  | 'which'
  | 'tests'
  | 'exceptSender'
  | 'exceptRecipient'
  | 'exceptSubject'
  | 'exceptions'
  | 'folder'
  | 'copy'
  | 'flags'
  | 'forward'
  | 'forwardCopy'
  | 'drop'
  | 'actions'
  | 'ending'
  | 'link'
  | 'note'
  | 'tags';

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
  { id: 'list', title: 'Mailing list', hint: 'parts of its List-Id' },
  { id: 'which', title: 'All or any', hint: 'all or any of the tests before; empty means all' },
  { id: 'tests', title: 'Test as Sieve', hint: 'instead of the tests before, or in addition' },
  { id: 'exceptSender', title: 'Not from', hint: 'exempt senders' },
  { id: 'exceptRecipient', title: 'Not addressed to', hint: 'exempt recipients' },
  { id: 'exceptSubject', title: 'Subject without', hint: 'words in the subject of exempt mail' },
  { id: 'exceptions', title: 'Exceptions as Sieve', hint: 'a Sieve test; several exceptions with anyof' },
  { id: 'folder', title: 'Into folder', hint: 'the name of the folder' },
  { id: 'copy', title: 'Only a copy', hint: 'yes or no' },
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
  | { readonly ok: true; readonly rule: Rule }
  | { readonly ok: false; readonly faults: readonly CellFault[] };

/** An empty row, which stands for no rule. */
export const isBlank = (row: SheetRow): boolean => Object.values(row).every((cell) => cell.trim() === '');

/** The cells from which an unnamed rule is named, most telling first. */
const TELLING = ['sender', 'subject', 'list', 'recipient', 'text', 'folder'] as const;

/** Names an unnamed row by what it is about; returns the same row if no cell tells. */
export function named(row: SheetRow): SheetRow {
  if (isBlank(row) || (row.name ?? '').trim() !== '') return row;
  const cell = TELLING.map((column) => row[column]?.split(/[;\n]/)[0]?.replace(/^\s*@/, '').trim() ?? '').find(Boolean);
  return cell ? { ...row, name: cell.slice(0, LONGEST_NAME) } : row;
}

const LONGEST_NAME = 80;

/** The rule of a row, or the faults of its cells. */
export function ruleOfRow(row: SheetRow, id: string): RowReading {
  const reader = new RowReader(row);
  const rule = reader.rule(id);
  return reader.faults.length === 0 ? { ok: true, rule } : { ok: false, faults: reader.faults };
}

const COMPARATOR = 'i;ascii-casemap';
const leaf = (test: LeafTest): TestTree => ({ kind: 'leaf', test });
const match = (kind: TextMatch['match'], keys: readonly string[]): TextMatch => {
  return { match: kind, comparator: COMPARATOR, keys };
};
const RECIPIENTS = ['to', 'cc'];

class RowReader {
  readonly faults: CellFault[] = [];

  constructor(readonly row: SheetRow) {}

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
    const tests = [
      ...this.#people('sender', ['from']),
      ...this.#people('recipient', RECIPIENTS),
      ...this.#words('subject', 'subject'),
      ...this.#body(),
      ...this.#words('list', 'list-id'),
      ...this.#sieveTest('tests'),
    ];
    const which = this.#cell('which').toLowerCase();
    if (!/^(all|any|)$/.test(which)) this.#say('which', 'Enter all or any.');
    const [only, another] = tests;
    if (only && !another) return only;
    return { kind: which === 'any' ? 'any' : 'all', children: tests };
  }

  #exceptions(): TestTree[] {
    return [
      ...this.#people('exceptSender', ['from']),
      ...this.#people('exceptRecipient', RECIPIENTS),
      ...this.#words('exceptSubject', 'subject'),
      ...this.#sieveTest('exceptions').flatMap((tree) => (tree.kind === 'any' ? tree.children : [tree])),
    ];
  }

  #people(column: SheetColumn, headers: readonly string[]): TestTree[] {
    const people = readPeople(this.#cell(column));
    for (const fault of people.faults) this.#say(column, fault);
    return peopleTests(people, headers);
  }

  #words(column: SheetColumn, header: string): TestTree[] {
    const keys = this.#keys(column);
    return keys.length === 0 ? [] : [leaf({ test: 'header', headers: [header], ...match('contains', keys) })];
  }

  #body(): TestTree[] {
    const keys = this.#keys('text');
    return keys.length === 0 ? [] : [leaf(bodyTest({ match: 'contains', keys }))];
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
    const flags = this.#keys('flags');
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
      ...forward.map((address): Action => ({ action: 'redirect', address, copy: keep })),
      ...(drop ? [{ action: 'discard' } as const] : []),
      ...(written.ok ? written.said : []),
    ];
  }

  #cell(column: SheetColumn): string {
    return this.row[column]?.trim() ?? '';
  }

  /** Separated by ; or line breaks. */
  #keys(column: SheetColumn): string[] {
    const keys = this.#cell(column)
      .split(/[;\n]/)
      .map((key) => key.trim());
    return [...new Set(keys.filter((key) => key !== ''))];
  }

  #yes(column: SheetColumn, otherwise: boolean): boolean {
    const cell = this.#cell(column).toLowerCase();
    if (cell === '') return otherwise;
    if (/^(yes|y|true|1|x)$/.test(cell)) return true;
    if (!/^(no|n|false|0|-)$/.test(cell)) this.#say(column, 'Enter yes or no.');
    return false;
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
  return SHEET_COLUMNS.find(({ id, title, formerly }) => isHead(title) || isHead(formerly) || isHead(id))?.id ?? null;
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
  return [SHEET_COLUMNS.map(({ title }) => title), ...rows.map((row) => SHEET_COLUMNS.map(({ id }) => row[id] ?? ''))];
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
  const listed = tests.kind === 'all' || tests.kind === 'any' ? [tests, ...tests.children] : [tests];
  const whole = cellsOf([tests], TEST_CELLS);
  if (whole && says(whole, 'tests', rule)) return whole;
  const parts = cellsOf(listed.slice(1), TEST_CELLS);
  const which = { ...parts, which: tests.kind };
  return parts && says(which, 'tests', rule) ? which : null;
}

function plainExceptions(rule: Rule): SheetRow | null {
  if (rule.unless.length === 0) return {};
  const cells = cellsOf(rule.unless, EXCEPTION_CELLS);
  return cells && says(cells, 'unless', rule) ? cells : null;
}

interface CellNames {
  readonly from: SheetColumn;
  readonly to: SheetColumn;
  readonly subject: SheetColumn;
  readonly list: SheetColumn | null;
}

const TEST_CELLS: CellNames = { from: 'sender', to: 'recipient', subject: 'subject', list: 'list' };
const EXCEPTION_CELLS: CellNames = {
  from: 'exceptSender',
  to: 'exceptRecipient',
  subject: 'exceptSubject',
  list: null,
};

/** The keys of tests, by the cells they would fit into; the caller checks that this means the same. */
function cellsOf(trees: readonly TestTree[], names: CellNames): SheetRow | null {
  const cells: Partial<Record<SheetColumn, string[]>> = {};
  for (const tree of trees) {
    const leaves = tree.kind === 'leaf' ? [tree.test] : tree.kind === 'any' ? tree.children.flatMap(leafOf) : [];
    if (leaves.length === 0) return null;
    for (const test of leaves) {
      const column = 'headers' in test ? columnOf(test.headers, names) : null;
      if (column === null || !('keys' in test)) return null;
      cells[column] ??= [];
      cells[column].push(...(test.test === 'address' ? peopleWritten(test) : test.keys));
    }
  }
  return Object.fromEntries(Object.entries(cells).map(([column, keys]) => [column, keys.join('; ')]));
}

const leafOf = (tree: TestTree): LeafTest[] => (tree.kind === 'leaf' ? [tree.test] : []);

function columnOf(headers: readonly string[], names: CellNames): SheetColumn | null {
  switch (headers.join(' ').toLowerCase()) {
    case 'from':
      return names.from;
    case 'to cc':
      return names.to;
    case 'subject':
      return names.subject;
    case 'list-id':
      return names.list;
    default:
      return null;
  }
}

function plainActions(rule: Rule): SheetRow | null {
  const cells: Partial<Record<SheetColumn, string>> = {};
  const add = (column: SheetColumn, value: string) => {
    cells[column] = cells[column] === undefined ? value : `${cells[column]}; ${value}`;
  };
  for (const action of rule.actions) {
    if (action.action === 'addflag') add('flags', action.flags.join('; '));
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
