import { readWrittenActions } from '../as-written';
import type { Action } from '../rule';
import type { Found } from './found';
import { type Line, phrase, sieveIn, type Token } from './tokens';

const FLAGS = ['seen', 'flagged', 'answered', 'deleted', 'draft'] as const;

const A = {
  file: phrase('file into "'),
  fileCopy: phrase('file a copy into "'),
  creating: phrase(', creating it if it is missing'),
  marked: phrase(', marked'),
  withoutFlags: phrase('without flags'),
  keep: phrase('keep in the inbox'),
  redirect: phrase('redirect to @'),
  redirectCopy: phrase('redirect a copy to @'),
  discard: phrase('discard'),
  clear: phrase('clear all flags'),
  mark: phrase('mark as'),
  only: phrase('only'),
  remove: phrase('remove the flag|flags'),
  and: phrase('and'),
  comma: phrase(','),
  reply: phrase('send the automatic reply "'),
  reject: phrase('reject with the text "'),
  sieve: phrase('follow the sieve "'),
  nothing: phrase('do nothing'),
} as const;

/** The actions of a sentence, as it writes them. */
export class WrittenActions {
  constructor(readonly line: Line) {}

  /** Actions separated by commas and “and”. */
  list(place: number): Found<Action[]> | null {
    const nothing = this.line.after(place, A.nothing);
    if (nothing !== null) return { said: [], next: nothing };
    const actions: Action[] = [];
    let at: number | null = place;
    let end = place;
    while (at !== null) {
      const found = this.one(at);
      if (!found) break;
      actions.push(...found.said);
      end = found.next;
      at = this.line.after(end, A.comma) ?? this.line.after(end, A.and);
    }
    return actions.length === 0 ? null : { said: actions, next: end };
  }

  one(place: number): Found<readonly Action[]> | null {
    return this.#filing(place) ?? this.#plain(place) ?? this.#marking(place) ?? this.#texts(place);
  }

  #text(place: number): string {
    return this.line.tokens[place]?.text ?? '';
  }

  #filing(place: number): Found<Action[]> | null {
    const plain = this.line.after(place, A.file);
    const end = plain ?? this.line.after(place, A.fileCopy);
    if (end === null) return null;
    const creating = this.line.after(end, A.creating);
    const { said: flags, next } = this.#carried(creating ?? end);
    const filing = { action: 'fileinto', folder: this.#text(end - 1), copy: plain === null, flags } as const;
    return { said: [creating === null ? filing : { ...filing, create: true }], next };
  }

  /** The flags that a filed or kept message carries; null if nothing is said of them. */
  #carried(place: number): Found<string[] | null> {
    const none = this.line.after(place, A.withoutFlags);
    if (none !== null) return { said: [], next: none };
    const marked = this.line.after(place, A.marked);
    const flags = marked === null ? null : this.#flags(marked);
    return flags ?? { said: null, next: place };
  }

  #plain(place: number): Found<Action[]> | null {
    const keep = this.line.after(place, A.keep);
    if (keep !== null) {
      const { said: flags, next } = this.#carried(keep);
      return { said: [{ action: 'keep', flags }], next };
    }
    for (const [start, copy] of [
      [A.redirect, false],
      [A.redirectCopy, true],
    ] as const) {
      const next = this.line.after(place, start);
      if (next !== null) return { said: [{ action: 'redirect', address: this.#text(next - 1), copy }], next };
    }
    const discard = this.line.after(place, A.discard);
    return discard === null ? null : { said: [{ action: 'discard' }], next: discard };
  }

  #marking(place: number): Found<Action[]> | null {
    const clear = this.line.after(place, A.clear);
    if (clear !== null) return { said: [{ action: 'setflag', flags: [] }], next: clear };
    const remove = this.line.after(place, A.remove);
    const removed = remove === null ? null : this.#flags(remove);
    if (removed) return { said: [{ action: 'removeflag', flags: removed.said }], next: removed.next };
    const mark = this.line.after(place, A.mark);
    const flags = mark === null ? null : this.#flags(mark);
    if (!flags) return null;
    const only = this.line.after(flags.next, A.only);
    return { said: [{ action: only === null ? 'addflag' : 'setflag', flags: flags.said }], next: only ?? flags.next };
  }

  #texts(place: number): Found<readonly Action[]> | null {
    const reply = this.line.after(place, A.reply);
    if (reply !== null) return { said: [{ action: 'vacation', reason: this.#text(reply - 1) }], next: reply };
    const reject = this.line.after(place, A.reject);
    if (reject !== null) return { said: [{ action: 'reject', reason: this.#text(reject - 1) }], next: reject };
    const sieve = this.line.after(place, A.sieve);
    const text = sieve === null ? undefined : this.line.tokens[sieve - 1];
    const reading = text && readWrittenActions(sieveIn(text));
    return sieve !== null && reading?.ok ? { said: reading.said, next: sieve } : null;
  }

  #flags(place: number): Found<string[]> | null {
    const flags: string[] = [];
    let at: number | null = place;
    let end = place;
    while (at !== null) {
      const token: Token | undefined = this.line.tokens[at];
      const known = token?.kind === 'word' ? FLAGS.find((flag) => flag === token.text) : undefined;
      if (token?.kind !== 'quoted' && !known) break;
      flags.push(known ? `\\${known}` : (token?.text ?? ''));
      end = at + 1;
      at = this.line.after(end, A.comma) ?? this.line.after(end, A.and);
    }
    return flags.length === 0 ? null : { said: flags, next: end };
  }
}
