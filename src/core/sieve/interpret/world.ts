import { type Clock, nowFor } from '../../mail/arrival';
import type { MailMessage } from '../../mail/message';
import type { Script } from '../tree';

/** What a script can ask about besides the message. Callers provide all of it, so a run is deterministic. */
export interface World {
  /** Milliseconds since 1970. */
  readonly now: number;
  /** Local time zone, minutes east of UTC. */
  readonly zone: number;
  /** RFC 5183; names in lower case. */
  readonly environment: ReadonlyMap<string, string>;
  /** Existing folders, or null if unknown: then every folder counts as existing. */
  readonly folders: ReadonlySet<string> | null;
  /** Folders by special use (RFC 8579): `\junk` in lower case to the folder. */
  readonly specialUse: ReadonlyMap<string, string>;
  /** Annotations by `folder NUL entry`; server annotations have an empty folder (RFC 5490). */
  readonly metadata: ReadonlyMap<string, string>;
  /** External lists by name (RFC 6134). */
  readonly lists: ReadonlyMap<string, ReadonlySet<string>>;
  /** Own addresses besides the envelope recipient, for vacation. */
  readonly ownAddresses: readonly string[];
  /** 0 (not tested) to 10, or with `percent` to 100 (RFC 5235). */
  readonly spamScore: (message: MailMessage, percent: boolean) => number;
  /** 0 (not tested) to 5 (RFC 5235). */
  readonly virusScore: (message: MailMessage) => number;
  /** An included script (RFC 6609), or null if there is none. */
  readonly script: (name: string, location: 'personal' | 'global') => Script | null;
  readonly memory: Memory;
}

/** State that a server keeps between messages: vacation replies and duplicates. */
export interface Memory {
  /** When a key was last noted, in milliseconds since 1970; null if never. */
  readonly noted: (key: string) => number | null;
  readonly note: (key: string, now: number) => void;
}

/** Whether something noted at a time is still remembered. */
export const isWithin = (noted: number | null, now: number, seconds: number): boolean =>
  noted !== null && now - noted < seconds * 1000;

export class PlainMemory implements Memory {
  readonly #noted = new Map<string, number>();

  noted(key: string): number | null {
    return this.#noted.get(key) ?? null;
  }

  note(key: string, now: number): void {
    this.#noted.set(key, now);
  }
}

/** The world in which a message arrives, by a clock; everything else is unknown. */
export const worldFor = (message: MailMessage, clock: Clock): World => makeWorld({ now: nowFor(clock, message) });

/** Messages without a known time of arrival arrive at the start of 2026. */
export const ARRIVAL: Clock = { fixed: null, otherwise: Date.UTC(2026, 0, 1) };

/** A world in which everything is unknown, at the start of 2026 UTC; `changes` overrides it. */
export function makeWorld(changes: Partial<World> = {}): World {
  return {
    now: Date.UTC(2026, 0, 1),
    zone: 0,
    environment: new Map(),
    folders: null,
    specialUse: new Map(),
    metadata: new Map(),
    lists: new Map(),
    ownAddresses: [],
    spamScore: () => 0,
    virusScore: () => 0,
    script: () => null,
    memory: new PlainMemory(),
    ...changes,
  };
}
