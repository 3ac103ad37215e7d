import { CONSEQUENCES, type Statement } from '../audit/finding';
import { isConfirmed, withoutRepeated } from '../audit/grouping';
import type { FindingKind } from '../audit/kind-words';

/** The effect of a change on the findings. */
export interface Foresight {
  /** Findings that would disappear. */
  readonly ended: readonly Statement[];
  /** Findings that would appear. */
  readonly brought: readonly Statement[];
  /** Findings that would move to another rule, about the same mail: neither better nor worse. */
  readonly passedOn: readonly Statement[];
}

/**
 * The confirmed findings that a change would resolve and add, without overlaps. A finding about destinations of mail
 * that has none of the `changed` messages (those whose fate the change alters) counts as neither: another rule does the
 * same with its mail.
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

/** Kinds about the destinations of mail, whatever rule is responsible. */
const ABOUT_FATES: ReadonlySet<FindingKind> = new Set<FindingKind>([
  'loss',
  'unprotected',
  'hidden-unread',
  'placement-disagrees',
  'forward-risk',
]);

const weighty = (findings: readonly Statement[]): Statement[] => withoutRepeated(findings).filter(isConfirmed);

function otherThan(some: readonly Statement[], others: readonly Statement[]): Statement[] {
  const keys = new Set(others.map(({ key }) => key));
  return some.filter(({ key }) => !keys.has(key));
}

const saying = ({ kind, consequence }: Statement): string => `${kind} ${consequence}`;

/** For each kind and consequence, the messages that findings name. */
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
  // Findings about what never happens concern rules, not mail.
  if (finding.messages.length === 0 || finding.certainty === 'proved' || !messages) return false;
  return finding.messages.every((message) => messages.has(message));
}

/** The effect of a repair, found by auditing the chain with it. */
export interface Tried {
  /** The finding disappears, and does not reappear with its rules exchanged. */
  readonly ends: boolean;
  /** Added findings with a graver consequence than the repaired one. */
  readonly worse: readonly Statement[];
}

/** `after`: all findings on the chain with the repair. */
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
 * The order in which repairs are offered: those that resolve the finding and add nothing graver, then those not tried
 * yet, then those that resolve it at a price; ties keep their order.
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
