import type { PlainAction } from '../rules/rule';
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
  /** The same by how they are refused and with which words. */
  readonly refusals = new Map<string, Bitmap>();
  /** Messages that were refused more than once, which is an error. */
  #rejectedTwice: Bitmap;
  /** Messages for which vacation was executed. */
  #vacated: Bitmap;
  /** Messages for which the script ended with an error. */
  failed: Bitmap;
  /** Messages for which the implicit keep still stands; after `finish`, those it has delivered. */
  implicitKeep: Bitmap;

  /** `traffic` are the messages that take part; the others have no fate. */
  constructor(
    readonly count: number,
    readonly traffic: Bitmap = Bitmap.full(count),
  ) {
    this.none = new Bitmap(count);
    this.alive = traffic;
    this.rejected = new Bitmap(count);
    this.#rejectedTwice = new Bitmap(count);
    this.#vacated = new Bitmap(count);
    this.failed = new Bitmap(count);
    this.implicitKeep = traffic.copy();
  }

  /** Does an action that rules know by themselves; others are run as pieces of script. */
  act(action: PlainAction | Taken, messages: Bitmap, places = messages.places()): void {
    if (!messages.hasAny(places)) return;
    const cancelKeep = () => this.implicitKeep.removeAll(messages, places);
    switch (action.action) {
      case 'keep':
        this.#deliver(INBOX, action.flags, messages, places);
        cancelKeep();
        return;
      case 'fileinto':
        this.#deliver(action.folder, action.flags, messages, places);
        if (!action.copy) cancelKeep();
        return;
      case 'redirect':
        this.#member(this.redirects, canonicalAddress(action.address)).addAll(messages, places);
        if (!action.copy) cancelKeep();
        return;
      case 'discard':
        cancelKeep();
        return;
      case 'reject':
        this.#rejectedTwice = this.#rejectedTwice.or(messages.and(this.rejected));
        this.rejected.addAll(messages, places);
        this.#member(this.refusals, action.reason).addAll(messages, places);
        cancelKeep();
        return;
      case 'reply':
        this.#reply(action, messages, places);
        return;
      case 'setflag':
      case 'addflag':
      case 'removeflag':
        this.#mark(action.action, normalFlags(action.flags), messages, places);
        return;
      case 'edit':
        return;
      default:
        action satisfies never;
    }
  }

  /** A second vacation for a message is an error (RFC 5230 section 4.7). */
  #reply({ by, line }: Extract<Taken, { action: 'reply' }>, messages: Bitmap, places: Uint32Array): void {
    if (by === 'vacation') {
      const again = messages.and(this.#vacated);
      this.#vacated.addAll(messages, places);
      if (!again.isEmpty()) this.fail(again);
    }
    if (line !== null) this.#member(this.replies, line).addAll(messages, places);
  }

  stop(messages: Bitmap, places = messages.places()): void {
    if (!messages.hasAny(places)) return;
    // What reaches a rule is told by the bitmap of that moment, which therefore is not changed.
    this.alive = this.alive.copy();
    this.alive.removeAll(messages, places);
  }

  /** An error ends the script for these messages; they are kept, and nothing else is done with them. */
  fail(messages: Bitmap): void {
    this.failed = this.failed.or(messages);
    this.stop(messages);
  }

  /**
   * The implicit keep acts at the end of the script, with the flags as they are then. A refusal beside a delivery, a redirect,
   * a vacation reply or another refusal is an error too.
   */
  finish(): void {
    const beside = this.rejected.and(this.#somewhere().or(this.#vacated));
    this.failed = this.failed.or(beside).or(this.#rejectedTwice);
    for (const flow of this.folders.values()) {
      flow.messages = flow.messages.without(this.failed);
      for (const [flag, carried] of flow.flags) flow.flags.set(flag, carried.without(this.failed));
    }
    for (const sent of [this.redirects, this.replies, this.refusals]) {
      for (const [key, messages] of sent) sent.set(key, messages.without(this.failed));
    }
    this.rejected = this.rejected.without(this.failed);
    this.#deliver(INBOX, [], this.failed, this.failed.places());
    this.implicitKeep = this.implicitKeep.without(this.failed);
    this.#deliver(INBOX, null, this.implicitKeep, this.implicitKeep.places());
  }

  /** Messages that are delivered, redirected or refused nowhere. */
  dropped(): Bitmap {
    return this.traffic.without(this.#somewhere().or(this.rejected));
  }

  /** Messages that are delivered or redirected. */
  #somewhere(): Bitmap {
    let somewhere = new Bitmap(this.count);
    for (const { messages } of this.folders.values()) somewhere = somewhere.or(messages);
    for (const messages of this.redirects.values()) somewhere = somewhere.or(messages);
    return somewhere;
  }

  /** The fate of a message that takes part. */
  fateOf(message: number): Fate {
    const deliveries = [...this.folders].flatMap(([folder, { messages, flags }]) => {
      if (!messages.has(message)) return [];
      const held = [...flags].filter(([, carried]) => carried.has(message)).map(([flag]) => flag);
      return [{ folder, flags: held.sort(compareText) }];
    });
    const redirects = [...this.redirects].flatMap(([address, sent]) => (sent.has(message) ? [address] : []));
    const replies = [...this.replies].flatMap(([line, sent]) => (sent.has(message) ? [line] : []));
    const refusal = [...this.refusals].find(([, refused]) => refused.has(message))?.[0] ?? null;
    return { deliveries, redirects, rejected: refusal !== null, refusal, replies };
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
    for (const reason of new Set([...this.refusals.keys(), ...other.refusals.keys()])) {
      compare(this.refusals.get(reason), other.refusals.get(reason));
    }
    return changed;
  }

  /** The flags of the last delivery into a folder win. */
  #deliver(name: string, given: readonly string[] | null, messages: Bitmap, places: Uint32Array): void {
    if (places.length === 0) return;
    const folder = canonicalFolder(name);
    const flow = this.folders.get(folder) ?? { messages: new Bitmap(this.count), flags: new Map() };
    this.folders.set(folder, flow);
    flow.messages.addAll(messages, places);
    const fixed = given && new Set(normalFlags(given));
    for (const flag of new Set([...flow.flags.keys(), ...(fixed ?? this.flags.keys())])) {
      const carrying = this.#member(flow.flags, flag);
      if (fixed?.has(flag)) carrying.addAll(messages, places);
      else if (fixed) carrying.removeAll(messages, places);
      else carrying.takeFrom(this.flags.get(flag) ?? this.none, messages, places);
    }
  }

  #mark(
    change: 'setflag' | 'addflag' | 'removeflag',
    given: readonly string[],
    messages: Bitmap,
    places: Uint32Array,
  ): void {
    const touched = change === 'setflag' ? new Set([...this.flags.keys(), ...given]) : new Set(given);
    for (const flag of touched) {
      const carrying = this.#member(this.flags, flag);
      if (change !== 'removeflag' && given.includes(flag)) carrying.addAll(messages, places);
      else carrying.removeAll(messages, places);
    }
  }

  /** The bitmap of a name, which may be changed; empty where there was none. */
  #member(bitmaps: Map<string, Bitmap>, name: string): Bitmap {
    const known = bitmaps.get(name);
    if (known) return known;
    const empty = new Bitmap(this.count);
    bitmaps.set(name, empty);
    return empty;
  }
}
