import type { Relation } from '../../text/relation';
import { readWrittenTest } from '../as-written';
import type { Comparison, Subject } from '../comparison';
import type { AddressPart, LeafTest, TestTree } from '../rule';
import { maybeDay, maybeMonth, maybeWeekday } from '../words';
import { type Line, phrase, sieveIn, type Token } from './tokens';

/** Reads the words that sentences of rules consist of back: the inverse of `sentence.ts`, as far as words say all. */

export interface Found<Said> {
  readonly said: Said;
  /** The number of the token after it. */
  readonly next: number;
}

type MatchKind = Extract<Comparison, { keys: readonly string[] }>['match'] & ('is' | 'contains' | 'matches' | 'regex');
const COMPARATOR = 'i;ascii-casemap';
const NUMERIC = 'i;ascii-numeric';

const leaf = (test: LeafTest): TestTree => ({ kind: 'leaf', test });
/** The negation of a condition, without a double one. */
export function negation(tree: TestTree): TestTree {
  if (tree.kind === 'none' && tree.children.length === 1 && tree.children[0]) return tree.children[0];
  return { kind: 'none', children: [tree] };
}

/** What is compared, and how a test of it is made. */
interface Compared {
  readonly make: (match: MatchKind, comparator: string, keys: readonly string[]) => LeafTest;
  readonly ordered: ((relation: Relation, keys: readonly string[]) => LeafTest) | null;
  readonly denied: boolean;
}

const P = {
  neither: phrase('neither'),
  nor: phrase('nor'),
  noneOf: phrase('none of'),
  or: phrase('or'),
  and: phrase('and'),
  commaConjunction: { and: phrase(', and'), or: phrase(', or') },
  comma: phrase(','),
  subject: phrase('the subject'),
  open: phrase('('),
  close: phrase(')'),
  caseSensitive: phrase('( case-sensitive )'),
  part: {
    all: phrase('the|an|a|no address in|of'),
    domain: phrase('the|an|a|no domain in|of'),
    localpart: phrase('the|an|a|no local part in|of'),
  },
  no: phrase('no'),
  envelopeSender: phrase('the? envelope sender'),
  envelopeRecipient: phrase('the? envelope recipient'),
  envelopePart: { domain: phrase('the domain of the'), localpart: phrase('the local part of the') },
  body: phrase('the body'),
  rawBody: phrase('the raw body'),
  flag: phrase('a|no flag set by an earlier rule'),
  fieldPresent: phrase('is present'),
  fieldMissing: phrase('is missing'),
  field: phrase('the field'),
  fields: phrase('the fields'),
  allPresent: phrase('are both|all present'),
  notAllPresent: phrase('are not both|all present'),
  addressesIn: phrase('the number of addresses in'),
  numberOf: phrase('the number of'),
  fieldsCounted: phrase('fields'),
  every: phrase('every message matches'),
  none: phrase('no message matches'),
  sieveTest: phrase('the sieve test'),
  matches: phrase('matches'),
  empty: phrase('empty'),
} as const;

const SIZES = [
  [phrase('the message is larger than'), 'over', false],
  [phrase('the message is at most'), 'over', true],
  [phrase('the message is smaller than'), 'under', false],
  [phrase('the message is at least'), 'under', true],
] as const;

/** Longest first. */
const PREDICATES: readonly (readonly [RegExp, MatchKind, boolean])[] = [
  [phrase('matches neither of the regular expressions'), 'regex', true],
  [phrase('does not match the regular expression'), 'regex', true],
  [phrase('matches the regular expression'), 'regex', false],
  [phrase('is neither'), 'is', true],
  [phrase('contains neither'), 'contains', true],
  [phrase('matches neither'), 'matches', true],
  [phrase('is not'), 'is', true],
  [phrase('does not contain'), 'contains', true],
  [phrase('does not match'), 'matches', true],
  [phrase('is'), 'is', false],
  [phrase('contains'), 'contains', false],
  [phrase('matches'), 'matches', false],
];

const RELATIONS: readonly (readonly [RegExp, Relation, boolean])[] = (['is not', 'is'] as const).flatMap((is) => {
  const isDenied = is === 'is not';
  return [
    [phrase(`${is} at least`), 'ge', isDenied],
    [phrase(`${is} at most`), 'le', isDenied],
    [phrase(`${is} more than`), 'gt', isDenied],
    [phrase(`${is} less than`), 'lt', isDenied],
    [phrase(`${is} other than`), 'ne', isDenied],
    [phrase(is), 'eq', isDenied],
  ] as const;
});

const D = {
  arrival: {
    date: phrase('the date of arrival'),
    weekday: phrase('the weekday of arrival'),
    month: phrase('the month of arrival'),
  },
  field: { date: phrase('the date in'), weekday: phrase('the weekday in'), month: phrase('the month in') },
} as const;

/** Relations to dates: what stands before and behind the date. */
const TIMES = [
  [phrase('is not before'), 'lt', null, true],
  [phrase('is not after'), 'gt', null, true],
  [phrase('is before'), 'lt', null, false],
  [phrase('is after'), 'gt', null, false],
  [phrase('is not'), 'ge', phrase('or later'), true],
  [phrase('is not'), 'le', phrase('or earlier'), true],
  [phrase('is'), 'ge', phrase('or later'), false],
  [phrase('is'), 'le', phrase('or earlier'), false],
  [phrase('is not'), null, null, true],
  [phrase('is'), null, null, false],
] as const;

/** “1 January 2020”. */
const DATE_WORDS = 3;

/** The key whose words these are. */
function maybeDateKey(part: 'date' | 'weekday' | 'month', text: string): string | null {
  if (part === 'weekday') return KEYS.find((key) => maybeWeekday(key.slice(1)) === text)?.slice(1) ?? null;
  if (part === 'month') return KEYS.find((key) => maybeMonth(key) === text) ?? null;
  const [, day = '', name = '', year = ''] = /^(\d{1,2}) (\p{L}+) (\d{4})$/u.exec(text) ?? [];
  const month = KEYS.find((key) => maybeMonth(key) === name);
  const key = month && `${year}-${month}-${day.padStart(2, '0')}`;
  return key && maybeDay(key) === text ? key : null;
}

/** Months as in keys; weekdays by their last digit. */
const KEYS = ['01', '02', '03', '04', '05', '06', '07', '08', '09', '10', '11', '12', '00'];

export class WrittenReader {
  /** `isField` tells which words can name a field. */
  constructor(
    readonly line: Line,
    readonly isField: (name: string) => boolean,
  ) {}

  #token(place: number): Token | null {
    return this.line.tokens[place] ?? null;
  }

  /** A condition: tests joined by “and” or “or”, with brackets around inner ones. */
  condition(place: number): Found<TestTree> | null {
    const members: TestTree[] = [];
    let conjunction: 'and' | 'or' | null = null;
    let at = place;
    for (;;) {
      const member = this.#member(at);
      if (!member) return null;
      members.push(member.said);
      at = member.next;
      const joined = this.#conjunction(at);
      if (!joined || !this.#member(joined.next)) break;
      if (joined.said !== null && conjunction !== null && joined.said !== conjunction) break;
      conjunction = joined.said ?? conjunction;
      at = joined.next;
    }
    const [only] = members;
    if (only && members.length === 1) return { said: only, next: at };
    return conjunction && { said: { kind: conjunction === 'and' ? 'all' : 'any', children: members }, next: at };
  }

  /** A comma alone joins as the next “and” or “or” does. */
  #conjunction(place: number): Found<'and' | 'or' | null> | null {
    for (const said of ['and', 'or'] as const) {
      const next = this.line.after(place, P.commaConjunction[said]) ?? this.line.after(place, P[said]);
      if (next !== null) return { said, next };
    }
    const next = this.line.after(place, P.comma);
    return next === null ? null : { said: null, next };
  }

  #member(place: number): Found<TestTree> | null {
    const inside = this.line.after(place, P.open);
    if (inside === null) return this.test(place);
    const found = this.condition(inside);
    const next = found && this.line.after(found.next, P.close);
    return found && next !== null ? { said: found.said, next } : null;
  }

  /** A single test, or its negation. */
  test(place: number): Found<TestTree> | null {
    return (
      this.#plain(place) ?? this.#present(place) ?? this.#counted(place) ?? this.#dated(place) ?? this.#compared(place)
    );
  }

  #plain(place: number): Found<TestTree> | null {
    for (const [start, relation, isDenied] of SIZES) {
      const next = this.line.after(place, start);
      const size = next === null ? null : this.#token(next);
      if (next !== null && size?.octets !== undefined) {
        const said = leaf({ test: 'size', relation, octets: size.octets });
        return { said: isDenied ? negation(said) : said, next: next + 1 };
      }
    }
    const every = this.line.after(place, P.every);
    if (every !== null) return { said: { kind: 'all', children: [] }, next: every };
    const none = this.line.after(place, P.none);
    if (none !== null) return { said: { kind: 'any', children: [] }, next: none };
    const sieve = this.line.after(place, P.sieveTest);
    const text = sieve === null ? null : this.#token(sieve);
    if (sieve === null || text?.kind !== 'quoted') return null;
    const reading = readWrittenTest(sieveIn(text));
    const next = this.line.after(sieve + 1, P.matches);
    return reading.ok && next !== null ? { said: reading.said, next } : null;
  }

  #present(place: number): Found<TestTree> | null {
    const several = this.line.after(place, P.fields);
    if (several !== null) {
      const names = this.#names(several, P.and);
      for (const [ending, isDenied] of [
        [P.allPresent, false],
        [P.notAllPresent, true],
      ] as const) {
        const next = names && this.line.after(names.next, ending);
        if (names && next !== null) return this.#exists(names.said, isDenied, next);
      }
      return null;
    }
    const named = this.line.after(place, P.subject);
    const field = this.line.after(place, P.field);
    const name = named !== null ? 'Subject' : field === null ? null : this.#name(field)?.said;
    const at = named ?? (field === null ? null : field + 1);
    if (!name || at === null) return null;
    const present = this.line.after(at, P.fieldPresent);
    if (present !== null) return this.#exists([name], false, present);
    const missing = this.line.after(at, P.fieldMissing);
    return missing === null ? null : this.#exists([name], true, missing);
  }

  #exists(headers: readonly string[], isDenied: boolean, next: number): Found<TestTree> {
    const said = leaf({ test: 'exists', headers });
    return { said: isDenied ? negation(said) : said, next };
  }

  #counted(place: number): Found<TestTree> | null {
    const addresses = this.line.after(place, P.addressesIn);
    const start = addresses ?? this.line.after(place, P.numberOf);
    const names = start === null ? null : this.#names(start, P.and);
    const at = names && (addresses === null ? this.line.after(names.next, P.fieldsCounted) : names.next);
    if (!names || at === null) return null;
    const subject: Subject =
      addresses === null ? { of: 'header', headers: names.said } : { of: 'address', headers: names.said, part: 'all' };
    return this.#relation(at, (relation, keys) => ({
      test: 'compared',
      subject,
      by: { match: 'count', relation, comparator: NUMERIC, keys },
    }));
  }

  /** “the date of arrival is before 1 January 2020”, “the weekday in Date is Sunday or Saturday”. */
  #dated(place: number): Found<TestTree> | null {
    for (const part of ['date', 'weekday', 'month'] as const) {
      const arrival = this.line.after(place, D.arrival[part]);
      const field = arrival === null ? this.line.after(place, D.field[part]) : null;
      const name = field === null ? null : this.#name(field);
      const at = arrival ?? name?.next;
      if (at === undefined) continue;
      const subject: Subject = name
        ? { of: 'date', header: name.said, part, zone: null }
        : { of: 'currentdate', part, zone: null };
      for (const [start, relation, ending, isDenied] of TIMES) {
        const next = this.line.after(at, start);
        const keys = next === null ? null : this.#dateKeys(next, part);
        const end = keys && (ending ? this.line.after(keys.next, ending) : keys.next);
        if (!keys || end === null) continue;
        const by: Comparison =
          relation === null
            ? { match: 'is', comparator: COMPARATOR, keys: keys.said }
            : { match: 'value', relation, comparator: COMPARATOR, keys: keys.said };
        const said = leaf({ test: 'compared', subject, by });
        return { said: isDenied ? negation(said) : said, next: end };
      }
    }
    return null;
  }

  #dateKeys(place: number, part: 'date' | 'weekday' | 'month'): Found<string[]> | null {
    const keys: string[] = [];
    let at: number | null = place;
    let end = place;
    while (at !== null) {
      const words = part === 'date' ? DATE_WORDS : 1;
      const text: string = this.line.tokens
        .slice(at, at + words)
        .map((token) => token.text)
        .join(' ');
      const key = maybeDateKey(part, text);
      if (key === null) break;
      keys.push(key);
      end = at + words;
      at = this.line.after(end, P.comma) ?? this.line.after(end, P.or);
    }
    return keys.length === 0 ? null : { said: keys, next: end };
  }

  #compared(place: number): Found<TestTree> | null {
    const subject = this.#subject(place);
    if (!subject) return null;
    const { make, ordered, denied } = subject.said;
    for (const [start, match, isNot] of PREDICATES) {
      const next = this.line.after(subject.next, start);
      const keys = next === null ? null : this.#keys(next, match === 'is');
      if (!keys) continue;
      const exact = this.line.after(keys.next, P.caseSensitive);
      const said = leaf(make(match, exact === null ? COMPARATOR : 'i;octet', keys.said));
      return { said: denied !== isNot ? negation(said) : said, next: exact ?? keys.next };
    }
    const relation = ordered && this.#relation(subject.next, ordered);
    return relation && { said: denied ? negation(relation.said) : relation.said, next: relation.next };
  }

  #relation(place: number, make: NonNullable<Compared['ordered']>): Found<TestTree> | null {
    for (const [start, relation, isDenied] of RELATIONS) {
      const next = this.line.after(place, start);
      const number = next === null ? null : this.#token(next);
      if (next === null || number?.kind !== 'word' || !/^\d+$/.test(number.text)) continue;
      const said = leaf(make(relation, [number.text]));
      return { said: isDenied ? negation(said) : said, next: next + 1 };
    }
    return null;
  }

  #subject(place: number): Found<Compared> | null {
    return this.#flagOrBody(place) ?? this.#envelope(place) ?? this.#addresses(place) ?? this.#fields(place);
  }

  #flagOrBody(place: number): Found<Compared> | null {
    const flag = this.line.after(place, P.flag);
    if (flag !== null) {
      const make: Compared['make'] = (match, comparator, keys) => {
        if (match === 'regex') return { test: 'exists', headers: [] };
        return { test: 'hasflag', match, comparator, keys };
      };
      return { said: { make, ordered: null, denied: this.line.after(place, P.no) !== null }, next: flag };
    }
    for (const [start, transform] of [
      [P.body, 'text'],
      [P.rawBody, 'raw'],
    ] as const) {
      const next = this.line.after(place, start);
      if (next === null) continue;
      const make: Compared['make'] = (match, comparator, keys) => {
        return { test: 'compared', subject: { of: 'body', transform }, by: { match, comparator, keys } };
      };
      return { said: { make, ordered: null, denied: false }, next };
    }
    return null;
  }

  #envelope(place: number): Found<Compared> | null {
    let part: AddressPart = 'all';
    let at = place;
    for (const whole of ['domain', 'localpart'] as const) {
      const next = this.line.after(place, P.envelopePart[whole]);
      if (next !== null) [part, at] = [whole, next];
    }
    const parts: ('from' | 'to')[] = [];
    for (;;) {
      const sender = this.line.after(at, P.envelopeSender);
      const next = sender ?? this.line.after(at, P.envelopeRecipient);
      if (next === null) return null;
      parts.push(sender === null ? 'to' : 'from');
      const more = this.line.after(next, P.or);
      if (more === null) {
        const make: Compared['make'] = (match, comparator, keys) => {
          return match === 'regex'
            ? { test: 'compared', subject: { of: 'envelope', parts, part }, by: { match, comparator, keys } }
            : { test: 'envelope', parts, part, match, comparator, keys };
        };
        return { said: { make, ordered: null, denied: false }, next };
      }
      at = more;
    }
  }

  #addresses(place: number): Found<Compared> | null {
    for (const part of ['all', 'domain', 'localpart'] as const) {
      const next = this.line.after(place, P.part[part]);
      const whose = next === null ? null : this.#whose(next);
      if (!whose) continue;
      const { names: headers, denied } = whose.said;
      const make: Compared['make'] = (match, comparator, keys) => {
        return match === 'regex'
          ? { test: 'compared', subject: { of: 'address', headers, part }, by: { match, comparator, keys } }
          : { test: 'address', headers, part, match, comparator, keys };
      };
      const isNone = this.line.after(place, P.no) !== null;
      return { said: { make, ordered: null, denied: denied !== isNone }, next: whose.next };
    }
    return null;
  }

  #fields(place: number): Found<Compared> | null {
    const whose = this.#whose(place);
    if (!whose) return null;
    const { names: headers, denied } = whose.said;
    const make: Compared['make'] = (match, comparator, keys) => {
      return match === 'regex'
        ? { test: 'compared', subject: { of: 'header', headers }, by: { match, comparator, keys } }
        : { test: 'header', headers, match, comparator, keys };
    };
    const ordered: Compared['ordered'] = (relation, keys) => ({
      test: 'compared',
      subject: { of: 'header', headers },
      by: { match: 'value', relation, comparator: NUMERIC, keys },
    });
    return { said: { make, ordered, denied }, next: whose.next };
  }

  /** “To or Cc”, “neither To nor Cc”, “none of To, Cc and Bcc”. */
  #whose(place: number): Found<{ readonly names: readonly string[]; readonly denied: boolean }> | null {
    const neither = this.line.after(place, P.neither);
    const none = this.line.after(place, P.noneOf);
    const names = this.#names(neither ?? none ?? place, neither !== null ? P.nor : none !== null ? P.and : P.or);
    return names && { said: { names: names.said, denied: neither !== null || none !== null }, next: names.next };
  }

  /** Names of fields, separated by commas, the last one by `last`. */
  #names(place: number, last: RegExp): Found<string[]> | null {
    const names: string[] = [];
    let at: number | null = place;
    let end = place;
    while (at !== null) {
      const name = this.#name(at);
      if (!name) break;
      names.push(name.said);
      end = name.next;
      at = this.line.after(end, P.comma) ?? this.line.after(end, last);
    }
    return names.length === 0 ? null : { said: names, next: end };
  }

  #name(place: number): Found<string> | null {
    const subject = this.line.after(place, P.subject);
    if (subject !== null) return { said: 'Subject', next: subject };
    const token = this.#token(place);
    const isName = token?.kind === 'word' && /^[!-9;-~]+$/.test(token.text) && this.isField(token.text);
    return token && isName ? { said: token.text, next: place + 1 } : null;
  }

  /** Keys in quotation marks, separated by commas, “or” and “nor”. */
  #keys(place: number, mayBeEmpty: boolean): Found<string[]> | null {
    const keys: string[] = [];
    let at: number | null = place;
    let end = place;
    while (at !== null) {
      const token = this.#token(at);
      const isEmpty = mayBeEmpty && this.line.after(at, P.empty) !== null;
      if (token?.kind !== 'quoted' && !isEmpty) break;
      keys.push(isEmpty ? '' : (token?.text ?? ''));
      end = at + 1;
      at = this.line.after(end, P.comma) ?? this.line.after(end, P.or) ?? this.line.after(end, P.nor);
    }
    return keys.length === 0 ? null : { said: keys, next: end };
  }
}
