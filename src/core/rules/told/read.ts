import { unmarked } from '../marks';
import { type Action, blankRule, type Ending, type Link, type Rule, type TestTree } from '../rule';
import { ActionReader, type Pending, type Told } from './actions';
import { type Condition, ConditionReader, type Teller } from './conditions';
import { negation } from './found';
import { type FoundRule, NO_TESTS, type Part, type Remark } from './found-rule';
import * as P from './phrases';
import { Line, phrase } from './tokens';
import { maybeWritten } from './written-line';

/** A rule that was told in a line of text. */
export interface ToldRule {
  readonly rule: Rule;
  /** Words that were not understood; they say something that the rule does not. */
  readonly unread: readonly Part[];
  /** What is odd or missing. */
  readonly remarks: readonly Remark[];
}

/**
 * Reads a rule told in one line: as sentences of rules are written, or in other words. A line of which some words are not
 * understood becomes a rule that is off, with the line as its note. Null for an empty line.
 */
export function readTold(text: string, id: string, teller: Teller): ToldRule | null {
  const { start, text: bare } = withoutBullet(text);
  if (bare === '') return null;
  const { name, said, offset } = bare.includes('\t') ? cellsOf(bare, teller) : withoutName(bare, teller);
  const at = start + offset;
  const found = maybeWritten(said) ?? new LineReader(said, teller).read();
  const place = (part: Part): Part => ({ start: part.start + at, end: part.end + at });
  const unread = found.unread.map(place);
  const { name: given, on } = unmarked(name ?? '');
  return {
    rule: {
      ...blankRule(id),
      ...found.rule,
      name: given || nameFor(found.rule),
      on: on && unread.length === 0 && found.lacks !== 'condition',
      note: unread.length === 0 && found.lacks === null ? '' : `Told as: ${text.trim()}`,
    },
    unread,
    remarks: found.remarks.map((remark) => ({ ...remark, ...place(remark) })),
  };
}

/** Without the dash or number of a list. */
function withoutBullet(text: string): { start: number; text: string } {
  const start = /^\s*(?:[-*•·]\s+|\d{1,4}[.)]\s+)?/.exec(text)?.[0].length ?? 0;
  return { start, text: text.slice(start).trimEnd() };
}

/** A row of a pasted table: the last cell says what is done, and the first of several may be a name. */
function cellsOf(text: string, teller: Teller): { name: string | null; said: string; offset: number } {
  const [first = '', ...others] = text.split('\t');
  const isName = others.length > 1 && !new LineReader(first, teller).saysSomething();
  const cells = isName ? others : [first, ...others];
  const said = `${cells.slice(0, -1).join(',')}→${cells.at(-1)}`;
  return { name: isName ? first.trim() : null, said, offset: isName ? first.length + 1 : 0 };
}

/** The name before the first colon, unless that is part of the rule. */
function withoutName(text: string, teller: Teller): { name: string | null; said: string; offset: number } {
  const [whole, off = '', quoted, plain = ''] =
    /^(o(?:ff|n):\s*)?(?:"((?:[^"\\]|\\.)*)"|([^:“"]{1,120})):\s+(?=\S)/i.exec(text) ?? [];
  if (whole === undefined) return { name: null, said: text, offset: 0 };
  const name = quoted === undefined ? plain.trim() : quoted.replace(/\\(["\\])/g, '$1');
  if (quoted === undefined && off === '' && new LineReader(name, teller).saysSomething()) {
    return { name: null, said: text, offset: 0 };
  }
  return { name: off === '' ? name : `${off.trim()} ${name}`, said: text.slice(whole.length), offset: whole.length };
}

/** A rule is named by what it is about: its first key, else its folder. */
export function nameFor({ tests, actions }: Pick<Rule, 'tests' | 'actions'>): string {
  const [key] = keysIn(tests);
  const filing = actions.find((action) => action.action === 'fileinto');
  return (key || (filing?.action === 'fileinto' ? filing.folder : '') || 'All mail').slice(0, LONGEST_NAME);
}

const LONGEST_NAME = 80;

function keysIn(tree: TestTree): readonly string[] {
  if (tree.kind !== 'leaf') return tree.children.flatMap(keysIn);
  if (tree.test.test === 'compared') return tree.test.by.keys;
  return 'keys' in tree.test ? tree.test.keys : [];
}

/** Reads a line in any words, part by part. */
class LineReader {
  readonly #line: Line;
  readonly #conditions: ConditionReader;
  readonly #actionReader: ActionReader;
  readonly #tests: { readonly or: boolean; readonly tree: TestTree; readonly isOfWords: boolean }[] = [];
  readonly #unless: TestTree[] = [];
  readonly #actions: Action[] = [];
  readonly #unread: Part[] = [];
  readonly #remarks: Remark[] = [];
  #ending: Ending | null = null;
  #link: Link = 'always';
  #anyOf = false;
  /** Where the next condition belongs. */
  #section: 'tests' | 'unless' = 'tests';
  #last: 'tests' | 'unless' = 'tests';
  /** The token of an “or”, of a “not”, and of a verb, that the next part has to follow. */
  #or: number | null = null;
  #not: number | null = null;
  #pending: { readonly verb: Pending; readonly place: number } | null = null;
  #isPointed = false;
  #lacks: FoundRule['lacks'] = null;

  constructor(
    text: string,
    readonly teller: Teller,
  ) {
    this.#line = new Line(text);
    this.#actionReader = new ActionReader(this.#line, teller);
    const boundaries = new Map<number, boolean>();
    this.#conditions = new ConditionReader(this.#line, teller, (place) => {
      const known = boundaries.get(place);
      if (known !== undefined) return known;
      boundaries.set(place, false);
      const found = this.#isBoundary(place);
      boundaries.set(place, found);
      return found;
    });
  }

  #isBoundary(place: number): boolean {
    if (this.#after(place, P.EXCEPT) !== null || this.#after(place, P.NOT) !== null) return true;
    return this.#actionReader.told(place) !== null || this.#conditions.told(place) !== null;
  }

  #after(place: number, phrases: readonly RegExp[]): number | null {
    return this.#line.afterAny(place, phrases);
  }

  /** Whether any part of a line is understood as part of a rule, so that it is no name. */
  saysSomething(): boolean {
    return this.#line.tokens.some((token, place) => {
      if (token.kind === 'people' || this.#after(place, [...P.ANY_OF, ...P.ALL_OF]) !== null) return true;
      const introduces = P.INTRODUCING.some((one) => this.#line.after(place, one) !== null);
      return introduces || this.#conditions.told(place) !== null || this.#actionReader.told(place) !== null;
    });
  }

  read(): FoundRule {
    let place = 0;
    while (place < this.#line.tokens.length) place = this.#step(place);
    this.#settleConnectives();
    this.#settlePending();
    const isForAll = this.#line.tokens.some((_, place) => this.#after(place, P.FOR_ALL) !== null);
    if (this.#tests.length + this.#unless.length === 0 && !isForAll && this.#lacks !== 'condition') {
      this.#remark(0, this.#line.tokens.length, 'No condition is told: the rule is for all mail.');
    }
    if (this.#actions.length === 0 && this.#ending !== 'stop') {
      this.#remark(0, this.#line.tokens.length, 'Nothing is told to be done.', true);
    }
    const marks = this.#actions.filter(({ action }) => action === 'addflag');
    return {
      rule: {
        tests: this.#joinedTests(),
        unless: this.#unless,
        // Marks only affect what is filed after them.
        actions: [...marks, ...this.#actions.filter(({ action }) => action !== 'addflag')],
        ending: this.#ending ?? 'stop',
        link: this.#link,
      },
      unread: joinedParts(this.#unread, this.#line.text),
      remarks: this.#remarks,
      lacks: this.#lacks,
    };
  }

  /** “and” binds tighter than “or”, unless “any of” came first. */
  #joinedTests(): TestTree {
    const groups: TestTree[][] = [];
    for (const { or, tree } of this.#tests) {
      const last = groups.at(-1);
      if (last && !or && !this.#anyOf) last.push(tree);
      else groups.push([tree]);
    }
    const joined = groups.map((trees) => together('all', trees));
    return joined.length === 0 ? NO_TESTS : together('any', joined);
  }

  #step(place: number): number {
    return (
      this.#exception(place) ??
      this.#beyond(place) ??
      this.#action(place) ??
      this.#connective(place) ??
      this.#condition(place) ??
      this.#filler(place) ??
      this.#leave(place)
    );
  }

  #exception(place: number): number | null {
    const other = place === 0 || this.#tests.length === 0 ? this.#after(place, P.OTHERWISE) : null;
    if (other !== null) {
      this.#link = 'otherwise';
      return other;
    }
    const except = this.#after(place, P.EXCEPT);
    if (except !== null) {
      this.#settleConnectives();
      if (this.#line.after(place, BUT_NOT) !== null) this.#not = place;
      else this.#section = 'unless';
      return except;
    }
    // “without attachments”, “no attachment”: the condition itself says it.
    const isOther = this.#conditions.told(place) !== null || this.#actionReader.told(place) !== null;
    if (isOther || this.#after(place, P.NOT) === null) return null;
    this.#settleConnectives();
    this.#not = place;
    return this.#after(place, P.NOT);
  }

  /** What no script can do (need N32): the rule is made without what a desk does, but not without a condition. */
  #beyond(place: number): number | null {
    const desk = this.#after(place, P.ON_THE_DESK);
    if (desk !== null) {
      this.#remark(place, desk, 'Only a program on your desk can do this: the rule is made without it.');
      this.#lacks ??= 'action';
      return desk;
    }
    const spam = this.#after(place, P.SPAM);
    if (spam === null) return null;
    this.#remark(
      place,
      spam,
      'Only the server’s own filter judges this: the rule is off until you test the header field that it adds.',
    );
    this.#lacks = 'condition';
    return spam;
  }

  #connective(place: number): number | null {
    const any = this.#after(place, P.ANY_OF);
    if (any !== null && this.#tests.length === 0 && this.#not === null) {
      this.#anyOf = this.#line.after(place, EITHER) === null;
      return any;
    }
    const or = this.#line.after(place, OR);
    if (or === null || this.#tests.length + this.#unless.length === 0) return null;
    this.#or = place;
    return or;
  }

  #action(place: number): number | null {
    const isCondition = this.#pending?.verb === 'reply' && this.#conditions.told(place) !== null;
    const pending = isCondition ? null : this.#pending && this.#actionReader.completing(place, this.#pending.verb);
    const found =
      pending ??
      (this.#isPointed ? this.#actionReader.pointed(place) : null) ??
      this.#told(place) ??
      (this.#actions.length > 0 ? this.#actionReader.marking(place) : null);
    if (!found) return this.#arrow(place);
    if (pending) this.#pending = null;
    this.#settleConnectives();
    this.#isPointed = false;
    this.#section = 'tests';
    this.#actions.push(...(found.actions ?? []));
    this.#ending = found.ending ?? this.#ending;
    if (found.pending) this.#pending = { verb: found.pending, place };
    for (const words of found.faults ?? []) this.#remark(place, found.next, words, true);
    return found.next;
  }

  /** “mail marked important” is a condition, and so is “to me”. */
  #told(place: number): Told | null {
    const isMarked = this.#line.after(place, P.MARKED_IMPORTANT) !== null && this.#tests.length === 0;
    return isMarked ? null : this.#actionReader.told(place);
  }

  /** An arrow, or a colon after the conditions. */
  #arrow(place: number): number | null {
    const token = this.#line.tokens[place];
    const isColon = token?.text === ':' && token.kind === 'mark' && this.#tests.length + this.#unless.length > 0;
    if (token?.kind !== 'arrow' && !isColon) return null;
    this.#settleConnectives();
    this.#isPointed = true;
    this.#section = 'tests';
    return place + 1;
  }

  #condition(place: number): number | null {
    const found = this.#conditions.told(place) ?? this.#conditions.bare(place);
    if (found) {
      this.#add(found, place);
      return found.next;
    }
    return this.#tests.length === 0 ? this.#after(place, P.ALL_MAIL) : null;
  }

  #add({ tree, denied = false, faults = [], notes = [], next, isOfWords = false }: Condition, place: number): void {
    const isNot = denied !== (this.#not !== null);
    const isOr = this.#or !== null;
    const target = this.#section === 'tests' && isOr ? this.#last : this.#section;
    for (const words of faults) this.#remark(place, next, words, true);
    for (const words of notes) this.#remark(place, next, words);
    if (target === 'unless') {
      const said = isNot && this.#section === 'unless' ? negation(tree) : tree;
      const isTogether =
        !isOr && this.#last === 'unless' && this.#line.after(place - 1, AND) !== null && this.#not === null;
      const last = isTogether ? this.#unless.pop() : undefined;
      if (last) this.#unless.push(together('all', [last, said]));
      else this.#unless.push(...(said.kind === 'any' ? said.children : [said]));
      this.#last = 'unless';
    } else if (isNot && !isOr && !this.#anyOf) {
      this.#unless.push(...(tree.kind === 'any' ? tree.children : [tree]));
      this.#last = 'unless';
    } else {
      this.#addTest({ or: isOr, tree: isNot ? negation(tree) : tree, isOfWords }, [place, next]);
      this.#last = 'tests';
    }
    this.#or = null;
    this.#not = null;
  }

  /** “with a in the subject or b in the text” is one condition beside others; any other mixture is told. */
  #addTest(test: { or: boolean; tree: TestTree; isOfWords: boolean }, [place, next]: readonly [number, number]): void {
    const last = this.#tests.at(-1);
    if (!this.#anyOf && test.or && last?.isOfWords && test.isOfWords && this.#tests.length > 1) {
      this.#tests[this.#tests.length - 1] = { ...last, tree: together('any', [last.tree, test.tree]) };
      return;
    }
    this.#tests.push(test);
    const isMixed = this.#tests.some(({ or }) => or) && this.#tests.slice(1).some(({ or }) => !or);
    if (isMixed && !this.#anyOf)
      this.#remark(place, next, 'Conditions are joined by “and” and “or”: “and” is read first.');
  }

  #filler(place: number): number | null {
    return this.#after(place, P.FILLERS);
  }

  #leave(place: number): number {
    const token = this.#line.tokens[place];
    if (token && /[\p{L}\p{N}]/u.test(token.text)) this.#unread.push(token);
    return place + 1;
  }

  /** An “or” or “not” that no condition followed was not understood. */
  #settleConnectives(): void {
    for (const place of [this.#or, this.#not]) {
      const token = place === null ? undefined : this.#line.tokens[place];
      if (token) this.#unread.push(token);
    }
    this.#or = null;
    this.#not = null;
  }

  /** A verb without what it needs was not understood either. */
  #settlePending(): void {
    const token = this.#pending && this.#line.tokens[this.#pending.place];
    if (token && this.#pending?.verb !== 'keep') this.#unread.push(token);
  }

  #remark(from: number, to: number, words: string, isFault = false): void {
    const [first, last] = [this.#line.tokens[from], this.#line.tokens[to - 1]];
    if (first && last) this.#remarks.push({ start: first.start, end: last.end, words, isFault });
  }
}

const BUT_NOT = phrase('but not');
const EITHER = phrase('either');
const OR = phrase('or');
const AND = phrase('and');

const together = (kind: 'all' | 'any', trees: readonly TestTree[]): TestTree =>
  trees.length === 1 && trees[0]
    ? trees[0]
    : { kind, children: trees.flatMap((tree) => (tree.kind === kind ? tree.children : [tree])) };

/** Whether only words that say nothing by themselves stand here. */
function isIdle(between: string): boolean {
  const line = new Line(between);
  return line.tokens.every(
    ({ kind }, place) => kind !== 'mark' && P.FILLERS.some((filler) => line.after(place, filler) !== null),
  );
}

/** Parts in order, those with nothing that says anything between them as one. */
function joinedParts(parts: readonly Part[], text: string): Part[] {
  const joined: Part[] = [];
  for (const { start, end } of [...parts].sort((a, b) => a.start - b.start)) {
    const last = joined.at(-1);
    if (last && isIdle(text.slice(last.end, start))) joined[joined.length - 1] = { start: last.start, end };
    else joined.push({ start, end });
  }
  return joined;
}
