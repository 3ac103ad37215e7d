import type { Relation } from '../../text/relation';
import { readWrittenTest } from '../as-written';
import type { Comparison, Subject } from '../comparison';
import type { AddressPart, LeafTest, TestTree } from '../rule';
import { type Found, negation } from './found';
import { type Line, phrase, sieveIn, type Token } from './tokens';
import { datedTest } from './written-dates';

/** Reads the words that sentences of rules consist of back: the inverse of `sentence.ts`, as far as words say all. */

type MatchKind = Extract<Comparison, { keys: readonly string[] }>['match'] & ('is' | 'contains' | 'matches' | 'regex');
const COMPARATOR = 'i;ascii-casemap';
const NUMERIC = 'i;ascii-numeric';

const leaf = (test: LeafTest): TestTree => ({ kind: 'leaf', test });
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
  within: { part: phrase('in the outermost mime part'), 'all parts': phrase('in any mime part') },
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
      this.#plain(place) ??
      this.#present(place) ??
      this.#counted(place) ??
      datedTest(this.line, place, (at) => this.#name(at)) ??
      this.#compared(place)
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
      const { said: within, next: end } = this.#within(whose.next);
      const make: Compared['make'] = (match, comparator, keys) => {
        return match === 'regex' || within !== null
          ? { test: 'compared', subject: { of: 'address', headers, part, ...within }, by: { match, comparator, keys } }
          : { test: 'address', headers, part, match, comparator, keys };
      };
      const isNone = this.line.after(place, P.no) !== null;
      return { said: { make, ordered: null, denied: denied !== isNone }, next: end };
    }
    return null;
  }

  #fields(place: number): Found<Compared> | null {
    const whose = this.#whose(place);
    if (!whose) return null;
    const { names: headers, denied } = whose.said;
    const { said: within, next } = this.#within(whose.next);
    const subject: Subject = { of: 'header', headers, ...within };
    const make: Compared['make'] = (match, comparator, keys) => {
      return match === 'regex' || within !== null
        ? { test: 'compared', subject, by: { match, comparator, keys } }
        : { test: 'header', headers, match, comparator, keys };
    };
    const ordered: Compared['ordered'] = (relation, keys) => ({
      test: 'compared',
      subject,
      by: { match: 'value', relation, comparator: NUMERIC, keys },
    });
    return { said: { make, ordered, denied }, next };
  }

  /** In which MIME parts fields are looked for, if not in the message. */
  #within(place: number): Found<{ readonly within: 'part' | 'all parts' } | null> {
    for (const within of ['part', 'all parts'] as const) {
      const next = this.line.after(place, P.within[within]);
      if (next !== null) return { said: { within }, next };
    }
    return { said: null, next: place };
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
