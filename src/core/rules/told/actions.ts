import { maybeSingleAddress } from '../../mail/address';
import type { Action, Ending } from '../rule';
import type { Teller } from './conditions';
import * as P from './phrases';
import { type Line, phrase, type Token } from './tokens';
import { WrittenActions } from './written-actions';

/** Actions as people tell them. */

/** A verb whose object comes later: “move mail from Ann to Bills”. */
export type Pending = 'move' | 'copy' | 'mark' | 'tag' | 'keep' | 'forward' | 'redirect' | 'reply';

export interface Told {
  readonly next: number;
  readonly actions?: readonly Action[];
  readonly ending?: Ending;
  readonly pending?: Pending;
  readonly faults?: readonly string[];
}

export class ActionReader {
  readonly #written: WrittenActions;

  constructor(
    readonly line: Line,
    readonly teller: Teller,
  ) {
    this.#written = new WrittenActions(line);
  }

  #token(place: number): Token | null {
    return this.line.tokens[place] ?? null;
  }

  /** An action that begins with words that only actions begin with. */
  told(place: number): Told | null {
    return (
      this.#ended(place) ??
      this.#asWritten(place) ??
      this.#sent(place) ??
      this.#marked(place) ??
      this.#deleted(place) ??
      this.#kept(place) ??
      this.#filed(place) ??
      this.#split(place)
    );
  }

  /** What completes a verb that came before. */
  completing(place: number, pending: Pending): Told | null {
    switch (pending) {
      case 'move':
      case 'copy': {
        const to = pending === 'copy' ? this.line.afterAny(place, [TO_PEOPLE]) : null;
        if (to !== null) return this.#redirect(to - 1, true);
        const into = this.line.afterAny(this.line.afterAny(place, [P.FOLDER_VERB]) ?? place, P.INTO);
        return into === null ? null : this.#into(into, pending === 'copy');
      }
      case 'mark': {
        const as = this.line.afterAny(place, [AS]) ?? this.line.afterAny(place, [P.MARK]);
        return as === null ? null : this.#flags(as);
      }
      case 'tag': {
        const as = this.line.afterAny(place, [WITH_OR_AS]);
        return as === null ? null : this.#keyword(as);
      }
      case 'keep': {
        const next = this.line.afterAny(place, [P.IN_INBOX]);
        return next === null ? null : { next, actions: [] };
      }
      case 'forward':
      case 'redirect': {
        const to = this.line.afterAny(place, [TO_PEOPLE]);
        const isLast = to !== null && !this.#comes(to, TO_PEOPLE);
        return isLast ? this.#redirect(to - 1, pending === 'forward') : null;
      }
      case 'reply': {
        const text = this.line.afterAny(place, [WITH_TEXT]);
        return text === null ? null : this.#reply(text);
      }
      default:
        pending satisfies never;
        return null;
    }
  }

  #comes(place: number, wanted: RegExp): boolean {
    for (let at = place; at < this.line.tokens.length; at++) if (this.line.after(at, wanted) !== null) return true;
    return false;
  }

  /** What stands behind an arrow: a folder, or a word for another action. */
  pointed(place: number): Told | null {
    return this.marking(place) ?? this.told(place) ?? this.#into(place, false);
  }

  /** “seen” alone, as in a list of what is done. */
  marking(place: number): Told | null {
    const seen = this.line.afterAny(place, [SEEN]);
    return seen === null ? null : { next: seen, actions: [mark('\\seen')] };
  }

  #asWritten(place: number): Told | null {
    const found = this.#written.one(place);
    return found && { next: found.next, actions: found.said };
  }

  #ended(place: number): Told | null {
    const on = this.line.afterAny(place, P.CONTINUE);
    if (on !== null) return { next: on, ending: 'continue' };
    const stop = this.line.afterAny(place, P.STOP);
    if (stop !== null) return { next: stop, ending: 'stop' };
    const nothing = this.line.afterAny(place, [P.DO_NOTHING]);
    return nothing === null ? null : { next: nothing, actions: [] };
  }

  #sent(place: number): Told | null {
    const forward = this.line.afterAny(place, P.FORWARD);
    if (forward !== null) return this.#redirect(forward, true);
    const redirect = this.line.afterAny(place, P.REDIRECT);
    if (redirect !== null) return this.#redirect(redirect, false);
    const reply = this.line.afterAny(place, P.REPLY);
    return reply === null ? null : this.#reply(reply);
  }

  #redirect(place: number, isCopy: boolean): Told | null {
    const address = this.#token(place);
    if (address?.kind !== 'people') return null;
    const without = this.line.afterAny(place + 1, [P.WITHOUT_COPY]);
    const faults = maybeSingleAddress(address.text) ? [] : [`“${address.text}” is not a complete address.`];
    const action: Action = { action: 'redirect', address: address.text, copy: isCopy && without === null };
    return { next: without ?? place + 1, actions: [action], faults };
  }

  /** The text is the last one before. */
  #reply(next: number): Told {
    const text = this.#token(next - 1)?.kind === 'quoted' ? this.#token(next - 1) : this.#token(next - 2);
    return { next, actions: [{ action: 'vacation', reason: text?.text ?? '' }] };
  }

  #marked(place: number): Told | null {
    const tag = this.line.afterAny(place, P.TAG);
    const keyword = tag === null ? null : this.#keyword(tag);
    if (keyword) return keyword;
    const as = this.line.afterAny(place, [P.MARK]) ?? this.line.afterAny(place, [P.MARK_BARE]);
    const flags = as === null ? null : this.#flags(as);
    if (flags) return flags;
    const flag = this.line.afterAny(place, [P.FLAG]);
    return flag === null ? null : { next: flag, actions: [mark('\\flagged')] };
  }

  #keyword(place: number): Told | null {
    const token = this.#token(place);
    if ((token?.kind !== 'quoted' && token?.kind !== 'word') || this.line.afterAny(place, [P.NOUN]) !== null)
      return null;
    const faults = /\s/.test(token.text) ? [`“${token.text}” cannot be a keyword: it has to be one word.`] : [];
    return { next: place + 1, actions: [mark(token.text)], faults };
  }

  /** “read”, “flagged and "oak"”. */
  #flags(place: number): Told | null {
    const actions: Action[] = [];
    const flags: string[] = [];
    let [at, end] = [place, place];
    for (;;) {
      const token = this.#token(at);
      const seen = this.line.afterAny(at, [P.SEEN_WORD]);
      const flagged = this.line.afterAny(at, [P.FLAGGED_WORD]);
      if (seen === null && flagged === null && token?.kind !== 'quoted') break;
      flags.push(seen !== null ? '\\seen' : flagged !== null ? '\\flagged' : (token?.text ?? ''));
      end = at + 1;
      at = this.line.afterAny(end, P.SEPARATORS) ?? end;
      if (at === end) break;
    }
    if (flags.length > 0) actions.push({ action: 'addflag', flags });
    return flags.length === 0 ? null : { next: end, actions };
  }

  #deleted(place: number): Told | null {
    const next = this.line.afterAny(place, P.DELETE);
    return next === null ? null : { next, actions: [{ action: 'discard' }] };
  }

  #kept(place: number): Told | null {
    const next = this.line.afterAny(place, P.KEEP);
    if (next === null) return null;
    const isOpen = this.line.afterAny(next, [P.NOUN]) !== null;
    return { next, actions: [{ action: 'keep', flags: null }], ...(isOpen && { pending: 'keep' }) };
  }

  #filed(place: number): Told | null {
    const verb = this.line.afterAny(place, [P.FOLDER_VERB]);
    const copied = this.line.afterAny(place, P.COPY);
    const start = copied ?? verb;
    const into = this.line.afterAny(start ?? place, P.INTO);
    if (into === null) {
      const noun = copied === null ? null : this.line.afterAny(copied, [P.NOUN]);
      return copied === null ? null : { next: noun ?? copied, pending: 'copy' };
    }
    // “in German” and “to Ann” are not folders, unless a verb, quotation marks or the word “folder” say so.
    const isStrong = start !== null || this.line.afterAny(place, [STRONG]) !== null;
    if (!isStrong && !this.#looksLikeFolder(place, into)) return null;
    return this.#into(into, copied !== null);
  }

  #looksLikeFolder(place: number, folder: number): boolean {
    const token = this.#token(folder);
    if (token?.kind === 'quoted') return true;
    const isKnown = token !== null && this.teller.folders.includes(token.text);
    return (
      isKnown || (this.line.afterAny(place, [TO]) !== null && token?.kind === 'word' && /^\p{Lu}/u.test(token.text))
    );
  }

  /** A folder: in quotation marks, one that exists, or a word with those with capital letters behind it. */
  #into(place: number, copy: boolean): Told | null {
    const start = this.line.afterAny(place, [A_FOLDER]) ?? place;
    const token = this.#token(start);
    if (!token || !/^(word|quoted|domain)$/.test(token.kind)) return null;
    const end = token.kind === 'quoted' ? start + 1 : this.#endOfFolder(start);
    const last = this.#token(end - 1) ?? token;
    const folder = token.kind === 'quoted' ? token.text : this.line.text.slice(token.start, last.end);
    if (folder === '') return null;
    return {
      next: this.line.afterAny(end, [P.FOLDER_WORD]) ?? end,
      actions: [{ action: 'fileinto', folder, copy, flags: null }],
    };
  }

  #endOfFolder(start: number): number {
    const first = this.#token(start);
    for (let end = this.line.tokens.length; first && end > start; end--) {
      const last = this.#token(end - 1);
      if (last && this.teller.folders.includes(this.line.text.slice(first.start, last.end))) return end;
    }
    let end = start + 1;
    while (this.#token(end)?.kind === 'word' && /^[\p{Lu}\d]/u.test(this.#token(end)?.text ?? '')) end++;
    return end;
  }

  #split(place: number): Told | null {
    for (const [verb, pending] of SPLIT) {
      const next = this.line.afterAny(place, [verb]);
      const noun = next === null ? null : this.line.afterAny(next, [P.NOUN]);
      if (noun === null) continue;
      return pending === 'keep'
        ? { next: noun, pending, actions: [{ action: 'keep', flags: null }] }
        : { next: noun, pending };
    }
    return null;
  }
}

const mark = (flag: string): Action => ({ action: 'addflag', flags: [flag] });

const { answer, ...VERBS } = P.SPLIT_VERBS;
const SPLIT: readonly (readonly [RegExp, Pending])[] = [
  [VERBS.move, 'move'],
  [VERBS.copy, 'copy'],
  [VERBS.mark, 'mark'],
  [VERBS.tag, 'tag'],
  [VERBS.keep, 'keep'],
  [VERBS.forward, 'forward'],
  [VERBS.redirect, 'redirect'],
  [VERBS.reply, 'reply'],
  [answer, 'reply'],
];

const AS = phrase('as');
const WITH_OR_AS = phrase('with|as|by');
const WITH_TEXT = phrase('with|saying|by "');
const TO_PEOPLE = phrase('to @');
const TO = phrase('to');
const SEEN = phrase('seen|read');
const STRONG = phrase('into|under|in_the_folder|in_folder|to_the_folder|to_folder');
const A_FOLDER = phrase('the|my? folder|mailbox');
