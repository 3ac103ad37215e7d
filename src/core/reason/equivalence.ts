import type { Clock } from '../mail/arrival';
import { type Chain, conditionOf, type Rule } from '../rules/rule';
import { isSame } from '../rules/same';
import { sieveFromChain } from '../rules/to-sieve';
import { fateKey } from '../sieve/interpret/fate';
import { type Interpreter, interpreter } from '../sieve/interpret/interpret';
import { ARRIVAL, worldFor } from '../sieve/interpret/world';
import { parse } from '../sieve/parse';
import { longestAscending } from '../text/ascending';
import { elementAt } from '../text/lookup';
import { Knowledge, type Known } from './knowledge';
import { Reach } from './reach';
import { type Assumption, type Assumptions, areWithin, COMPARISON, joinedAssumptions } from './solve/assumptions';
import { FALSE, type Formula } from './solve/formula';
import { possibleWithin } from './solve/solver';
import { buildWitness, type Witness } from './witness';

export type Comparison =
  /** No message that keeps the assumptions is treated differently. */
  | { readonly verdict: 'equivalent'; readonly assumes: readonly Assumption[] }
  /** This one is, and the interpreter has confirmed it. */
  | { readonly verdict: 'different'; readonly witness: Witness }
  | { readonly verdict: 'undecided'; readonly reason: string };

export interface ComparisonSettings {
  /** Restricts the comparison to messages that match all entries of the first chain at these indexes. */
  readonly among?: readonly number[];
  /** The shared knowledge about chains, extended by each comparison. */
  readonly knowledge?: Knowledge;
  /** The assumptions that a proof may use. */
  readonly allowed?: Assumptions;
}

/**
 * Whether two chains treat every message alike. Each part of the fate is compared on its own: if its formulas differ
 * for some message, that message is constructed and run through both chains.
 */
export function compareChains(
  a: Chain,
  b: Chain,
  { among = [], knowledge = new Knowledge(), allowed = COMPARISON }: ComparisonSettings = {},
): Comparison {
  let runs: readonly [Interpreter, Interpreter] | null = null;
  const clock: Clock = { fixed: knowledge.clock, otherwise: ARRIVAL.otherwise };
  const differs = (witness: Witness) => {
    runs ??= [runnerOf(a, knowledge.checkpoint), runnerOf(b, knowledge.checkpoint)];
    return fateOf(runs[0], witness, clock) !== fateOf(runs[1], witness, clock);
  };
  let [first, second] = [a, b];
  let assumed: readonly Assumption[] = [];
  if (among.length === 0) {
    // The first message that matches a changed entry often shows the difference, or no message can match: both are
    // found much faster than by comparing fates.
    const changed = [actingOf(a, b, knowledge, allowed), actingOf(b, a, knowledge, allowed)] as const;
    const witness = changed.flatMap(({ witnesses }) => witnesses).find(differs);
    if (witness) return { verdict: 'different', witness };
    [first, second] = [changed[0].chain, changed[1].chain];
    assumed = joinedAssumptions(changed[0].assumes, changed[1].assumes);
  }
  const { known, formulas } = differences(first, second, among, knowledge);
  let reason: string | null = null;
  for (const difference of formulas) {
    const answer = possibleWithin(known.solver, [difference], allowed, knowledge.budget);
    if (answer.answer === 'impossible') {
      assumed = joinedAssumptions(assumed, answer.assumes);
      continue;
    }
    if (answer.answer === 'undecided') {
      reason = answer.reason;
      continue;
    }
    const witness = buildWitness(answer.model, known.lowering.facts);
    if (witness && differs(witness)) return { verdict: 'different', witness };
    reason = 'a difference may depend on tests that proofs do not cover, or on a message that cannot be constructed';
  }
  return reason === null ? { verdict: 'equivalent', assumes: assumed } : { verdict: 'undecided', reason };
}

/**
 * What a proof assumes that a rule acts on the same messages with other tests and exceptions, of those that reach it: then
 * the chain treats every message alike. Null if there is no such proof.
 */
export function actsAlike(
  chain: Chain,
  rule: Rule,
  { tests, unless }: Pick<Rule, 'tests' | 'unless'>,
  knowledge: Knowledge,
  allowed: Assumptions,
): readonly Assumption[] | null {
  const reach = new Reach(chain, knowledge);
  const [now, then] = [rule, { ...rule, tests, unless }].map((one) => reach.maybeFormula(conditionOf(one)));
  if (!now || !then) return null;
  const difference = reach.differ(now, then);
  if (difference === FALSE) return [];
  const answer = reach.meet([difference], chain.entries.indexOf(rule), allowed);
  return answer.answer === 'impossible' ? answer.assumes : null;
}

/** The parts of the fates that differ syntactically. */
function differences(
  a: Chain,
  b: Chain,
  among: readonly number[],
  knowledge: Knowledge,
): { readonly known: Known; readonly formulas: readonly Formula[] } {
  const { known, chains } = knowledge.lower(a, b);
  const [first, second] = [elementAt(chains, 0), elementAt(chains, 1)];
  const { formulas } = known.lowering;
  const asked = among.map((place) => first.entries[place]?.condition ?? FALSE);
  const found = new Set<Formula>();
  for (const part of new Set([...first.fates.keys(), ...second.fates.keys()])) {
    const differing = formulas.differ(first.fates.get(part) ?? FALSE, second.fates.get(part) ?? FALSE);
    found.add(formulas.and(differing, ...asked));
  }
  found.delete(FALSE);
  return { known, formulas: [...found] };
}

/** The most rules examined one by one. */
const FEW = 12;

/** Whether the interpreter treats the message differently under the two chains. */
export const areTreatedUnlike = (a: Chain, b: Chain, witness: Witness): boolean =>
  fateOf(runnerOf(a), witness, ARRIVAL) !== fateOf(runnerOf(b), witness, ARRIVAL);

/** A chain reduced to the entries that can act, of those that the other chain lacks at the same place. */
interface Acting {
  /** Rules that can never act are left out. */
  readonly chain: Chain;
  /** One message for each rule that can act. */
  readonly witnesses: readonly Witness[];
  /** The assumptions of the proofs that rules can never act. */
  readonly assumes: readonly Assumption[];
}

function actingOf(chain: Chain, other: Chain, knowledge: Knowledge, allowed: Assumptions): Acting {
  const places = changedPlaces(chain, other);
  if (places.length === 0 || places.length > FEW) return { chain, witnesses: [], assumes: [] };
  const reach = new Reach(chain, knowledge);
  const idle = new Set<number>();
  const witnesses: Witness[] = [];
  let assumes: readonly Assumption[] = [];
  for (const place of places) {
    const entry = chain.entries[place];
    if (entry?.kind !== 'rule' || !entry.on) continue;
    const answer = reach.canFire(place);
    if (answer.answer === 'possible') witnesses.push(answer.witness);
    else if (answer.answer !== 'undecided' && areWithin(answer.assumes, allowed)) {
      idle.add(place);
      assumes = joinedAssumptions(assumes, answer.assumes);
    }
  }
  if (idle.size === 0) return { chain, witnesses, assumes };
  const entries = chain.entries.map((entry, at) => (idle.has(at) ? { ...entry, on: false } : entry));
  return { chain: { ...chain, entries }, witnesses, assumes };
}

/** The indexes of entries outside the longest common subsequence of the two chains. */
function changedPlaces({ entries }: Chain, other: Chain): number[] {
  const there = new Map(other.entries.map((entry, place) => [entry.id, { entry, place }]));
  const placeOf = entries.map((entry) => {
    const found = there.get(entry.id);
    return found && isSame(found.entry, entry) ? found.place : -1;
  });
  const kept = longestAscending(placeOf);
  return entries.flatMap((_, place) => (kept.has(place) ? [] : [place]));
}

function runnerOf(chain: Chain, checkpoint: () => void = () => {}): Interpreter {
  const { text } = sieveFromChain(chain, 'export', { checkpoint });
  checkpoint();
  const { script } = parse(text);
  checkpoint();
  return interpreter(script);
}

/** Both chains see the same clock: the time of arrival, or the fixed time. */
function fateOf(run: Interpreter, { message, envelope }: Witness, clock: Clock): string {
  return fateKey(run(message, envelope, { world: worldFor(message, clock) }).fate);
}
