import type { PlainAction } from '../rules/rule';
import { canonicalAddress, canonicalFolder, INBOX, normalFlags, type Taken } from '../sieve/interpret/fate';

/**
 * A small Boolean algebra over which fates are computed: sets of messages, or formulas about an unknown message. See
 * `FateState`.
 */
export interface Algebra<T> {
  readonly none: T;
  readonly all: T;
  and(a: T, b: T): T;
  or(a: T, b: T): T;
  /** The difference of `a` and `b`. */
  without(a: T, b: T): T;
  /** The same, for a series of which mostly the last is used. */
  shrunk(a: T, b: T): T;
  /** Whether it is known to be empty. */
  isNone(a: T): boolean;

  // A collection belongs to its creator and may be changed in place; use the returned one from then on.

  /** An empty collection. */
  begin(): T;
  adding(collection: T, more: T): T;
  removing(collection: T, less: T): T;
  /** `model` within `where`, unchanged elsewhere. */
  replacing(collection: T, where: T, model: T): T;
}

/** Deliveries into one folder, and for each flag those that carry it. */
export interface FolderFate<T> {
  messages: T;
  readonly flags: Map<string, T>;
}

/**
 * The fates of all messages at once: while it is built, and complete after `finish`; for each part of a fate, the
 * messages that have it. The semantics are those of `FateBuilder`, which the interpreter uses for a single message.
 */
export class FateState<T> {
  /** Messages for which no stop has ended the script yet. */
  alive: T;
  /** The internal variable of RFC 5232 section 2, flag by flag. */
  readonly flags = new Map<string, T>();
  readonly folders = new Map<string, FolderFate<T>>();
  readonly redirects = new Map<string, T>();
  /** Replies and notifications, by content. */
  readonly replies = new Map<string, T>();
  rejected: T;
  /** Rejections, by kind and text. */
  readonly refusals = new Map<string, T>();
  /** Rejected more than once, which is an error. */
  #rejectedTwice: T;
  /** Messages for which vacation was executed. */
  #vacated: T;
  /** Messages for which the script failed. */
  failed: T;
  /** Messages that the implicit keep still applies to; after `finish`, those it has delivered. */
  implicitKeep: T;

  /** `traffic` is what takes part; nothing else has a fate. */
  constructor(
    readonly algebra: Algebra<T>,
    readonly traffic: T = algebra.all,
  ) {
    this.alive = traffic;
    this.rejected = algebra.begin();
    this.#rejectedTwice = algebra.none;
    this.#vacated = algebra.begin();
    this.failed = algebra.none;
    this.implicitKeep = algebra.adding(algebra.begin(), traffic);
  }

  /** Applies a plain action, or one the interpreter has evaluated; other actions need the interpreter. */
  act(action: PlainAction | Taken, when: T): void {
    const { algebra } = this;
    if (algebra.isNone(when)) return;
    switch (action.action) {
      case 'keep':
        this.#deliver(INBOX, action.flags, when);
        this.cancelKeep(when);
        return;
      case 'fileinto':
        this.#deliver(action.folder, action.flags, when);
        if (!action.copy) this.cancelKeep(when);
        return;
      case 'redirect':
        this.#add(this.redirects, canonicalAddress(action.address), when);
        if (!action.copy) this.cancelKeep(when);
        return;
      case 'discard':
        this.cancelKeep(when);
        return;
      case 'reject':
        this.#rejectedTwice = algebra.or(this.#rejectedTwice, algebra.and(this.rejected, when));
        this.rejected = algebra.adding(this.rejected, when);
        this.#add(this.refusals, action.reason, when);
        this.cancelKeep(when);
        return;
      case 'reply':
        this.#reply(action, when);
        return;
      case 'setflag':
      case 'addflag':
      case 'removeflag':
        this.#mark(action.action, normalFlags(action.flags), when);
        return;
      case 'edit':
        return;
      default:
        action satisfies never;
    }
  }

  cancelKeep(when: T): void {
    this.implicitKeep = this.algebra.removing(this.implicitKeep, when);
  }

  stop(when: T): void {
    const { algebra } = this;
    // Entries refer to `alive` as it was when they were reached, so it is replaced, not changed.
    if (!algebra.isNone(when)) this.alive = algebra.shrunk(this.alive, when);
  }

  /** An error ends the script: the message is kept, and nothing else is done with it. */
  fail(when: T): void {
    this.failed = this.algebra.or(this.failed, when);
    this.stop(when);
  }

  /**
   * The implicit keep acts at the end of the script, with the flags of that time. A rejection together with a delivery,
   * a redirect, a vacation reply or another rejection is an error too.
   */
  finish(): void {
    const { algebra } = this;
    const beside = algebra.and(this.rejected, algebra.or(this.somewhere(), this.#vacated));
    this.failed = algebra.or(algebra.or(this.failed, beside), this.#rejectedTwice);
    const { failed } = this;
    if (!algebra.isNone(failed)) {
      for (const folder of this.folders.values()) {
        folder.messages = algebra.removing(folder.messages, failed);
        this.#removeAll(folder.flags, failed);
      }
      for (const sent of [this.redirects, this.replies, this.refusals]) this.#removeAll(sent, failed);
      this.rejected = algebra.removing(this.rejected, failed);
      this.#deliver(INBOX, [], failed);
      this.cancelKeep(failed);
    }
    this.#deliver(INBOX, null, this.implicitKeep);
  }

  /** Messages that are delivered or redirected. */
  somewhere(): T {
    const { algebra } = this;
    let somewhere = algebra.begin();
    for (const { messages } of this.folders.values()) somewhere = algebra.adding(somewhere, messages);
    for (const messages of this.redirects.values()) somewhere = algebra.adding(somewhere, messages);
    return somewhere;
  }

  /** A second vacation for a message is an error (RFC 5230 section 4.7). */
  #reply({ by, line }: Extract<Taken, { action: 'reply' }>, when: T): void {
    const { algebra } = this;
    if (by === 'vacation') {
      const again = algebra.and(this.#vacated, when);
      this.#vacated = algebra.adding(this.#vacated, when);
      if (!algebra.isNone(again)) this.fail(again);
    }
    if (line !== null) this.#add(this.replies, line, when);
  }

  /** The flags of the last delivery into a folder win. */
  #deliver(name: string, given: readonly string[] | null, when: T): void {
    const { algebra } = this;
    if (algebra.isNone(when)) return;
    const folder = canonicalFolder(name);
    const fate = this.folders.get(folder) ?? { messages: algebra.begin(), flags: new Map<string, T>() };
    this.folders.set(folder, fate);
    fate.messages = algebra.adding(fate.messages, when);
    const fixed = given && new Set(normalFlags(given));
    for (const flag of new Set([...fate.flags.keys(), ...(fixed ?? this.flags.keys())])) {
      const carrying = fate.flags.get(flag) ?? algebra.begin();
      if (fixed?.has(flag)) fate.flags.set(flag, algebra.adding(carrying, when));
      else if (fixed) fate.flags.set(flag, algebra.removing(carrying, when));
      else fate.flags.set(flag, algebra.replacing(carrying, when, this.flags.get(flag) ?? algebra.none));
    }
  }

  #mark(change: 'setflag' | 'addflag' | 'removeflag', given: readonly string[], when: T): void {
    const { algebra, flags } = this;
    const touched = change === 'setflag' ? new Set([...flags.keys(), ...given]) : new Set(given);
    for (const flag of touched) {
      const carrying = flags.get(flag) ?? algebra.begin();
      const sets = change !== 'removeflag' && given.includes(flag);
      flags.set(flag, sets ? algebra.adding(carrying, when) : algebra.removing(carrying, when));
    }
  }

  #add(parts: Map<string, T>, name: string, when: T): void {
    parts.set(name, this.algebra.adding(parts.get(name) ?? this.algebra.begin(), when));
  }

  #removeAll(parts: Map<string, T>, less: T): void {
    for (const [name, messages] of parts) parts.set(name, this.algebra.removing(messages, less));
  }
}
