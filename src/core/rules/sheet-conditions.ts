import { bodyTest } from './known-comparisons';
import { peopleTests, peopleWritten, readPeople } from './people-keys';
import { ANYWHERE_FIELDS, IMPORTANT_MAIL, ONLY_TO, WITH_ATTACHMENT } from './ready-tests';
import { type LeafTest, leavesOf, type TestTree } from './rule';
import { isSame } from './same';
import { sizeWords } from './sentence';
import { tokensOf } from './told/tokens';

/** The columns of a sheet whose cells say tests: how each is read, and written. */

export interface CellReading {
  readonly trees: readonly TestTree[];
  readonly faults: readonly string[];
}

export interface ConditionColumn<Id extends string> {
  readonly id: Id;
  /** `me` are the user's own addresses. */
  readonly read: (cell: string, me: readonly string[]) => CellReading;
  /** The keys of a test that the cell can say; the caller checks that they are read back as the same test. */
  readonly write: (tree: TestTree) => readonly string[] | null;
}

const COMPARATOR = 'i;ascii-casemap';
const leaf = (test: LeafTest): TestTree => ({ kind: 'leaf', test });
const header = (headers: readonly string[], keys: readonly string[]): TestTree =>
  leaf({ test: 'header', headers, match: 'contains', comparator: COMPARATOR, keys });

type Place = (keys: readonly string[]) => TestTree;

export const SUBJECT: Place = (keys) => header(['subject'], keys);
export const TEXT: Place = (keys) => leaf(bodyTest({ match: 'contains', keys }));
export const SUBJECT_OR_TEXT: Place = (keys) => ({ kind: 'any', children: [SUBJECT(keys), TEXT(keys)] });
export const ANYWHERE: Place = (keys) => ({
  kind: 'any',
  children: [header(ANYWHERE_FIELDS, keys), TEXT(keys)],
});

export const FIELD =
  (name: string): Place =>
  (keys) =>
    header([name], keys);

export const RECIPIENTS = ['to', 'cc'];

/** Keys separated by ; or line breaks, each once. */
export function keysIn(cell: string): string[] {
  const keys = cell.split(/[;\n]/).map((key) => key.trim());
  return [...new Set(keys.filter((key) => key !== ''))];
}

/** Yes, no, or neither; null for anything else. */
export function maybeYes(cell: string): boolean | null {
  if (/^(yes|y|true|1|x)$/i.test(cell)) return true;
  return /^(no|n|false|0|-)$/i.test(cell) ? false : null;
}

export function peopleColumn<Id extends string>(id: Id, headers: readonly string[]): ConditionColumn<Id> {
  return {
    id,
    read: (cell) => {
      const people = readPeople(cell);
      return { trees: peopleTests(people, headers), faults: people.faults };
    },
    write: (tree) => {
      const leaves = tree.kind === 'leaf' ? [tree.test] : tree.kind === 'any' ? tree.children.flatMap(leafOf) : [];
      const keys = leaves.map((test) => {
        if (!('headers' in test) || test.headers.join(' ').toLowerCase() !== headers.join(' ')) return null;
        if (test.test === 'address') return peopleWritten(test);
        return test.test === 'header' ? test.keys : null;
      });
      return keys.length === 0 || keys.includes(null) ? null : keys.flatMap((own) => own ?? []);
    },
  };
}

const leafOf = (tree: TestTree): LeafTest[] => (tree.kind === 'leaf' ? [tree.test] : []);

export function wordsColumn<Id extends string>(id: Id, place: Place): ConditionColumn<Id> {
  return {
    id,
    read: (cell) => {
      const keys = keysIn(cell);
      return { trees: keys.length === 0 ? [] : [place(keys)], faults: [] };
    },
    write: (tree) => {
      const [first] = leavesOf(tree);
      const keys = !first ? null : first.test === 'compared' ? first.by.keys : 'keys' in first ? first.keys : null;
      return keys && isSame(place(keys), tree) ? keys : null;
    },
  };
}

/** “yes” for a test that has a name. */
export function namedColumn<Id extends string>(id: Id, tree: TestTree): ConditionColumn<Id> {
  return {
    id,
    read: (cell) => {
      const yes = cell === '' ? false : maybeYes(cell);
      return { trees: yes ? [tree] : [], faults: yes === null ? ['Enter yes or no.'] : [] };
    },
    write: (found) => (isSame(found, tree) ? ['yes'] : null),
  };
}

/** “yes” or “me” for the user's own addresses, or others: one of them is the only address in To and Cc. */
export function onlyColumn<Id extends string>(id: Id): ConditionColumn<Id> {
  return {
    id,
    read: (cell, me) => {
      if (cell === '' || maybeYes(cell) === false) return { trees: [], faults: [] };
      const isMe = maybeYes(cell) || /^me$/i.test(cell);
      if (isMe && me.length === 0)
        return { trees: [], faults: ['Your own addresses are not known yet: enter them here.'] };
      const { addresses, faults } = isMe ? { addresses: me, faults: [] } : readPeople(cell);
      if (addresses.length > 0 || faults.length > 0)
        return { trees: faults.length > 0 ? [] : [ONLY_TO(addresses)], faults };
      return { trees: [], faults: ['Enter me, or complete addresses.'] };
    },
    write: (tree) => {
      const [first] = leavesOf(tree);
      const keys = first?.test === 'address' ? first.keys : null;
      return keys && isSame(ONLY_TO(keys), tree) ? keys : null;
    },
  };
}

/** “over 5 MB”, “under 10 KB”. */
export function sizeColumn<Id extends string>(id: Id): ConditionColumn<Id> {
  return {
    id,
    read: (cell) => {
      if (cell === '') return { trees: [], faults: [] };
      const [, relation = '', number = ''] =
        /^(over|larger than|more than|>|under|smaller than|less than|<)?\s*(.*)$/i.exec(cell) ?? [];
      const [size, another] = tokensOf(number);
      if (size?.octets === undefined || another) return { trees: [], faults: ['Enter a size, such as over 5 MB.'] };
      const isUnder = /^(under|smaller|less|<)/i.test(relation);
      return { trees: [leaf({ test: 'size', relation: isUnder ? 'under' : 'over', octets: size.octets })], faults: [] };
    },
    write: (tree) => {
      if (tree.kind !== 'leaf' || tree.test.test !== 'size') return null;
      return [`${tree.test.relation} ${sizeWords(tree.test.octets)}`];
    },
  };
}

export const ATTACHED = leaf(WITH_ATTACHMENT);
export const IMPORTANT = leaf(IMPORTANT_MAIL);
