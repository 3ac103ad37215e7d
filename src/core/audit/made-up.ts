import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { tracer } from '../flow/trace';
import type { Witness } from '../reason/witness';
import type { Chain, Rule } from '../rules/rule';
import { fateKey } from '../sieve/interpret/fate';
import { makeWorld } from '../sieve/interpret/world';
import { type MailBody, mailBody } from './body';

/** More are not kept from one audit to the next. */
const MOST = 5000;

/**
 * What reasoning has found, kept from one audit of a chain to the next. What a made-up message shows under the chain before
 * an edit, it mostly shows under the one after, and conditions that exclude each other do so in any chain: then nothing has
 * to be asked again.
 */
export class AuditMemory {
  readonly #witnesses = new Map<string, Witness>();
  readonly #exclusive = new Set<string>();
  readonly #numbers = new Map<string, number>();
  readonly #conditions = new WeakMap<Rule, number>();

  add(witness: Witness): void {
    const { open, message, envelope } = witness;
    if (this.#witnesses.size >= MOST) {
      const [oldest] = this.#witnesses.keys();
      this.#witnesses.delete(oldest as string);
    }
    this.#witnesses.set(JSON.stringify([open, message.size, envelope]), witness);
  }

  /** The shortest first. */
  list(): readonly Witness[] {
    return [...this.#witnesses.values()].sort((a, b) => a.open.length - b.open.length);
  }

  addExclusive(a: Rule, b: Rule): void {
    if (this.#exclusive.size >= 20 * MOST) this.#exclusive.clear();
    this.#exclusive.add(this.#pairKey(a, b));
  }

  /** How many pairs of these rules are known to exclude each other. */
  exclusivePairs(rules: readonly Rule[]): number {
    const times = new Map<number, number>();
    for (const rule of rules) times.set(this.#conditionOf(rule), (times.get(this.#conditionOf(rule)) ?? 0) + 1);
    let count = 0;
    for (const pair of this.#exclusive) {
      const [a, b] = pair.split(' ').map((condition) => times.get(Number(condition)) ?? 0);
      count += (a ?? 0) * (b ?? 0);
    }
    return count;
  }

  /** Whether no message can make both rules hold, as far as that was asked. */
  areExclusive(a: Rule, b: Rule): boolean {
    return this.#exclusive.size > 0 && this.#exclusive.has(this.#pairKey(a, b));
  }

  #pairKey(a: Rule, b: Rule): string {
    return `${this.#conditionOf(a)} ${this.#conditionOf(b)}`;
  }

  /** Rules that test for the same have the same number. */
  #conditionOf(rule: Rule): number {
    const known = this.#conditions.get(rule);
    if (known !== undefined) return known;
    const key = JSON.stringify([rule.tests, rule.unless]);
    const number = this.#numbers.get(key) ?? this.#numbers.size;
    this.#numbers.set(key, number);
    this.#conditions.set(rule, number);
    return number;
  }
}

/** Made-up messages under a chain. */
export interface MadeUpBody extends MailBody {
  readonly witnesses: readonly Witness[];
  /** Whether the interpreter agrees on what the chain does with one of them. */
  readonly confirms: (index: number) => boolean;
}

export function madeUpBody(chain: Chain, witnesses: readonly Witness[], now: number): MadeUpBody {
  const columns = new MemoryColumns();
  for (const { message, envelope } of witnesses) columns.add(message, envelope);
  const atoms = evaluateAtoms(atomsOf(chain), columns, () => {}, now);
  const flow = runFlow(chain, atoms, columns.count);
  const run = tracer(chain);
  const known = new Map<number, boolean>();
  const confirm = (index: number): boolean => {
    const { message, envelope } = witnesses[index] as Witness;
    const trace = run(message, envelope, makeWorld({ now }));
    if (fateKey(trace.fate) !== fateKey(flow.fates.fateOf(index))) return false;
    const fired = new Set(trace.entries.filter(({ outcome }) => outcome === 'fired').map(({ entry }) => entry.id));
    return flow.entries.every(({ entry, fired: own }) => own.has(index) === fired.has(entry.id));
  };
  return {
    ...mailBody(chain, flow, atoms),
    witnesses,
    confirms: (index) => {
      const before = known.get(index);
      if (before !== undefined) return before;
      const confirmed = confirm(index);
      known.set(index, confirmed);
      return confirmed;
    },
  };
}
