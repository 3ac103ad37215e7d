import { wordsOfAction } from '../rules/nodes';
import type { Action, LeafTest, PlainAction } from '../rules/rule';
import { canonicalAddress, canonicalFolder, flagKeys, INBOX, normalFlags } from '../sieve/interpret/fate';
import { compileMatcher } from '../sieve/match/matcher';
import { FALSE, type Formula, type Formulas, not, TRUE } from './solve/formula';

/** The same for pieces of script of which the interpreter would do the same. */
export const nameInContext = (text: string, before: string | undefined): string =>
  before === undefined ? text : `${text} after ${before}`;

interface Delivery {
  messages: Formula;
  readonly flags: Map<string, Formula>;
}

/**
 * The fate of any message, as formulas of when each part of it comes about. The meaning is that of `FateBuilder`; what the
 * interpreter alone understands is a part of its own.
 */
export class Fates {
  /** No stop has ended the script so far. */
  alive: Formula = TRUE;
  readonly #flags = new Map<string, Formula>();
  readonly #folders = new Map<string, Delivery>();
  readonly #sent = new Map<string, Formula>();
  #rejected: Formula = FALSE;
  /** By the words of the action, which tell how and why. */
  readonly #refusals = new Map<string, Formula>();
  #rejectedTwice: Formula = FALSE;
  #vacated: Formula = FALSE;
  #failed: Formula = FALSE;
  #implicitKeep: Formula = TRUE;
  #blocks = 0;

  /** `free` gives a formula of which nothing is known but its name. */
  constructor(
    readonly formulas: Formulas,
    readonly free: (name: string) => Formula,
  ) {}

  /** When a flag test holds, by the flags set so far (RFC 5232 section 4). */
  hasFlag(test: Extract<LeafTest, { test: 'hasflag' }>): Formula {
    const matcher = compileMatcher(test.comparator, test.match, flagKeys(test.match, test.keys));
    return this.formulas.or(...[...this.#flags].filter(([flag]) => matcher(flag) !== null).map(([, when]) => when));
  }

  act(action: Action, when: Formula): void {
    if (when === FALSE) return;
    switch (action.action) {
      case 'keep':
        this.#deliver(INBOX, action.flags, when);
        this.#cancelKeep(when);
        return;
      case 'fileinto':
        this.#deliver(action.folder, action.flags, when);
        if (!action.copy) this.#cancelKeep(when);
        return;
      case 'redirect':
        this.#send(`redirect ${canonicalAddress(action.address)}`, when);
        if (!action.copy) this.#cancelKeep(when);
        return;
      case 'discard':
        this.#cancelKeep(when);
        return;
      case 'setflag':
      case 'addflag':
      case 'removeflag':
        this.#mark(action.action, normalFlags(action.flags), when);
        return;
      default:
        this.#actUnknown(action, when);
    }
  }

  stop(when: Formula): void {
    this.alive = this.formulas.and(this.alive, not(when));
  }

  /**
   * A piece of script of which only the interpreter knows what it does: whether it stops and whether it keeps the message
   * from the inbox is open. What it does depends on what was done before, so that is noted too.
   */
  runUnknown(text: string, when: Formula): void {
    const { formulas, free } = this;
    const place = `block ${this.#blocks++}`;
    const before = [...this.#parts()].filter(([part]) => !part.startsWith('block '));
    for (const [part, formula] of before) this.#send(`${place} after ${part}`, formulas.and(when, formula));
    this.#send(`${place} ${text}`, when);
    this.#cancelKeep(formulas.and(when, free(`files ${text}`)));
    this.stop(formulas.and(when, free(`stops ${text}`)));
  }

  /** Each part of the fate with when it comes about, at the end of the script. */
  finish(): Map<string, Formula> {
    const { formulas } = this;
    const redirects = [...this.#sent].filter(([part]) => part.startsWith('redirect ')).map(([, when]) => when);
    const delivered = [...this.#folders.values()].map(({ messages }) => messages);
    const somewhere = formulas.or(...delivered, ...redirects);
    const beside = formulas.and(this.#rejected, formulas.or(somewhere, this.#vacated));
    this.#failed = formulas.or(this.#failed, beside, this.#rejectedTwice);
    const sound = not(this.#failed);
    this.#deliver(INBOX, null, formulas.and(this.#implicitKeep, sound));
    const parts = new Map<string, Formula>();
    for (const [part, when] of this.#parts()) parts.set(part, formulas.and(when, sound));
    const inbox = `folder ${INBOX}`;
    parts.set(inbox, formulas.or(parts.get(inbox) ?? FALSE, this.#failed));
    return parts;
  }

  *#parts(): Generator<[string, Formula]> {
    for (const [folder, { messages, flags }] of this.#folders) {
      yield [`folder ${folder}`, messages];
      for (const [flag, when] of flags) yield [`flag ${flag} in ${folder}`, when];
    }
    yield* this.#sent;
    yield ['rejected', this.#rejected];
    for (const [reason, when] of this.#refusals) yield [`rejected by ${reason}`, when];
  }

  #actUnknown(action: Exclude<Action, PlainAction>, when: Formula): void {
    const { formulas } = this;
    const name = action.action;
    const text = nameInContext(wordsOfAction(action), action.before);
    if (/^e?reject$/.test(name)) {
      this.#rejectedTwice = formulas.or(this.#rejectedTwice, formulas.and(this.#rejected, when));
      this.#rejected = formulas.or(this.#rejected, when);
      this.#refusals.set(text, formulas.or(this.#refusals.get(text) ?? FALSE, when));
      this.#cancelKeep(when);
      return;
    }
    // A second vacation for a message is an error (RFC 5230 section 4.7).
    if (name === 'vacation') {
      const again = formulas.and(when, this.#vacated);
      this.#vacated = formulas.or(this.#vacated, when);
      this.#failed = formulas.or(this.#failed, again);
      this.stop(again);
    }
    if (name === 'vacation' || name === 'notify') this.#send(`does ${text}`, when);
    else this.runUnknown(text, when);
  }

  #cancelKeep(when: Formula): void {
    this.#implicitKeep = this.formulas.and(this.#implicitKeep, not(when));
  }

  #send(part: string, when: Formula): void {
    this.#sent.set(part, this.formulas.or(this.#sent.get(part) ?? FALSE, when));
  }

  /** The flags of the last delivery into a folder win. */
  #deliver(name: string, given: readonly string[] | null, when: Formula): void {
    if (when === FALSE) return;
    const { formulas } = this;
    const folder = canonicalFolder(name);
    const known = this.#folders.get(folder) ?? { messages: FALSE, flags: new Map<string, Formula>() };
    this.#folders.set(folder, known);
    known.messages = formulas.or(known.messages, when);
    const fixed = given && new Set(normalFlags(given));
    for (const flag of new Set([...known.flags.keys(), ...(fixed ?? this.#flags.keys())])) {
      const before = formulas.and(known.flags.get(flag) ?? FALSE, not(when));
      const now = fixed ? (fixed.has(flag) ? when : FALSE) : formulas.and(this.#flags.get(flag) ?? FALSE, when);
      known.flags.set(flag, formulas.or(before, now));
    }
  }

  #mark(change: 'setflag' | 'addflag' | 'removeflag', given: readonly string[], when: Formula): void {
    const { formulas } = this;
    const touched = change === 'setflag' ? new Set([...this.#flags.keys(), ...given]) : new Set(given);
    for (const flag of touched) {
      const before = this.#flags.get(flag) ?? FALSE;
      const sets = change !== 'removeflag' && given.includes(flag);
      this.#flags.set(flag, sets ? formulas.or(before, when) : formulas.and(before, not(when)));
    }
  }
}
