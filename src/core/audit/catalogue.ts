import type { AtomBitmaps } from '../flow/conditions';
import type { Flow } from '../flow/flow';
import type { Chain } from '../rules/rule';
import { auditContext } from './context';
import { CONSEQUENCES, type Finding } from './finding';
import { contradictions } from './kinds/contradiction';
import { orderConflicts } from './kinds/order-conflict';
import { overlapPairs, overlaps } from './kinds/overlap';
import { runsOn } from './kinds/runs-on';
import { shadowed } from './kinds/shadowed';
import { KINDS } from './words';

/**
 * All findings on a chain, by reasoning and by the stored mail, the gravest first, then by number of messages and place in
 * the chain.
 */
export function auditChain(
  chain: Chain,
  flow: Flow,
  atoms: AtomBitmaps,
  progress: (done: number, total: number) => void = () => {},
): Finding[] {
  const context = auditContext(chain, flow, atoms, progress);
  const pairs = overlapPairs(context);
  const findings = [
    ...contradictions(context),
    ...shadowed(context),
    ...orderConflicts(context, pairs),
    ...runsOn(context, pairs),
    ...overlaps(pairs),
  ];
  return findings.sort(byWeight(chain));
}

function byWeight(chain: Chain): (a: Finding, b: Finding) => number {
  const kinds = Object.keys(KINDS);
  const places = new Map(chain.entries.map((entry, place) => [entry.id, place]));
  const placeOf = (finding: Finding) => places.get(finding.rules[0] as string) ?? 0;
  return (a, b) =>
    CONSEQUENCES.indexOf(a.consequence) - CONSEQUENCES.indexOf(b.consequence) ||
    kinds.indexOf(a.kind) - kinds.indexOf(b.kind) ||
    b.messages.length - a.messages.length ||
    placeOf(a) - placeOf(b);
}

/**
 * Without what a stronger finding on the same two rules says already: an overlap where any other kind names the pair,
 * and an order conflict with the rule that shadows.
 */
export function withoutRepeated(findings: readonly Finding[]): Finding[] {
  const shadows = pairsOf(findings.filter(({ kind }) => kind === 'shadowed'));
  const graver = pairsOf(findings.filter(({ kind }) => kind !== 'overlap'));
  return findings.filter(({ kind, rules }) => {
    const pair = rules.join(' ');
    if (kind === 'overlap') return !graver.has(pair);
    return kind !== 'order-conflict' || !shadows.has(pair);
  });
}

/** The first rule of each finding with each of the others, in both orders. */
function pairsOf(findings: readonly Finding[]): Set<string> {
  return new Set(
    findings.flatMap(({ rules: [first, ...others] }) =>
      others.flatMap((other) => [`${first} ${other}`, `${other} ${first}`]),
    ),
  );
}
