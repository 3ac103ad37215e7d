import { inSubject, isFrom, ofDomain, ofList } from '../audit/senders';
import type { StoredMessage, Valued } from '../audit/stored';
import { Bitmap } from '../flow/bitmap';
import { domainOf } from '../mail/address';
import { blankRule, type Rule, type TestTree } from '../rules/rule';
import { canonicalFolder, INBOX } from '../sieve/interpret/fate';
import { elementAt } from '../text/lookup';

/**
 * A whole set of rules from mail that the user filed by hand (need N40): a decision list, learned by covering. In turn,
 * the list, domain, sender or word of the subject is chosen that explains most of what no rule before it files, with
 * exceptions where a few others of its mail are elsewhere.
 */
export interface LearnedSet {
  /** In the order in which they run; each ends the chain. */
  readonly rules: readonly Rule[];
  /** The mail that they were learned from, and the newer mail that they were not. */
  readonly older: Bitmap;
  readonly newer: Bitmap;
}

/** The part of the mail, by date, that is learned from. */
const OLDER = 0.7;
/** The fewest messages that suggest a rule, or an exception. */
const LEAST = 4;
const LEAST_EXEMPT = 2;
/** The part of what a rule matches that must be in its folder; for words of the subject, which say less. */
const PRECISION = 0.9;
const PRECISION_OF_WORDS = 0.97;
/** A rule whose exceptions make it precise must be right for this part without them. */
const NEARLY = 0.7;
const MOST_EXCEPTIONS = 3;
const MOST_RULES = 300;
const MOST_KEYS = 20;
/** Words of fewer letters say little. */
const WORD = /[\p{L}\p{N}]{4,}/gu;
const MOST_WORDS = 12;

type Kind = 'list' | 'domain' | 'sender' | 'word';

/** The order in which equally good keys are preferred. */
const KINDS: readonly Kind[] = ['list', 'sender', 'domain', 'word'];

const TESTS: Readonly<Record<Kind, (keys: readonly string[]) => TestTree>> = {
  list: ofList,
  domain: (keys) => ofDomain(keys),
  sender: isFrom,
  word: inSubject,
};

/** A property of messages, with those that have it and are not explained yet, by folder. */
interface Key {
  readonly kind: Kind;
  readonly text: string;
  readonly messages: number[];
  readonly folders: Map<string, number>;
  left: number;
}

/** `checkpoint` is called often, and may throw to cancel. */
export function learnSet(mail: Valued, checkpoint: () => void = () => {}): LearnedSet {
  const { messages } = mail.mail;
  const taking: number[] = [];
  const dates = new Float64Array(messages.length);
  for (let number = 0; number < messages.length; number++) {
    const { folder, conversation, date } = mail.message(number);
    dates[number] = date ?? 0;
    // Removed messages are in no conversation.
    if (folder !== null && conversation >= 0 && !mail.sent.has(number)) taking.push(number);
  }
  const dateOf = (number: number) => elementAt(dates, number);
  taking.sort((a, b) => dateOf(a) - dateOf(b) || a - b);
  const until = Math.round(taking.length * OLDER);
  const older = taking.slice(0, until);
  return {
    rules: new Covering(mail, older, checkpoint).rules(),
    older: Bitmap.of(messages.length, older),
    newer: Bitmap.of(messages.length, taking.slice(until)),
  };
}

interface Choice {
  readonly key: Key;
  readonly folder: string;
  readonly exceptions: readonly Key[];
}

class Covering {
  readonly #keys: readonly Key[];
  readonly #keysOf = new Map<number, Key[]>();
  readonly #left: Set<number>;
  /** For each message the number of the choice that files it. */
  readonly #takenBy = new Map<number, number>();

  constructor(
    readonly mail: Valued,
    older: readonly number[],
    readonly checkpoint: () => void,
  ) {
    this.#left = new Set(older);
    const keys = new Map<string, Key>();
    older.forEach((number, at) => {
      if (at % 1024 === 0) checkpoint();
      const folder = this.#folderOf(number);
      for (const [kind, text] of propertiesOf(mail.message(number))) {
        const name = `${kind} ${text}`;
        const key: Key = keys.get(name) ?? { kind, text, messages: [], folders: new Map(), left: 0 };
        keys.set(name, key);
        key.messages.push(number);
        key.folders.set(folder, (key.folders.get(folder) ?? 0) + 1);
        key.left++;
      }
    });
    this.#keys = [...keys.values()].filter(({ messages }) => messages.length >= LEAST_EXEMPT);
    for (const key of this.#keys) {
      for (const number of key.messages) {
        const own = this.#keysOf.get(number);
        if (own) own.push(key);
        else this.#keysOf.set(number, [key]);
      }
    }
  }

  #folderOf(number: number): string {
    const { folder } = this.mail.message(number);
    return folder === null || canonicalFolder(folder) === INBOX ? INBOX : folder;
  }

  rules(): Rule[] {
    const choices: Choice[] = [];
    while (choices.length < MOST_RULES) {
      this.checkpoint();
      // Words of the subject say less of mail to come than who sent it.
      const choice = this.#best(isOfWho) ?? this.#bestWithExceptions() ?? this.#best(isOfWords);
      if (!choice) break;
      this.#take(choice, choices.length);
      choices.push(choice);
    }
    return merged(choices, this.#takenBy).map(ruleOf);
  }

  /** The key of these that explains most; null if none is precise. */
  #best(isWanted: (key: Key) => boolean): Choice | null {
    let best: Choice | null = null;
    let most = 0;
    for (const key of this.#keys) {
      if (key.left < LEAST || !isWanted(key)) continue;
      const found = topFolder(key);
      if (!found || found.count < LEAST || found.count < key.left * precisionOf(key)) continue;
      const gain = found.count - 5 * (key.left - found.count);
      if (gain < most || (gain === most && best && isLater(key, best.key))) continue;
      [best, most] = [{ key, folder: found.folder, exceptions: [] }, gain];
    }
    return best;
  }

  /** A key that is precise but for mail that something else tells apart. */
  #bestWithExceptions(): Choice | null {
    const nearly = this.#keys.flatMap((key) => {
      const found = topFolder(key);
      const isNear = found && found.count >= 2 * LEAST && found.count >= key.left * NEARLY && key.kind !== 'word';
      return isNear ? [{ key, ...found }] : [];
    });
    nearly.sort((a, b) => b.count - a.count);
    for (const { key, folder, count } of nearly.slice(0, MOST_RULES)) {
      const exceptions = this.#exceptionsOf(key, folder);
      const exempt = new Set(exceptions.flatMap(({ messages }) => messages));
      const wrong = this.#leftOf(key).filter((number) => !exempt.has(number) && this.#folderOf(number) !== folder);
      if (exceptions.length > 0 && count >= (count + wrong.length) * PRECISION) return { key, folder, exceptions };
    }
    return null;
  }

  #leftOf = ({ messages }: Key): number[] => messages.filter((number) => this.#left.has(number));

  /** Keys that only mail outside the folder has, most of it first. */
  #exceptionsOf(key: Key, folder: string): Key[] {
    const own = this.#leftOf(key);
    const sums = new Map<Key, { wrong: number; right: number }>();
    for (const number of own) {
      for (const other of this.#keysOf.get(number) ?? []) {
        if (other === key || other.kind === 'domain') continue;
        const sum = sums.get(other) ?? { wrong: 0, right: 0 };
        if (this.#folderOf(number) === folder) sum.right++;
        else sum.wrong++;
        sums.set(other, sum);
      }
    }
    const pure = [...sums].filter(([, { wrong, right }]) => right === 0 && wrong >= LEAST_EXEMPT);
    pure.sort(([a, one], [b, other]) => other.wrong - one.wrong || KINDS.indexOf(a.kind) - KINDS.indexOf(b.kind));
    const chosen: Key[] = [];
    const exempt = new Set<number>();
    for (const [other] of pure) {
      if (chosen.length === MOST_EXCEPTIONS) break;
      const more = this.#leftOf(other).filter((number) => !exempt.has(number) && own.includes(number));
      if (more.length < LEAST_EXEMPT) continue;
      chosen.push(other);
      for (const number of more) exempt.add(number);
    }
    return chosen;
  }

  /** What a choice matches is explained. */
  #take({ key, exceptions }: Choice, at: number): void {
    const exempt = new Set(exceptions.flatMap(({ messages }) => messages));
    for (const number of this.#leftOf(key)) {
      if (exempt.has(number)) continue;
      this.#left.delete(number);
      this.#takenBy.set(number, at);
      const folder = this.#folderOf(number);
      for (const other of this.#keysOf.get(number) ?? []) {
        other.left--;
        other.folders.set(folder, (other.folders.get(folder) ?? 1) - 1);
      }
    }
  }
}

function* propertiesOf({ listId, sender, subject }: StoredMessage): Generator<readonly [Kind, string]> {
  if (listId) yield ['list', listId];
  if (sender.includes('@')) {
    yield ['sender', sender];
    yield ['domain', domainOf(sender)];
  }
  // Rules ignore the case of US-ASCII letters alone (RFC 4790 section 9.2).
  const folded = subject.replace(/[A-Z]/g, (letter) => letter.toLowerCase());
  const words = new Set((folded.match(WORD) ?? []).filter((word) => !/^\p{N}+$/u.test(word)));
  let count = 0;
  for (const word of words) {
    if (count++ === MOST_WORDS) return;
    yield ['word', word];
  }
}

/** The folder, other than the inbox, with most of the mail of a key. */
function topFolder({ folders }: Key): { readonly folder: string; readonly count: number } | null {
  let top: { folder: string; count: number } | null = null;
  for (const [folder, count] of folders) if (folder !== INBOX && count > (top?.count ?? 0)) top = { folder, count };
  return top;
}

const precisionOf = ({ kind }: Key): number => (kind === 'word' ? PRECISION_OF_WORDS : PRECISION);

const isOfWords = ({ kind }: Key): boolean => kind === 'word';
const isOfWho = (key: Key): boolean => !isOfWords(key);

const isLater = (a: Key, b: Key): boolean => KINDS.indexOf(a.kind) >= KINDS.indexOf(b.kind);

interface Group {
  readonly keys: Key[];
  readonly choice: Choice;
}

/** Choices of one folder and kind become one rule, where no rule between them has taken mail of the later one. */
function merged(choices: readonly Choice[], takenBy: ReadonlyMap<number, number>): Group[] {
  const groups: (Group & { readonly at: number })[] = [];
  const groupOf: number[] = [];
  choices.forEach((choice, at) => {
    const { key, folder, exceptions } = choice;
    const takers = new Set(key.messages.map((number) => groupOf[takenBy.get(number) ?? at] ?? groups.length));
    const host = groups.findIndex((group, place) => {
      const isAlike = group.choice.folder === folder && group.choice.key.kind === key.kind;
      const isPlain = group.choice.exceptions.length + exceptions.length === 0 && group.keys.length < MOST_KEYS;
      return isAlike && isPlain && [...takers].every((taker) => taker <= place || taker === groups.length);
    });
    if (host >= 0) elementAt(groups, host).keys.push(key);
    else groups.push({ keys: [key], choice, at });
    groupOf.push(host >= 0 ? host : groups.length - 1);
  });
  return groups;
}

function ruleOf({ keys, choice: { key, folder, exceptions } }: Group, at: number): Rule {
  const texts = keys.map(({ text }) => text);
  const named = texts.length <= 2 ? texts.join(' and ') : `${texts[0]} and ${texts.length - 1} others`;
  return {
    ...blankRule(`learned-${at}`),
    name: `${folder}: ${named}`,
    tests: TESTS[key.kind](texts),
    unless: exceptions.map(({ kind, text }) => TESTS[kind]([text])),
    actions: [{ action: 'fileinto', folder, copy: false, flags: null }],
    ending: 'stop',
  };
}
