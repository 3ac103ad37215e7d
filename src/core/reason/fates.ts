import { type Algebra, FateState } from '../fates/state';
import type { FurtherAction } from '../rules/further-actions';
import { wordsOfAction } from '../rules/nodes';
import type { Action, LeafTest } from '../rules/rule';
import { flagKeys } from '../sieve/interpret/fate';
import { compileMatcher } from '../sieve/match/matcher';
import { FALSE, type Formula, type Formulas, not, TRUE } from './solve/formula';

/** Equal keys for script blocks that the interpreter executes alike. */
export const nameInContext = (text: string, before: string | undefined): string =>
  before === undefined ? text : `${text} after ${before}`;

const algebraOf = (formulas: Formulas): Algebra<Formula> => ({
  none: FALSE,
  all: TRUE,
  and: (a, b) => formulas.and(a, b),
  or: (a, b) => formulas.or(a, b),
  without: (a, b) => formulas.and(a, not(b)),
  shrunk: (a, b) => formulas.and(a, not(b)),
  isNone: (a) => a === FALSE,
  begin: () => FALSE,
  adding: (collection, more) => formulas.or(collection, more),
  removing: (collection, less) => formulas.and(collection, not(less)),
  replacing: (collection, where, model) =>
    formulas.or(formulas.and(collection, not(where)), formulas.and(model, where)),
});

/**
 * The fate of any message as formulas: one condition for each part of the fate. An effect only the interpreter
 * understands is a part of its own.
 */
export class Fates extends FateState<Formula> {
  readonly #blocks = new Map<string, Formula>();
  #count = 0;

  /** `free` creates a free atom, known by name only. */
  constructor(
    readonly formulas: Formulas,
    readonly free: (name: string) => Formula,
  ) {
    super(algebraOf(formulas));
  }

  /** The condition of a flag test, given the flags set so far (RFC 5232 section 4). */
  hasFlag(test: Extract<LeafTest, { test: 'hasflag' }>): Formula {
    const matcher = compileMatcher(test.comparator, test.match, flagKeys(test.match, test.keys));
    return this.formulas.or(...[...this.flags].filter(([flag]) => matcher(flag) !== null).map(([, when]) => when));
  }

  /** An action only the interpreter understands; for rejections and replies at least the kind is known. */
  actUnknown(action: Action & FurtherAction, when: Formula): void {
    if (when === FALSE) return;
    const text = nameInContext(wordsOfAction(action), action.before);
    switch (action.action) {
      case 'reject':
      case 'ereject':
        this.act({ action: 'reject', reason: text }, when);
        return;
      case 'vacation':
      case 'notify':
        this.act({ action: 'reply', by: action.action, line: text }, when);
        return;
      default:
        this.runUnknown(text, when);
    }
  }

  /**
   * A script block whose effect only the interpreter knows: whether the block stops, and whether the block cancels the
   * implicit keep, are free atoms. The effect depends on earlier parts of the fate, so the condition of each is
   * recorded as well.
   */
  runUnknown(text: string, when: Formula): void {
    const { formulas, free } = this;
    const place = `block ${this.#count++}`;
    for (const [part, formula] of [...this.#parts()]) {
      this.#block(`${place} after ${part}`, formulas.and(when, formula));
    }
    this.#block(`${place} ${text}`, when);
    this.cancelKeep(formulas.and(when, free(`files ${text}`)));
    this.stop(formulas.and(when, free(`stops ${text}`)));
  }

  /** Each part of the fate with its condition, once the chain is finished. */
  parts(): Map<string, Formula> {
    const sound = not(this.failed);
    const blocks = [...this.#blocks].map(([part, when]) => [part, this.formulas.and(when, sound)] as const);
    return new Map([...this.#parts(), ...blocks]);
  }

  *#parts(): Generator<[string, Formula]> {
    for (const [folder, { messages, flags }] of this.folders) {
      yield [`folder ${folder}`, messages];
      for (const [flag, when] of flags) yield [`flag ${flag} in ${folder}`, when];
    }
    for (const [address, when] of this.redirects) yield [`redirect ${address}`, when];
    for (const [line, when] of this.replies) yield [`does ${line}`, when];
    yield ['rejected', this.rejected];
    for (const [reason, when] of this.refusals) yield [`rejected by ${reason}`, when];
  }

  #block(part: string, when: Formula): void {
    this.#blocks.set(part, this.formulas.or(this.#blocks.get(part) ?? FALSE, when));
  }
}
