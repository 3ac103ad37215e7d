import type { FlowState } from '../flow/state';
import type { Clock } from '../mail/arrival';
import type { Envelope, MailMessage } from '../mail/message';
import type { Assumption } from '../reason/solve/assumptions';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { type Fate, fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { ARRIVAL, type World, worldFor } from '../sieve/interpret/world';
import type { Script } from '../sieve/tree';
import type { Weighing } from './costs';
import type { NamesBack } from './folder-names';

/** The record of a verification. */
interface Verification {
  /** The checker's diagnostics of the written script; must be empty. */
  readonly faults: readonly string[];
  /** Stored messages on which the script was run. */
  readonly messages: number;
  readonly sameFate: number;
  /** At most `SHOWN_DIFFERENCES` of them. */
  readonly differences: readonly { readonly message: number; readonly byRules: Fate; readonly byScript: Fate }[];
}

/** The record of a script for a target. */
export interface HandoverRecord extends Verification, Weighing {
  /** Example messages, including probes, and those that the script treats like the rules. */
  readonly madeUp: number;
  readonly madeUpSame: number;
  /**
   * Between the draft and its version without differences: stored messages that differ, and the proof about all others.
   */
  readonly exactChanged: number;
  readonly exact: ReasonedVerdict;
  /** Between the rewritten rules and the script read back. */
  readonly script: ReasonedVerdict;
  /** What these two proofs assume about messages. */
  readonly assumes: { readonly exact: readonly Assumption[]; readonly script: readonly Assumption[] };
}

type ReasonedVerdict = 'equivalent' | 'different' | 'undecided' | 'holds' | 'broken';

const SHOWN_DIFFERENCES = 20;

/**
 * Reads a written script back, runs it on every message with the interpreter, and compares each fate with that of the
 * flow engine. The two share only comparators and the pattern matcher, so agreement is meaningful.
 */
export class Verifier {
  readonly #run: ReturnType<typeof interpreter>;
  readonly #faults: readonly string[];
  #chainRun: { readonly chain: Chain; readonly run: ReturnType<typeof interpreter> } | null = null;
  #messages = 0;
  #same = 0;
  readonly #differences: { message: number; byRules: Fate; byScript: Fate }[] = [];

  constructor(
    script: string,
    readonly fates: FlowState,
    /** The current date that rules see; the same as for the flow engine. */
    readonly clock: Clock = ARRIVAL,
    /** What the target supports; everything if absent. */
    capabilities: readonly string[] | null = null,
    /** The contents of the external lists that the script refers to (RFC 6134). */
    readonly lists: ReadonlyMap<string, ReadonlySet<string>> = new Map(),
    /** From the names of folders in the script to those in the rules; null if they are the same. */
    readonly names: NamesBack | null = null,
  ) {
    const read = chainFromSieve(script);
    const beyond = capabilities === null ? [] : requiresOf(read.script).filter((name) => !capabilities.includes(name));
    this.#faults = [
      ...read.diagnostics.map((fault) => fault.code),
      ...beyond.map((name) => `it requires ${name}, which the target does not support`),
    ];
    this.#run = interpreter(read.script);
  }

  check(index: number, message: MailMessage, envelope: Envelope): void {
    const byScript = this.#asHere(this.#run(message, envelope, { world: this.#world(message) }).fate);
    const byRules = this.fates.fateOf(index);
    this.#messages++;
    if (fateKey(byScript) === fateKey(byRules)) this.#same++;
    else if (this.#differences.length < SHOWN_DIFFERENCES)
      this.#differences.push({ message: index, byRules, byScript });
  }

  /** Whether the script and a chain treat a message alike, both run by the interpreter. */
  treatsAlike(chain: Chain, message: MailMessage, envelope: Envelope): boolean {
    this.#chainRun ??= { chain, run: interpreter(sieveFromChain(chain).script) };
    if (this.#chainRun.chain !== chain) throw new Error('one verifier holds a script against one chain');
    const fateBy = (run: ReturnType<typeof interpreter>) =>
      run(message, envelope, { world: this.#world(message) }).fate;
    return fateKey(this.#asHere(fateBy(this.#run))) === fateKey(fateBy(this.#chainRun.run));
  }

  #asHere = (fate: Fate): Fate => this.names?.ofFate(fate) ?? fate;

  #world = (message: MailMessage): World => ({ ...worldFor(message, this.clock), lists: this.lists });

  record(): Verification {
    return {
      faults: this.#faults,
      messages: this.#messages,
      sameFate: this.#same,
      differences: this.#differences,
    };
  }
}

/** Whether the script may be exported: it has the declared differences and no others. */
export function isVerified(record: HandoverRecord, messages: number): boolean {
  return (
    record.faults.length === 0 &&
    record.messages === messages &&
    record.sameFate === messages &&
    record.madeUpSame === record.madeUp &&
    record.undeclared.length === 0 &&
    record.exactChanged === 0 &&
    record.exact !== 'different' &&
    record.script !== 'different'
  );
}

/** The capabilities a script requires. */
export function requiresOf({ commands }: Script): string[] {
  return commands.flatMap((command) => {
    if (command.kind !== 'command' || command.name !== 'require') return [];
    return command.args.flatMap((argument) => {
      if (argument.kind === 'string') return [argument.value];
      return argument.kind === 'string-list' ? argument.items.map(({ value }) => value) : [];
    });
  });
}
