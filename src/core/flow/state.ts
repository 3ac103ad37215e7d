import type { Action } from '../rules/rule';
import {
  canonicalAddress,
  canonicalFolder,
  compareText,
  type Fate,
  INBOX,
  normalFlags,
  type Taken,
} from '../sieve/interpret/fate';
import { Bitmap } from './bitmap';

/** The messages that are delivered into one folder, and for each flag those that carry it there. */
export interface FolderFlow {
  messages: Bitmap;
  readonly flags: Map<string, Bitmap>;
}

/** Fates of all messages at once, in the making and, after `finish`, as they are. The meaning is that of `FateBuilder`. */
export class FlowState {
  /** No message; shared, never changed. */
  readonly none: Bitmap;
  /** Messages that no stop has ended so far. */
  alive: Bitmap;
  /** The internal variable of RFC 5232 section 2, flag by flag. */
  readonly flags = new Map<string, Bitmap>();
  readonly folders = new Map<string, FolderFlow>();
  readonly redirects = new Map<string, Bitmap>();
  /** Replies and notifications, by what goes out. */
  readonly replies = new Map<string, Bitmap>();
  rejected: Bitmap;
  /** Messages for which vacation was executed. */
  #vacated: Bitmap;
  /** Messages for which the script ended with an error. */
  failed: Bitmap;
  /** Messages for which the implicit keep still stands; after `finish`, those it has delivered. */
  implicitKeep: Bitmap;

  constructor(readonly count: number) {
    this.none = new Bitmap(count);
    this.alive = Bitmap.full(count);
    this.rejected = new Bitmap(count);
    this.#vacated = new Bitmap(count);
    this.failed = new Bitmap(count);
    this.implicitKeep = Bitmap.full(count);
  }

  /** Does an action that rules know by themselves; others are run as pieces of script. */
  act(action: Exclude<Action, { action: 'sieve' }> | Taken, messages: Bitmap): void {
    if (messages.isEmpty()) return;
    switch (action.action) {
      case 'keep':
        this.#deliver(INBOX, action.flags, messages);
        this.#cancelKeep(messages);
        return;
      case 'fileinto':
        this.#deliver(action.folder, action.flags, messages);
        if (!action.copy) this.#cancelKeep(messages);
        return;
      case 'redirect': {
        const address = canonicalAddress(action.address);
        this.redirects.set(address, (this.redirects.get(address) ?? new Bitmap(this.count)).or(messages));
        if (!action.copy) this.#cancelKeep(messages);
        return;
      }
      case 'discard':
        this.#cancelKeep(messages);
        return;
      case 'reject':
        this.rejected = this.rejected.or(messages);
        this.#cancelKeep(messages);
        return;
      case 'reply':
        this.#reply(action, messages);
        return;
      case 'setflag':
      case 'addflag':
      case 'removeflag':
        this.#mark(action.action, normalFlags(action.flags), messages);
        return;
      default:
        action satisfies never;
    }
  }

  /** A second vacation for a message is an error (RFC 5230 section 4.7). */
  #reply({ by, line }: Extract<Taken, { action: 'reply' }>, messages: Bitmap): void {
    const again = by === 'vacation' ? messages.and(this.#vacated) : new Bitmap(this.count);
    if (by === 'vacation') this.#vacated = this.#vacated.or(messages);
    if (!again.isEmpty()) this.fail(again);
    if (line === null) return;
    this.replies.set(line, (this.replies.get(line) ?? new Bitmap(this.count)).or(messages));
  }

  stop(messages: Bitmap): void {
    this.alive = this.alive.without(messages);
  }

  /** An error ends the script for these messages; they are kept, and nothing else is done with them. */
  fail(messages: Bitmap): void {
    this.failed = this.failed.or(messages);
    this.stop(messages);
  }

  /**
   * The implicit keep acts at the end of the script, with the flags as they are then. A refusal beside a delivery or a
   * redirect is an error too.
   */
  finish(): void {
    this.failed = this.failed.or(this.rejected.and(this.#somewhere()));
    for (const flow of this.folders.values()) {
      flow.messages = flow.messages.without(this.failed);
      for (const [flag, carried] of flow.flags) flow.flags.set(flag, carried.without(this.failed));
    }
    for (const sent of [this.redirects, this.replies]) {
      for (const [key, messages] of sent) sent.set(key, messages.without(this.failed));
    }
    this.rejected = this.rejected.without(this.failed);
    this.#deliver(INBOX, [], this.failed);
    this.implicitKeep = this.implicitKeep.without(this.failed);
    this.#deliver(INBOX, null, this.implicitKeep);
  }

  /** Messages that are delivered, redirected or refused nowhere. */
  dropped(): Bitmap {
    return this.#somewhere().or(this.rejected).not();
  }

  /** Messages that are delivered or redirected. */
  #somewhere(): Bitmap {
    let somewhere = new Bitmap(this.count);
    for (const { messages } of this.folders.values()) somewhere = somewhere.or(messages);
    for (const messages of this.redirects.values()) somewhere = somewhere.or(messages);
    return somewhere;
  }

  fateOf(message: number): Fate {
    const deliveries = [...this.folders].flatMap(([folder, { messages, flags }]) => {
      if (!messages.has(message)) return [];
      const held = [...flags].filter(([, carried]) => carried.has(message)).map(([flag]) => flag);
      return [{ folder, flags: held.sort(compareText) }];
    });
    const redirects = [...this.redirects].flatMap(([address, sent]) => (sent.has(message) ? [address] : []));
    const replies = [...this.replies].flatMap(([line, sent]) => (sent.has(message) ? [line] : []));
    return { deliveries, redirects, rejected: this.rejected.has(message), replies };
  }

  /** The messages whose fate differs from that in `other`. */
  differsFrom(other: FlowState): Bitmap {
    const none = new Bitmap(this.count);
    let changed = none;
    const compare = (a: Bitmap | undefined, b: Bitmap | undefined) => {
      changed = changed.or((a ?? none).difference(b ?? none));
    };
    for (const folder of new Set([...this.folders.keys(), ...other.folders.keys()])) {
      const [mine, theirs] = [this.folders.get(folder), other.folders.get(folder)];
      compare(mine?.messages, theirs?.messages);
      for (const flag of new Set([...(mine?.flags.keys() ?? []), ...(theirs?.flags.keys() ?? [])])) {
        compare(mine?.flags.get(flag), theirs?.flags.get(flag));
      }
    }
    for (const address of new Set([...this.redirects.keys(), ...other.redirects.keys()])) {
      compare(this.redirects.get(address), other.redirects.get(address));
    }
    for (const line of new Set([...this.replies.keys(), ...other.replies.keys()])) {
      compare(this.replies.get(line), other.replies.get(line));
    }
    compare(this.rejected, other.rejected);
    return changed;
  }

  /** The flags of the last delivery into a folder win. */
  #deliver(name: string, given: readonly string[] | null, messages: Bitmap): void {
    if (messages.isEmpty()) return;
    const folder = canonicalFolder(name);
    const flow = this.folders.get(folder) ?? { messages: new Bitmap(this.count), flags: new Map() };
    this.folders.set(folder, flow);
    flow.messages = flow.messages.or(messages);
    const fixed = given && new Set(normalFlags(given));
    for (const flag of new Set([...flow.flags.keys(), ...(fixed ?? this.flags.keys())])) {
      const before = (flow.flags.get(flag) ?? new Bitmap(this.count)).without(messages);
      const current = this.flags.get(flag) ?? new Bitmap(this.count);
      const carried = fixed ? (fixed.has(flag) ? messages : new Bitmap(this.count)) : current.and(messages);
      flow.flags.set(flag, before.or(carried));
    }
  }

  #cancelKeep(messages: Bitmap): void {
    this.implicitKeep = this.implicitKeep.without(messages);
  }

  #mark(change: 'setflag' | 'addflag' | 'removeflag', given: readonly string[], messages: Bitmap): void {
    const touched = change === 'setflag' ? new Set([...this.flags.keys(), ...given]) : new Set(given);
    for (const flag of touched) {
      const before = this.flags.get(flag) ?? new Bitmap(this.count);
      const set = change !== 'removeflag' && given.includes(flag);
      this.flags.set(flag, set ? before.or(messages) : before.without(messages));
    }
  }
}
