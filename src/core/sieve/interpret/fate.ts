import { elementAt } from '../../text/lookup';
import { ScriptError } from './run';

/** The fate of one message (RFC 5228 section 2.10). */
export interface Fate {
  /** By folder, each once; INBOX for keep. In the order they were first filed. */
  readonly deliveries: readonly Delivery[];
  /** Addresses, each once. */
  readonly redirects: readonly string[];
  readonly rejected: boolean;
  /** The kind and text of the rejection, as one line; null if it was not rejected. */
  readonly refusal: string | null;
  /** Automatic replies and notifications, one line each, without their recipients, which follow from the message. */
  readonly replies: readonly string[];
}

export interface Delivery {
  readonly folder: string;
  /** In lower case (flags are caseless, RFC 5232 section 2), sorted. */
  readonly flags: readonly string[];
}

export const INBOX = 'INBOX';

/** True exactly when nothing is delivered, redirected or rejected. */
export function isDropped(fate: Fate): boolean {
  return fate.deliveries.length === 0 && fate.redirects.length === 0 && !fate.rejected;
}

/** Two fates are equal when their deliveries with flags, redirects, rejections and replies are equal as sets. */
export function fateKey(fate: Fate): string {
  const deliveries = fate.deliveries.map((delivery) => [delivery.folder, ...delivery.flags]);
  deliveries.sort((a, b) => compareText(elementAt(a, 0), elementAt(b, 0)));
  const redirects = [...fate.redirects].sort(compareText);
  return JSON.stringify([deliveries, redirects, fate.refusal, [...fate.replies].sort(compareText)]);
}

export function compareText(a: string, b: string): number {
  return a < b ? -1 : a > b ? 1 : 0;
}

/** INBOX is caseless (RFC 3501 section 5.1); other names are taken as written. */
export function canonicalFolder(name: string): string {
  return name.toUpperCase() === INBOX ? INBOX : name;
}

/** The domain of an address is caseless, its local part is not (RFC 5321 section 2.4). */
export function canonicalAddress(address: string): string {
  const at = address.lastIndexOf('@');
  return at < 0 ? address : address.slice(0, at + 1) + address.slice(at + 1).toLowerCase();
}

/** Parses flags as RFC 5232 section 2: split at spaces, caseless, each once, empty ones ignored. */
export function normalFlags(list: readonly string[]): string[] {
  return [...new Set(list.flatMap((text) => text.toLowerCase().split(/\s+/)).filter((flag) => flag !== ''))];
}

/**
 * The keys of a flag test are lists of flags too, separated by spaces (RFC 5232 sections 2 and 4). With `:is` they are
 * whole flags; with other match types, parts of flags or patterns.
 */
export function flagKeys(match: string, keys: readonly string[]): readonly string[] {
  if (match === 'is') return normalFlags(keys);
  if (match !== 'contains' && match !== 'matches') return keys;
  return [...new Set(keys.flatMap((key) => key.split(/\s+/)))].filter((key) => key !== '');
}

/** An executed action; the flags of a delivery are null if it uses those set so far. */
export type Taken =
  | { readonly action: 'keep'; readonly flags: readonly string[] | null }
  | {
      readonly action: 'fileinto';
      readonly folder: string;
      readonly copy: boolean;
      readonly flags: readonly string[] | null;
    }
  | { readonly action: 'redirect'; readonly address: string; readonly copy: boolean }
  | { readonly action: 'discard' }
  /** `reason` is one line: how it is refused, and the words. */
  | { readonly action: 'reject'; readonly reason: string }
  | { readonly action: 'setflag' | 'addflag' | 'removeflag'; readonly flags: readonly string[] }
  /** A header field was added or deleted (RFC 5293), which changes no fate. */
  | { readonly action: 'edit'; readonly header: string }
  /** A vacation counts even where no reply goes out: then the line is null. */
  | { readonly action: 'reply'; readonly by: 'vacation' | 'notify'; readonly line: string | null };

/** Collects the actions of a run. */
export class FateBuilder {
  readonly #deliveries = new Map<string, readonly string[]>();
  readonly #redirects = new Map<string, string>();
  readonly #replies = new Set<string>();
  #refusals: string[] = [];
  #vacations = 0;
  #keepImplicit = true;
  /** Executed actions, in order, without the implicit keep. */
  readonly taken: Taken[] = [];

  /**
   * Repeated filing into a folder is one delivery (section 2.10.3), with the flags of the last one (RFC 5232 section
   * 5).
   */
  take(action: Taken, flagsSoFar: readonly string[]): void {
    this.taken.push(action);
    switch (action.action) {
      case 'keep':
        this.#deliver(INBOX, action.flags ?? flagsSoFar, false);
        return;
      case 'fileinto':
        this.#deliver(action.folder, action.flags ?? flagsSoFar, action.copy);
        return;
      case 'redirect': {
        const address = canonicalAddress(action.address);
        this.#redirects.set(address, address);
        if (!action.copy) this.#keepImplicit = false;
        return;
      }
      case 'reject':
        this.#refusals.push(action.reason);
        this.#keepImplicit = false;
        return;
      case 'discard':
        this.#keepImplicit = false;
        return;
      case 'reply':
        // Replies and notifications do not affect the implicit keep (RFC 5230 section 4, RFC 5435 section 3).
        if (action.by === 'vacation') this.#countVacation();
        if (action.line !== null) this.#replies.add(action.line);
        return;
      case 'setflag':
      case 'addflag':
      case 'removeflag':
      case 'edit':
        return;
      default:
        action satisfies never;
    }
  }

  #countVacation(): void {
    if (this.#vacations++ > 0) throw new ScriptError('vacation was executed twice (RFC 5230 section 4.7)');
  }

  #deliver(folder: string, flags: readonly string[], copy: boolean): void {
    this.#deliveries.set(canonicalFolder(folder), [...flags].sort(compareText));
    if (!copy) this.#keepImplicit = false;
  }

  /**
   * The implicit keep takes the flags of the end of the script (RFC 5232 section 5). Throws a `ScriptError` for a
   * rejection together with a delivery, a redirect, a vacation reply or another rejection (RFC 5429 section 2, RFC 5230
   * section 4.7).
   */
  finish(flags: readonly string[]): Fate {
    const [refusal = null, another] = this.#refusals;
    if (refusal !== null && (this.#deliveries.size > 0 || this.#redirects.size > 0)) {
      throw new ScriptError('a rejection together with a delivery (RFC 5429 section 2)');
    }
    if (refusal !== null && this.#vacations > 0) {
      throw new ScriptError('a rejection together with a vacation reply (RFC 5230 section 4.7)');
    }
    if (another !== undefined) throw new ScriptError('the message was rejected twice (RFC 5429 section 2)');
    if (this.#keepImplicit) this.#deliver(INBOX, flags, false);
    return {
      deliveries: Array.from(this.#deliveries, ([folder, held]) => ({ folder, flags: held })),
      redirects: [...this.#redirects.values()],
      rejected: refusal !== null,
      refusal,
      replies: [...this.#replies],
    };
  }
}

/** The fate of a message whose script fails: it is kept, and nothing else is done (RFC 5228 section 2.10.6). */
export const KEPT: Fate = {
  deliveries: [{ folder: INBOX, flags: [] }],
  redirects: [],
  rejected: false,
  refusal: null,
  replies: [],
};
