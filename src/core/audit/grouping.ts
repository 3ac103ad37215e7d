import { elementAt } from '../text/lookup';
import type { Statement } from './finding';
import type { FindingKind } from './kind-words';

/**
 * Whether stored mail, a proof or a kept probe supports a finding, or a rule's own exception; the others are possible
 * only. An overlap of two rules is no fault: it belongs to the map of all pairs.
 */
export const isConfirmed = ({ kind, messages, certainty, isNamed, isKept }: Statement): boolean =>
  kind !== 'overlap' &&
  (messages.length > 0 || certainty === 'proved' || certainty === 'observed' || isNamed === true || isKept === true);

/** Findings with a common cause: the same kind, and the same responsible rule. */
export interface FindingGroup {
  readonly key: string;
  /** The weightiest. */
  readonly lead: Statement;
  /** All of them, the lead first. */
  readonly members: readonly Statement[];
}

/**
 * Removes what a stronger finding on the same rules implies: anything else about a rule that never matches or is never
 * reached, an overlap if another kind names the pair, an order conflict if mail is cut short or runs on, and findings
 * on parts of a redundant rule.
 */
export function withoutRepeated(findings: readonly Statement[]): Statement[] {
  const ofKind = (...kinds: FindingKind[]) => findings.filter(({ kind }) => kinds.includes(kind));
  const dead = new Set(ofKind('contradiction', 'shadowed').flatMap(sureFirst));
  const needless = new Set(ofKind('redundant').flatMap(sureFirst));
  const shadows = pairsOf(ofKind('shadowed'));
  const sharper = pairsOf(ofKind('cut-short', 'runs-on'));
  const named = pairsOf(findings.filter(({ kind }) => kind !== 'overlap'));
  return findings.filter(({ kind, rules }) => {
    const [first, second] = rules;
    const pair = rules.join(' ');
    const about = (set: ReadonlySet<string>) => rules.some((id) => set.has(id));
    switch (kind) {
      case 'idle':
      case 'subsumed-test':
      case 'exception-void':
        return !dead.has(first ?? '') && !needless.has(first ?? '');
      case 'redundant':
        return !dead.has(first ?? '');
      case 'mergeable':
        return !about(dead) && !about(needless);
      case 'cut-short':
        return !shadows.has(pair) && !dead.has(second ?? '');
      case 'order-conflict':
        return !shadows.has(pair) && !sharper.has(pair);
      case 'overlap':
        return !named.has(pair);
      default:
        return true;
    }
  });
}

const sureFirst = ({ rules, certainty }: Statement): string[] => (certainty === 'proved' ? rules.slice(0, 1) : []);

/** The first rule of each finding with each of the others, in both orders. */
function pairsOf(findings: readonly Statement[]): Set<string> {
  return new Set(
    findings.flatMap(({ rules: [first, ...others] }) =>
      others.flatMap((other) => [`${first} ${other}`, `${other} ${first}`]),
    ),
  );
}

/**
 * Groups findings by cause, in the order of their leads: rules shadowed by the same rules, pairs with a common rule
 * (the one most pairs name), parts of one rule, rules that never acted.
 */
export function grouped(findings: readonly Statement[]): FindingGroup[] {
  const named = new Map<string, number>();
  const familyOf = ({ kind, consequence, messages }: Statement) => `${kind} ${consequence} ${messages.length > 0}`;
  for (const finding of findings) {
    for (const id of finding.rules) {
      const name = `${familyOf(finding)} ${id}`;
      named.set(name, (named.get(name) ?? 0) + 1);
    }
  }
  const groups = new Map<string, Statement[]>();
  for (const finding of findings) {
    const timesOf = (id: string) => named.get(`${familyOf(finding)} ${id}`) ?? 0;
    const [common] = finding.rules.toSorted((a, b) => timesOf(b) - timesOf(a));
    const cause = causeOf(finding, `${familyOf(finding)} ${common}`);
    const members = groups.get(cause);
    if (members) members.push(finding);
    else groups.set(cause, [finding]);
  }
  return Array.from(groups, ([key, members]) => ({ key, lead: elementAt(members, 0), members }));
}

function causeOf({ kind, rules, certainty, messages }: Statement, byCommonRule: string): string {
  const [first, ...others] = rules;
  switch (kind) {
    case 'shadowed':
      return certainty === 'proved' ? `shadowed by ${others.join(' ')}` : `shadowed ${first}`;
    case 'idle':
      return `idle ${messages.length > 0}`;
    case 'overlap':
      return 'overlap';
    default:
      return byCommonRule;
  }
}
