import type { FlowState } from '../flow/state';
import type { Envelope, MailMessage } from '../mail/message';
import { chainFromSieve } from '../rules/from-sieve';
import { type Fate, fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { makeWorld } from '../sieve/interpret/world';

/** The record of an export: what was run, and what came out. */
export interface Verification {
  /** Faults the checker finds in the written script; it must be empty. */
  readonly faults: readonly string[];
  /** Stored messages on which the script was run. */
  readonly messages: number;
  readonly sameFate: number;
  /** At most `SHOWN_DIFFERENCES` of them. */
  readonly differences: readonly { readonly message: number; readonly byRules: Fate; readonly byScript: Fate }[];
}

const SHOWN_DIFFERENCES = 20;

/**
 * Reads a written script back, runs it on every message with the interpreter, and compares each fate with the flow
 * engine's. The two share the comparators and the pattern matcher, and nothing else: agreement is worth something.
 */
export class Verifier {
  readonly #run: ReturnType<typeof interpreter>;
  readonly #faults: readonly string[];
  #messages = 0;
  #same = 0;
  readonly #differences: { message: number; byRules: Fate; byScript: Fate }[] = [];

  constructor(
    script: string,
    readonly fates: FlowState,
    /** What tests of the current date see; the same as for the flow engine. */
    readonly now: number = makeWorld().now,
  ) {
    const read = chainFromSieve(script);
    this.#faults = read.diagnostics.map((fault) => fault.code);
    this.#run = interpreter(read.script);
  }

  check(index: number, message: MailMessage, envelope: Envelope): void {
    const byScript = this.#run(message, envelope, { world: makeWorld({ now: this.now }) }).fate;
    const byRules = this.fates.fateOf(index);
    this.#messages++;
    if (fateKey(byScript) === fateKey(byRules)) this.#same++;
    else if (this.#differences.length < SHOWN_DIFFERENCES)
      this.#differences.push({ message: index, byRules, byScript });
  }

  record(): Verification {
    return {
      faults: this.#faults,
      messages: this.#messages,
      sameFate: this.#same,
      differences: this.#differences,
    };
  }
}

/** Whether the script may be handed over. */
export function isVerified(record: Verification, messages: number): boolean {
  return record.faults.length === 0 && record.messages === messages && record.sameFate === messages;
}
