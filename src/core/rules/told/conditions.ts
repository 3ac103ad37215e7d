import { bodyTest } from '../known-comparisons';
import { peopleTests, readPeople } from '../people-keys';
import { ANYWHERE_FIELDS, IMPORTANT_MAIL, ONLY_TO, WITH_ATTACHMENT } from '../ready-tests';
import type { LeafTest, TestTree, TextMatch } from '../rule';
import { offersUnsubscribing, UNSUBSCRIBING_WORDS } from '../unsubscribing';
import * as P from './phrases';
import { type Line, phrase, type Token } from './tokens';
import { WrittenReader } from './written';

/** Conditions as people tell them. */

/** What the reader knows of the user. */
export interface Teller {
  /** The user's own addresses. */
  readonly me: readonly string[];
  /** Folders that exist: a name of several words is read as one of them. */
  readonly folders: readonly string[];
}

export interface Condition {
  readonly tree: TestTree;
  /** Told in the negative: “does not contain”. */
  readonly denied?: boolean;
  /** It is about words that are looked for. */
  readonly isOfWords?: boolean;
  readonly next: number;
  /** What is wrong with it, in words. */
  readonly faults?: readonly string[];
  /** How it is read, where it might be meant otherwise. */
  readonly notes?: readonly string[];
}

const COMPARATOR = 'i;ascii-casemap';
const leaf = (test: LeafTest): TestTree => ({ kind: 'leaf', test });
const text = (match: TextMatch['match'], keys: readonly string[]) => ({ match, comparator: COMPARATOR, keys });
const either = (trees: readonly TestTree[]): TestTree =>
  trees.length === 1 && trees[0] ? trees[0] : { kind: 'any', children: trees };

/** Fields that sentences may name without a hyphen or the word “field”. */
const COMMON_FIELDS = new Set([
  'from',
  'to',
  'cc',
  'bcc',
  'subject',
  'date',
  'received',
  'importance',
  'precedence',
  'keywords',
]);
const isField = (name: string): boolean => COMMON_FIELDS.has(name.toLowerCase()) || /^[a-z]+(-[a-z]+)+$/i.test(name);

interface Words {
  readonly keys: readonly string[];
  /** “a and b”: all of them. */
  readonly every: boolean;
  readonly next: number;
  readonly notes: readonly string[];
}

type PlaceOf = (match: TextMatch['match'], keys: readonly string[]) => TestTree;

const inSubject: PlaceOf = (match, keys) => leaf({ test: 'header', headers: ['subject'], ...text(match, keys) });
const inText: PlaceOf = (match, keys) => leaf(bodyTest({ match, keys }));
const inBoth: PlaceOf = (match, keys) => either([inSubject(match, keys), inText(match, keys)]);
const anywhere: PlaceOf = (match, keys) =>
  either([leaf({ test: 'header', headers: ANYWHERE_FIELDS, ...text(match, keys) }), inText(match, keys)]);

const PLACES: readonly (readonly [readonly RegExp[], PlaceOf])[] = [
  [P.PLACES.both, inBoth],
  [P.PLACES.subject, inSubject],
  [P.PLACES.text, inText],
];

/** How the words after a place compare: the longest phrase first. */
const COMPARED: readonly (readonly [
  readonly RegExp[],
  (keys: readonly string[]) => [TextMatch['match'], string[]],
  boolean,
])[] = [
  [P.HAS.lacks, (keys) => ['contains', [...keys]], true],
  [P.HAS.isNot, (keys) => ['is', [...keys]], true],
  [P.HAS.contains, (keys) => ['contains', [...keys]], false],
  [P.HAS.starts, (keys) => ['matches', keys.map((key) => `${escaped(key)}*`)], false],
  [P.HAS.ends, (keys) => ['matches', keys.map((key) => `*${escaped(key)}`)], false],
  [P.HAS.matches, (keys) => ['matches', [...keys]], false],
  [P.HAS.is, (keys) => ['is', [...keys]], false],
];

/** As a pattern of `:matches` that means the text itself (RFC 5228 section 2.7.1). */
const escaped = (key: string): string => key.replace(/[\\*?]/g, '\\$&');

export class ConditionReader {
  readonly #written: WrittenReader;

  constructor(
    readonly line: Line,
    readonly teller: Teller,
    /** Whether another part of the rule begins here, so that words end. */
    readonly isBoundary: (place: number) => boolean,
  ) {
    this.#written = new WrittenReader(line, isField);
  }

  token(place: number): Token | null {
    return this.line.tokens[place] ?? null;
  }

  /** A condition that begins with words that only conditions begin with. */
  told(place: number): Condition | null {
    return (
      this.#asWritten(place) ??
      this.#about(place) ??
      this.#ofMe(place) ??
      this.#fixed(place) ??
      this.#list(place) ??
      this.#people(place) ??
      this.#field(place) ??
      this.#present(place) ??
      this.#placed(place) ??
      this.#withWords(place)
    );
  }

  /** A condition without an introduction: addresses alone, or words before “in the subject”. */
  bare(place: number): Condition | null {
    const people = this.#peopleList(place, 'from');
    if (people && this.#isOfAddresses(place, people.next)) return this.#ofPeople(people, ['from']);
    return this.#wordsIn(place, false);
  }

  #isOfAddresses(from: number, to: number): boolean {
    return this.line.tokens.slice(from, to).some(({ kind }, at) => {
      return kind === 'people' || (kind === 'domain' && this.line.afterAny(from + at - 1, [AT_DOMAIN]) !== null);
    });
  }

  #asWritten(place: number): Condition | null {
    const found = this.#written.test(place);
    if (!found) return null;
    const { said, next } = found;
    const [only] = said.kind === 'none' ? said.children : [];
    return only ? { tree: only, denied: true, next } : { tree: said, next };
  }

  #about(place: number): Condition | null {
    const next = this.line.afterAny(place, [P.ABOUT]);
    const words = next === null ? null : this.#words(next);
    if (!words) return null;
    // “about invoice in the subject” names the place itself.
    return this.#placedAfter(words) ?? this.#compared(inSubject, 'contains', words);
  }

  #ofMe(place: number): Condition | null {
    const only = this.line.afterAny(place, P.ONLY_ME);
    const copied = this.line.afterAny(place, P.CC_ME);
    const next = only ?? copied ?? this.line.afterAny(place, P.TO_ME);
    if (next === null || (only === null && this.token(next)?.kind === 'people')) return null;
    const { me } = this.teller;
    const faults = me.length === 0 ? ['Your own addresses are not known yet.'] : [];
    const toMe = leaf({
      test: 'address',
      headers: copied === null ? ['to', 'cc'] : ['cc'],
      part: 'all',
      ...text('is', me),
    });
    return { tree: only === null ? toMe : ONLY_TO(me), next, faults };
  }

  #fixed(place: number): Condition | null {
    const over = this.line.afterAny(place, P.OVER);
    const size = over ?? this.line.afterAny(place, P.UNDER);
    if (size !== null) {
      const octets = this.token(size - 1)?.octets ?? 0;
      return { tree: leaf({ test: 'size', relation: over === null ? 'under' : 'over', octets }), next: size };
    }
    const empty = this.line.afterAny(place, P.NO_SUBJECT);
    if (empty !== null) return { tree: NO_SUBJECT, next: empty };
    const attached = this.line.afterAny(place, P.ATTACHED);
    if (attached !== null) return { tree: leaf(WITH_ATTACHMENT), next: attached };
    const offering = this.line.afterAny(place, P.UNSUBSCRIBABLE);
    if (offering !== null) return { tree: offersUnsubscribing(UNSUBSCRIBING_WORDS), next: offering };
    const important = this.line.afterAny(place, P.IMPORTANT);
    return important === null ? null : { tree: leaf(IMPORTANT_MAIL), next: important };
  }

  #list(place: number): Condition | null {
    const next = this.line.afterAny(place, P.LIST);
    const words = next === null ? null : this.#words(next);
    return (
      words &&
      this.#compared(
        (match, keys) => leaf({ test: 'header', headers: ['list-id'], ...text(match, keys) }),
        'contains',
        words,
      )
    );
  }

  #people(place: number): Condition | null {
    const has = this.line.afterAny(place, P.FROM_HAS);
    const words = has === null ? null : this.#words(has);
    if (words) {
      return this.#compared(
        (match, keys) => leaf({ test: 'header', headers: ['from'], ...text(match, keys) }),
        'contains',
        words,
      );
    }
    const domain = this.line.afterAny(place, P.FROM_DOMAIN);
    if (domain !== null && this.token(domain)?.kind === 'domain') {
      return this.#ofPeople(this.#peopleList(domain, 'from'), ['from']);
    }
    const matches = this.#pattern(place);
    if (matches) return matches;
    for (const [phrases, headers, direction] of [
      [P.FROM_OR_TO, ['from', 'to', 'cc'], 'to'],
      [P.DELIVERED, ['delivered-to'], 'to'],
      [P.CC, ['cc'], 'to'],
      [P.TO_FIELD, ['to'], 'to'],
      [P.TO, ['to', 'cc'], 'to'],
      [P.FROM, ['from'], 'from'],
    ] as const) {
      const next = this.line.afterAny(place, phrases);
      const people = next === null ? null : this.#peopleList(next, direction);
      // “to Bills” is a folder, not a person.
      if (people && (direction === 'from' || this.#isOfAddresses(place, people.next)))
        return this.#ofPeople(people, headers);
    }
    return this.#inField(place);
  }

  /** “sender matches news-*@x.example”. */
  #pattern(place: number): Condition | null {
    const next = this.line.afterAny(place, [SENDER_MATCHES]);
    return next === null ? null : this.#ofPeople(this.#peopleList(next, 'from'), ['from']);
  }

  /** “with team@mill.example in cc”. */
  #inField(place: number): Condition | null {
    const next = this.line.afterAny(place, [P.WITH]) ?? place;
    const people = this.#peopleList(next, 'to');
    if (!people || !this.#isOfAddresses(next, people.next)) return null;
    for (const header of ['cc', 'to'] as const) {
      const end = this.line.afterAny(people.next, header === 'to' ? [P.IN_FIELD.to, P.IN_TO] : [P.IN_FIELD.cc]);
      if (end !== null) return this.#ofPeople({ ...people, next: end }, [header]);
    }
    return null;
  }

  #ofPeople(
    people: { readonly items: readonly string[]; readonly next: number } | null,
    headers: readonly string[],
  ): Condition | null {
    if (!people) return null;
    const keys = readPeople(people.items.join('\n'));
    const [tree] = peopleTests(keys, headers);
    return tree ? { tree, next: people.next, faults: keys.faults } : null;
  }

  /** People after “from” or “to”, as cells of a sheet hold them. */
  #peopleList(
    place: number,
    direction: 'from' | 'to',
  ): { readonly items: readonly string[]; readonly next: number } | null {
    const items: string[] = [];
    let at = this.line.afterAny(place, P.ANY_OF) ?? place;
    let end = place;
    let isFirst = true;
    for (;;) {
      const item = this.#person(at, isFirst);
      if (!item) break;
      items.push(item.text);
      end = item.next;
      isFirst = false;
      at = this.#nextPerson(end, direction);
    }
    return items.length === 0 ? null : { items, next: end };
  }

  #nextPerson(place: number, direction: 'from' | 'to'): number {
    const separated = this.line.afterAny(place, P.SEPARATORS);
    if (separated === null) return place;
    return this.line.afterAny(separated, [P.MORE_PEOPLE[direction]]) ?? separated;
  }

  /** One person or domain; names without an address only at the start, or behind “or”. */
  #person(place: number, isFirst: boolean): { readonly text: string; readonly next: number } | null {
    const token = this.token(place);
    const domain = this.line.afterAny(place, P.ANYONE_AT);
    if (domain !== null) {
      const named = this.token(domain - 1)?.text ?? '';
      return this.#withSubdomains(named.startsWith('*.') ? named : `@${named.replace(/^\*?@/, '')}`, domain);
    }
    if (token?.kind === 'people') return this.#withSubdomains(token.text, place + 1);
    if (token?.kind === 'domain') return this.#withSubdomains(`@${token.text}`, place + 1);
    const name = this.#nameAt(place);
    if (!name) return null;
    const after = this.token(name.next);
    if (after?.angled) return { text: after.text, next: name.next + 1 };
    const mayBeName =
      isFirst ||
      this.line.afterAny(place - 1, [OR_WORD]) !== null ||
      this.line.afterAny(place - 1, [P.MORE_PEOPLE.from]) !== null;
    return mayBeName ? name : null;
  }

  #withSubdomains(text: string, next: number): { readonly text: string; readonly next: number } {
    const wide = text.startsWith('@') ? this.line.afterAny(next, [P.SUBDOMAINS]) : null;
    return wide === null ? { text, next } : { text: `*.${text.slice(1)}`, next: wide };
  }

  /** A quoted name, or words with capital letters. */
  #nameAt(place: number): { readonly text: string; readonly next: number } | null {
    const token = this.token(place);
    if (token?.kind === 'quoted') return { text: token.text, next: place + 1 };
    const words: string[] = [];
    let next = place;
    for (
      let word = token;
      word?.kind === 'word' && /^\p{Lu}/u.test(word.text) && this.line.afterAny(next, [P.NO_NAME]) === null;
      word = this.token(++next)
    )
      words.push(word.text);
    return words.length === 0 || words.length > MOST_NAMES ? null : { text: words.join(' '), next };
  }

  /** “X-Spam-Flag is YES”, “header Precedence contains bulk”. */
  #field(place: number): Condition | null {
    const named = this.line.afterAny(place, [P.FIELD]);
    const token = this.token(named ?? place);
    if (token?.kind !== 'word' || (named === null && !/^[a-z]+(-[a-z]+)+$/i.test(token.text))) return null;
    const where: PlaceOf = (match, keys) => leaf({ test: 'header', headers: [token.text], ...text(match, keys) });
    return this.#comparison((named ?? place) + 1, where);
  }

  #present(place: number): Condition | null {
    const next = this.line.afterAny(place, P.WITH_FIELD);
    const token = next === null ? null : this.token(next);
    if (next === null || token?.kind !== 'word' || !/-/.test(token.text)) return null;
    const end = this.line.afterAny(next + 1, [P.FIELD_WORD]);
    const isNamed = this.line.afterAny(next - 1, [P.FIELD_WORD]) !== null;
    return end === null && !isNamed
      ? null
      : { tree: leaf({ test: 'exists', headers: [token.text] }), next: end ?? next + 1 };
  }

  /** “subject contains invoice”, “subject: invoice”. */
  #placed(place: number): Condition | null {
    const exact = this.line.afterAny(place, [P.EXACT_SUBJECT]);
    const exactly = exact === null ? null : this.#words(exact);
    if (exactly) return this.#compared(inSubject, 'is', exactly);
    const article = this.line.afterAny(place, [WITH_A]) ?? place;
    for (const [phrases, where] of PLACES) {
      const next = this.line.afterAny(article, phrases);
      if (next === null) continue;
      const found = this.#comparison(next, where);
      if (found) return found;
      const words = where === inSubject ? this.#words(next) : null;
      if (words) return this.#compared(where, 'contains', words);
    }
    return null;
  }

  /** What a place is compared with. */
  #comparison(place: number, where: PlaceOf): Condition | null {
    const colon = this.line.afterAny(place, [P.COLON]);
    const plain = colon === null ? null : this.#words(colon);
    if (plain) return this.#compared(where, 'contains', plain);
    for (const [phrases, compared, denied] of COMPARED) {
      const next = this.line.afterAny(place, phrases);
      const words = next === null ? null : this.#words(next);
      if (!words) continue;
      const [match] = compared([]);
      const made: PlaceOf = (_, keys) => where(...compared(keys));
      return { ...this.#compared(made, match, words), denied };
    }
    return null;
  }

  /** “with invoice in the subject”. */
  #withWords(place: number): Condition | null {
    const lacking = this.line.afterAny(place, [WITHOUT]);
    const next = lacking ?? this.line.afterAny(place, [P.WITH]);
    if (next === null) return null;
    const found = this.#wordsIn(next, true);
    return found && { ...found, denied: lacking !== null };
  }

  /** Words, and where they are; those of “containing” may be in the subject or the text. */
  #wordsIn(place: number, isIntroduced: boolean): Condition | null {
    const words = this.#words(place);
    if (!words) return null;
    const found = this.#placedAfter(words);
    if (found || !isIntroduced) return found;
    const isContained = this.line.afterAny(place - 1, [CONTAINING]) !== null;
    return isContained ? this.#compared(inBoth, 'contains', words) : null;
  }

  #placedAfter(words: Words): Condition | null {
    const all = this.line.afterAny(words.next, P.ANYWHERE);
    if (all !== null) return this.#compared(anywhere, 'contains', { ...words, next: all });
    const inside = this.line.afterAny(words.next, [P.IN]);
    if (inside === null) return null;
    for (const [phrases, where] of PLACES) {
      const next = this.line.afterAny(inside, phrases);
      if (next !== null) return this.#compared(where, 'contains', { ...words, next });
    }
    return null;
  }

  #compared(where: PlaceOf, match: TextMatch['match'], { keys, every, next, notes }: Words): Condition {
    const tree: TestTree = every
      ? { kind: 'all', children: keys.map((key) => where(match, [key])) }
      : where(match, keys);
    return { tree, next, notes, isOfWords: true };
  }

  /** Whether “in the subject” and the like begin here. */
  isPlace(place: number): boolean {
    if (this.line.afterAny(place, P.ANYWHERE) !== null) return true;
    const inside = this.line.afterAny(place, [P.IN]);
    return inside !== null && PLACES.some(([phrases]) => this.line.afterAny(inside, phrases) !== null);
  }

  /** Words in quotation marks, or up to where another part begins; separated by commas, “or” or “and”. */
  #words(place: number): Words | null {
    let at = this.line.afterAny(place, P.ANY_OF) ?? place;
    const all = this.line.afterAny(at, P.ALL_OF);
    at = all ?? at;
    const keys: string[] = [];
    const separators = new Set<string>();
    let end = place;
    for (;;) {
      at = this.line.afterAny(at, [P.KIND_OF_KEY]) ?? at;
      const key = this.#key(at);
      if (!key) break;
      keys.push(key.text);
      end = key.next;
      const separated = this.line.afterAny(end, P.SEPARATORS);
      if (separated === null) break;
      separators.add(
        this.line.afterAny(end, [P.OR, OR_WORD]) !== null
          ? 'or'
          : this.line.afterAny(end, [P.AND, AND_WORD]) !== null
            ? 'and'
            : ',',
      );
      at = separated;
    }
    if (keys.length === 0) return null;
    const every = all !== null || (keys.length > 1 && separators.has('and') && !separators.has('or'));
    const isMixed = separators.has('and') && separators.has('or') && keys.length > 2;
    return { keys, every, next: end, notes: isMixed ? ['“and” and “or” are mixed here: this is read as “or”.'] : [] };
  }

  #key(place: number): { readonly text: string; readonly next: number } | null {
    const token = this.token(place);
    if (token?.kind === 'quoted') return token.text === '' ? null : { text: token.text, next: place + 1 };
    let next = place;
    const isPart = () => {
      const one = this.token(next);
      if (!one || one.kind === 'quoted' || one.kind === 'arrow' || one.kind === 'mark') return false;
      return (
        this.line.afterAny(next, [OR_WORD, AND_WORD, ENDS_WORDS]) === null &&
        !this.isPlace(next) &&
        !this.isBoundary(next)
      );
    };
    while (next - place <= MOST_WORDS && isPart()) next++;
    if (next - place > MOST_WORDS) return null;
    const [first, last] = [this.token(place), this.token(next - 1)];
    return next === place || !first || !last ? null : { text: this.line.text.slice(first.start, last.end), next };
  }
}

const NO_SUBJECT: TestTree = {
  kind: 'any',
  children: [inSubject('is', ['']), { kind: 'none', children: [leaf({ test: 'exists', headers: ['subject'] })] }],
};
const MOST_NAMES = 5;
/** Longer texts without quotation marks are prose. */
const MOST_WORDS = 12;
const OR_WORD = phrase('or');
const AND_WORD = phrase('and');
const AT_DOMAIN = phrase('at|domain|of|in %');
const WITHOUT = phrase('without');
const CONTAINING = phrase('containing|contains|mentioning|mentions');
const WITH_A = phrase('with a');
const ENDS_WORDS = phrase('then|please|but|also');
const SENDER_MATCHES = phrase('the? sender|from matches|matching|is_like');
