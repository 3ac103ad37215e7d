import type { Bitmap } from '../flow/bitmap';
import type { EntryFlow } from '../flow/flow';
import type { KeyUse } from '../flow/key-uses';
import type { Clock } from '../mail/arrival';
import type { ReachAnswer } from '../reason/reach';
import type { Formula } from '../reason/solve/formula';
import type { Witness } from '../reason/witness';
import { inRunOf } from '../rules/edit';
import { inPlace, profileOf } from '../rules/profile';
import { type Chain, conditionOf, type Rule, type TestTree } from '../rules/rule';
import { elementAt } from '../text/lookup';
import { disagree, takesAway } from './destinations';
import { type MadeUp, madeUpOf } from './finding';
import type { MailBody } from './known-mail';
import { firingOnDemand, type MadeUpBody, madeUpBody } from './made-up';
import type { AuditMemory } from './memory';
import { OrderTable } from './order-table';
import { type PairState, PairTable } from './pair-table';
import type { Questions } from './questions';
import { isAlways } from './repairs';
import type { Valued } from './stored';

/** The common input of all kinds of findings. */
export interface AuditContext {
  readonly chain: Chain;
  /** Rules that are on, with the flow of the stored mail, in chain order. */
  readonly rules: readonly RuleFlow[];
  /** Which pairs of rules some message matches both of, by index in `rules`. */
  readonly pairs: PairTable;
  /** What is known of the order of these pairs, by place in the chain. */
  readonly orders: OrderTable;
  /** The stored mail that takes part: findings count and show it. */
  readonly stored: MailBody;
  readonly madeUp: MadeUpBody;
  /** All example messages, with more of them. */
  readonly withExamples: (witnesses: readonly Witness[]) => MadeUpBody;
  /**
   * All known messages, stored or made up, including those that take no part: if one refutes a proof, nothing is
   * stated.
   */
  readonly refuting: readonly MailBody[];
  readonly mail: Valued;
  /** How keys stand in the texts of messages. */
  readonly usesOf: (wanted: ReadonlyMap<string, Bitmap>) => ReadonlyMap<string, KeyUse>;
  readonly questions: Questions;
  /** When the audit takes place, in milliseconds since 1970. */
  readonly today: number;
  /** Maps items one after another; the audit can be cancelled between two of them. */
  readonly each: <Item, Found>(items: readonly Item[], visit: (item: Item) => Found | readonly Found[]) => Found[];
}

export interface RuleFlow extends EntryFlow {
  readonly entry: Rule;
  /** Index among all entries of the chain. */
  readonly place: number;
}

/** The evidence that something can happen. */
export interface Evidence {
  readonly messages: readonly number[];
  /** Null if there are stored messages. */
  readonly witness: MadeUp | null;
}

/** The messages for which something happens: all stored ones, else an example message; null if there is none. */
export function evidenceOf({ stored, madeUp }: AuditContext, find: (body: MailBody) => Bitmap): Evidence | null {
  const messages = find(stored);
  if (!messages.isEmpty()) return { messages: [...messages.members()], witness: null };
  const shown = madeUp.maybeFirst(find(madeUp), () => true);
  return shown && { messages: [], witness: madeUpOf(shown) };
}

interface Parts {
  readonly chain: Chain;
  readonly stored: MailBody;
  readonly whole: MailBody;
  readonly mail: Valued;
  readonly usesOf: AuditContext['usesOf'];
  readonly questions: Questions;
  readonly memory: AuditMemory;
  /** The current date that rules see. */
  readonly clock: Clock;
  readonly today: number;
  /** May throw to cancel; called often. */
  readonly checkpoint: () => void;
  /** Reports progress; may throw to cancel. */
  readonly progress: (done: number, total: number) => void;
}

/**
 * Constructs example messages that stored mail lacks: for each rule one it acts on, for each pair of rules one that
 * matches both, where possible.
 */
export function auditContext({
  chain,
  stored,
  whole,
  mail,
  usesOf,
  questions,
  memory,
  clock,
  today,
  checkpoint,
  progress,
}: Parts): AuditContext {
  const profile = profileOf(chain);
  const rules = stored.flow.entries.flatMap((flow, place) => {
    const { entry } = flow;
    if (entry.kind === 'script' || !entry.on) return [];
    // What a rule does is what its program does for it.
    return [{ ...flow, entry: profile ? inPlace(entry, profile) : entry, place }];
  });
  const firing = firingOnDemand(chain, checkpoint);
  const body = () => madeUpBody(chain, { memory, clock, firing, checkpoint });
  const before = body();
  const silent = rules.filter(({ place, fired }) => fired.isEmpty() && before.at(place).fired.isEmpty());
  // Most rules act on the first message that they match, which is told for all of them at once.
  const matched = addExamples(silent, (place) => questions.canMatch(place), [memory, progress]) ? body() : before;
  const hidden = silent.filter(({ place }) => matched.at(place).fired.isEmpty() && !questions.known(place));
  const between = addExamples(hidden, (place) => questions.canFire(place), [memory, progress]) ? body() : matched;
  const { pairs, asked } = settlePairs({ chain, rules, bodies: [stored, between], questions, memory, progress });
  const isExempt = askExempt(rules, [stored, between], questions, memory);
  const madeUp = asked > 0 || isExempt ? body() : between;
  const each: AuditContext['each'] = (items, visit) =>
    items.flatMap((item) => {
      checkpoint();
      return visit(item);
    });
  const withExamples: AuditContext['withExamples'] = (witnesses) => {
    for (const witness of witnesses) memory.add(witness);
    return body();
  };
  const refuting = [whole, madeUp];
  const places = rules.map(({ place }) => place);
  const orders = new OrderTable(chain, places, pairs);
  return { chain, rules, pairs, orders, stored, madeUp, withExamples, refuting, mail, usesOf, questions, today, each };
}

/** Keeps the messages that answer a question about each rule; returns whether there are any. */
function addExamples(
  rules: readonly RuleFlow[],
  ask: (place: number) => ReachAnswer,
  [memory, progress]: readonly [AuditMemory, Parts['progress']],
): boolean {
  let found = false;
  rules.forEach(({ place }, done) => {
    progress(done, rules.length);
    const answer = ask(place);
    if (answer.answer !== 'possible') return;
    memory.add(answer.witness);
    found = true;
  });
  return found;
}

/**
 * Constructs example mail that the exceptions of one rule exempt and another rule takes away, if none is known. Returns
 * whether any was constructed.
 */
function askExempt(
  rules: readonly RuleFlow[],
  bodies: readonly MailBody[],
  questions: Questions,
  memory: AuditMemory,
): boolean {
  let found = false;
  const taking = rules.filter(({ entry }) => takesAway(entry));
  for (const a of taking) {
    questions.checkpoint();
    const exempted = exemptedBy(a.entry);
    const formula = exempted && questions.formulas.maybeFormula(exempted);
    if (formula === null) continue;
    for (const b of taking) {
      if (a === b || bodies.some((body) => body.exempt(a.entry).meets(body.at(b.place).fired))) continue;
      const condition = questions.condition(b.place);
      if (questions.formulas.areExclusive(formula, condition)) continue;
      if (!questions.takeExample()) return found;
      const answer = questions.maybeMeet('pairs', [formula, condition], b.place);
      if (answer?.answer === 'possible') {
        memory.add(answer.witness);
        found = true;
      } else if (answer?.answer === 'impossible' && answer.blamed.length === 0) {
        questions.formulas.addExclusive(formula, condition);
      }
    }
  }
  return found;
}

/** The mail that the exceptions of a rule exempt; null if it has none. */
function exemptedBy({ tests, unless }: Rule): TestTree | null {
  return unless.length === 0 ? null : { kind: 'all', children: [tests, { kind: 'any', children: unless }] };
}

interface Settling extends Pick<Parts, 'chain' | 'questions' | 'memory' | 'progress'> {
  readonly rules: readonly RuleFlow[];
  readonly bodies: readonly MailBody[];
}

/**
 * Settles for all pairs of rules whether some message matches both, by known messages, by the form of their conditions,
 * or by the solver; and constructs an example message for those whose order or actions may matter, neighbours first.
 */
function settlePairs({ chain, rules, bodies, questions, memory, progress }: Settling) {
  const pairs = new PairTable(rules.length);
  const total = (rules.length * (rules.length - 1)) / 2;
  const conditions = rules.map(({ place }) => questions.condition(place));
  const isAlive = rules.map(({ place }) => questions.known(place)?.answer !== 'contradiction');
  const isApart = apartness(questions, conditions);
  let done = 0;
  rules.forEach((b, second) => {
    for (let first = 0; first < second; first++) {
      if (done++ % 64 === 0) progress(done, total);
      const a = elementAt(rules, first);
      if (!isAlive[first] || !isAlive[second] || isLastBranch(chain, a, b)) pairs.set(first, second, 'exclusive');
      else if (isApart(first, second)) pairs.set(first, second, 'possible');
      else {
        const [one, other] = [elementAt(conditions, first), elementAt(conditions, second)];
        pairs.set(first, second, stateOf(questions, bodies, [a, b], one, other));
      }
    }
  });
  let asked = 0;
  forNeighbours(rules, (a, b, first, second) => {
    if (!questions.hasLeft('examples')) return false;
    if (pairs.at(first, second) !== 'possible' || !questions.wantsExample(a.entry, b.entry)) return true;
    if (bodies.some((body) => shows(body, a, b)) || !questions.takeExample()) return true;
    asked++;
    const witness = maybeExample(questions, a, b);
    if (witness) memory.add(witness);
    return true;
  });
  return { pairs, asked };
}

/** Whether two conditions, by index, are apart by their shapes: most of millions of pairs are. */
function apartness({ formulas }: Questions, conditions: readonly Formula[]): (a: number, b: number) => boolean {
  const shapes = conditions.map((condition) => formulas.shapeOf(condition));
  const rows: boolean[][] = [];
  return (a, b) => {
    const [here, there] = [elementAt(shapes, a), elementAt(shapes, b)];
    rows[here] ??= [];
    const row = elementAt(rows, here);
    const known = row[there] ?? formulas.areApart(elementAt(conditions, a), elementAt(conditions, b));
    row[there] = known;
    return known;
  };
}

type VisitPair = (a: RuleFlow, b: RuleFlow, first: number, second: number) => boolean;

/** Visits pairs with their indexes, neighbours first, until `visit` returns false. */
export function forNeighbours(rules: readonly RuleFlow[], visit: VisitPair): void {
  for (let distance = 1; distance < rules.length; distance++) {
    for (let at = 0; at + distance < rules.length; at++) {
      if (!visit(elementAt(rules, at), elementAt(rules, at + distance), at, at + distance)) return;
    }
  }
}

/** Both match and the first acts; and the second acts too, if that can matter. */
function shows(body: MailBody, a: RuleFlow, b: RuleFlow): boolean {
  const [first, second] = [body.at(a.place), body.at(b.place)];
  const wanted = a.entry.ending === 'continue' && disagree(a.entry, b.entry) ? second.fired : second.held;
  return first.fired.meets(wanted);
}

function stateOf(
  questions: Questions,
  bodies: readonly MailBody[],
  [a, b]: readonly [RuleFlow, RuleFlow],
  one: Formula,
  other: Formula,
): PairState {
  const { formulas } = questions;
  const settled = formulas.settle(one, other);
  if (settled !== 'ask') return settled;
  if (formulas.areExclusive(one, other)) return 'exclusive';
  if (bodies.some((body) => body.at(a.place).held.meets(body.at(b.place).held))) return 'possible';
  const answer = questions.maybeMeet('pairs', [one, other], null);
  if (answer?.answer === 'possible') return 'possible';
  if (answer?.answer !== 'impossible') return 'unknown';
  formulas.addExclusive(one, other);
  return 'exclusive';
}

/** A message that both match: one that no other rule matches, else one that reaches them, if possible. */
function maybeExample(questions: Questions, a: RuleFlow, b: RuleFlow): Witness | null {
  const alone = questions.maybeAlone(a.place, b.place);
  if (alone) return alone;
  const wanted = [questions.condition(a.place), questions.condition(b.place)];
  for (const place of a.entry.ending === 'continue' ? [b.place, a.place, null] : [a.place, null]) {
    const answer = questions.maybeMeet('pairs', wanted, place);
    if (answer?.answer === 'possible') return answer.witness;
  }
  return null;
}

/** Whether the second is an unconditional last branch of the first's run: where the others match, so does it. */
export const isLastBranch = (chain: Chain, a: RuleFlow, b: RuleFlow): boolean =>
  b.entry.link === 'otherwise' && isAlways(conditionOf(b.entry)) && inRunOf(chain.entries, a.place, b.place);
