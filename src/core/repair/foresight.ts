import { CONSEQUENCES, type Statement } from '../audit/finding';
import { isBorneOut, withoutRepeated } from '../audit/grouping';
import type { FindingKind } from '../audit/wording';

/** What a change does to the findings. */
export interface Foresight {
  /** Findings that would no longer be stated. */
  readonly ended: readonly Statement[];
  /** Findings that would be stated, and are not now. */
  readonly brought: readonly Statement[];
  /** Of another rule the same would be said about mail of which it is said now: neither better nor worse. */
  readonly passedOn: readonly Statement[];
}

/**
 * The findings that a change would end and bring, of those that stored mail or a proof bears out. That two rules hold for the
 * same mail is no fault, and is left out. What is said of what becomes of mail is neither better nor worse where none of that
 * mail is among the `changed` messages, those whose fate the change alters: another rule does the same with it.
 */
export function foresee(
  before: readonly Statement[],
  after: readonly Statement[],
  changed: { readonly has: (message: number) => boolean },
): Foresight {
  const [now, then] = [weighty(before), weighty(after)];
  const [fresh, gone] = [otherThan(then, now), otherThan(now, then)];
  const [saidNow, saidThen] = [messagesBySaying(now), messagesBySaying(then)];
  const isNoWorse = (finding: Statement) =>
    isSaidOfAll(finding, saidNow) ||
    (ABOUT_FATES.has(finding.kind) &&
      finding.messages.length > 0 &&
      !finding.messages.some((message) => changed.has(message)));
  return {
    ended: gone.filter((finding) => !isSaidOfAll(finding, saidThen)),
    brought: fresh.filter((finding) => !isNoWorse(finding)),
    passedOn: fresh.filter(isNoWorse),
  };
}

/** Kinds that say what becomes of mail, whatever rule does it. */
const ABOUT_FATES: ReadonlySet<FindingKind> = new Set<FindingKind>([
  'loss',
  'unprotected',
  'hidden-unread',
  'placement-disagrees',
  'forward-risk',
]);

const weighty = (findings: readonly Statement[]): Statement[] =>
  withoutRepeated(findings).filter((finding) => finding.kind !== 'overlap' && isBorneOut(finding));

function otherThan(some: readonly Statement[], others: readonly Statement[]): Statement[] {
  const keys = new Set(others.map(({ key }) => key));
  return some.filter(({ key }) => !keys.has(key));
}

const saying = ({ kind, consequence }: Statement): string => `${kind} ${consequence}`;

/** For each kind and consequence, the messages that some finding says it of. */
function messagesBySaying(findings: readonly Statement[]): Map<string, Set<number>> {
  const said = new Map<string, Set<number>>();
  for (const finding of findings) {
    const messages = said.get(saying(finding)) ?? new Set();
    for (const message of finding.messages) messages.add(message);
    said.set(saying(finding), messages);
  }
  return said;
}

function isSaidOfAll(finding: Statement, said: ReadonlyMap<string, ReadonlySet<number>>): boolean {
  const messages = said.get(saying(finding));
  // What never happens is said of rules, not of mail.
  if (finding.messages.length === 0 || finding.certainty === 'proved' || !messages) return false;
  return finding.messages.every((message) => messages.has(message));
}

/** What a repair was seen to do when the chain was audited with it. */
export interface Tried {
  /** The finding that it answers is no longer stated, nor is the same said of these rules the other way round. */
  readonly ends: boolean;
  /** Findings that it brings whose consequence is worse than that of the finding it answers. */
  readonly worse: readonly Statement[];
}

/** `after`: all findings on the chain with the repair made. */
export function tried(finding: Statement, after: readonly Statement[], { brought }: Foresight): Tried {
  const rank = CONSEQUENCES.indexOf(finding.consequence);
  return {
    ends: !after.some((other) => other.key === finding.key || isSameSaid(finding, other)),
    worse: brought.filter(({ consequence }) => CONSEQUENCES.indexOf(consequence) < rank),
  };
}

const isSameSaid = (a: Statement, b: Statement): boolean =>
  a.kind === b.kind && a.rules.length > 1 && a.rules.toSorted().join() === b.rules.toSorted().join();

/**
 * Repairs in the order in which they are offered: first those that end the finding and bring nothing worse, then those of which
 * nothing is known yet, then those that end it at a price; each kind in the order given.
 */
export function inOrderOfOffer<T>(
  repairs: readonly T[],
  triedOf: (repair: T) => { readonly ends: boolean; readonly worse: readonly unknown[] } | null,
): T[] {
  const rank = (repair: T): number => {
    const known = triedOf(repair);
    if (!known) return 1;
    if (!known.ends) return 3;
    return known.worse.length === 0 ? 0 : 2;
  };
  return repairs.toSorted((a, b) => rank(a) - rank(b));
}
