import type { Bitmap } from '../flow/bitmap';
import type { EntryFlow } from '../flow/flow';
import type { Clock } from '../mail/arrival';
import { inRunOf } from '../rules/edit';
import { type Chain, conditionOf, type Rule, type TestTree } from '../rules/rule';
import { elementAt } from '../text/lookup';
import { disagree, takesAway } from './destinations';
import { type MadeUp, madeUpOf } from './finding';
import type { MailBody } from './known-mail';
import { type MadeUpBody, madeUpBody } from './made-up';
import type { AuditMemory } from './memory';
import type { Questions } from './questions';
import { isAlways } from './repairs';
import type { Valued } from './stored';

/** The common input of all kinds of findings. */
export interface AuditContext {
  readonly chain: Chain;
  /** Rules that are on, with the flow of the stored mail, in chain order. */
  readonly rules: readonly RuleFlow[];
  /** The stored mail that takes part: findings count and show it. */
  readonly stored: MailBody;
  readonly madeUp: MadeUpBody;
  /**
   * All known messages, stored or made up, including those that take no part: if one refutes a proof, nothing is
   * stated.
   */
  readonly refuting: readonly MailBody[];
  readonly mail: Valued;
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
  const lengthOf = (index: number) => madeUp.witnesses[index]?.open.length ?? 0;
  for (const index of [...find(madeUp).members()].sort((a, b) => lengthOf(a) - lengthOf(b))) {
    const witness = madeUp.witnesses[index];
    if (witness && madeUp.confirms(index)) return { messages: [], witness: madeUpOf(witness) };
  }
  return null;
}

interface Parts {
  readonly chain: Chain;
  readonly stored: MailBody;
  readonly whole: MailBody;
  readonly mail: Valued;
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
  questions,
  memory,
  clock,
  today,
  checkpoint,
  progress,
}: Parts): AuditContext {
  const rules = stored.flow.entries.flatMap((flow, place) => {
    const { entry } = flow;
    return entry.kind === 'rule' && entry.on ? [{ ...flow, entry, place }] : [];
  });
  const { formulas } = questions;
  const before = madeUpBody(chain, memory, clock, checkpoint);
  rules.forEach(({ place, fired }, done) => {
    progress(done, rules.length);
    if (!fired.isEmpty() || !before.at(place).fired.isEmpty()) return;
    const answer = questions.canFire(place);
    if (answer.answer === 'possible') memory.add(answer.witness);
  });
  const between = madeUpBody(chain, memory, clock, checkpoint);
  let asked = 0;
  const pairs = (rules.length * (rules.length - 1)) / 2;
  forNeighbours(rules, (a, b, done) => {
    if (!questions.hasLeft('pairs')) return false;
    if (done % 64 === 0) progress(done, pairs);
    if (isElse(b) && inRunOf(chain.entries, a.place, b.place)) return true;
    const conditions = [questions.condition(a.place), questions.condition(b.place)] as const;
    if ([stored, between].some((body) => shows(body, a, b)) || formulas.areExclusive(...conditions)) return true;
    const answer = askPair(questions, a, b);
    asked++;
    if (answer?.answer === 'possible') memory.add(answer.witness);
    else if (answer?.answer === 'exclusive') formulas.addExclusive(...conditions);
    return true;
  });
  const paired = asked === 0 ? between : madeUpBody(chain, memory, clock, checkpoint);
  const madeUp = askExempt(rules, [stored, paired], questions, memory)
    ? madeUpBody(chain, memory, clock, checkpoint)
    : paired;
  const each: AuditContext['each'] = (items, visit) =>
    items.flatMap((item) => {
      checkpoint();
      return visit(item);
    });
  return { chain, rules, stored, madeUp, refuting: [whole, madeUp], mail, questions, today, each };
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
      const answer = questions.maybeMeet('pairs', [formula, condition], b.place);
      if (answer === null) return found;
      if (answer.answer === 'possible') {
        memory.add(answer.witness);
        found = true;
      } else if (answer.answer === 'impossible' && answer.blamed.length === 0) {
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

/** Visits pairs, neighbours first, until `visit` returns false. */
function forNeighbours(rules: readonly RuleFlow[], visit: (a: RuleFlow, b: RuleFlow, done: number) => boolean): void {
  let done = 0;
  for (let distance = 1; distance < rules.length; distance++) {
    for (let at = 0; at + distance < rules.length; at++) {
      if (!visit(elementAt(rules, at), elementAt(rules, at + distance), done++)) return;
    }
  }
}

/** Both match and the first acts; and the second acts too, if that can matter. */
function shows(body: MailBody, a: RuleFlow, b: RuleFlow): boolean {
  const [first, second] = [body.at(a.place), body.at(b.place)];
  const wanted = a.entry.ending === 'continue' && disagree(a.entry, b.entry) ? second.fired : second.held;
  return first.fired.meets(wanted);
}

/** Null if the budget is used up. */
function askPair(questions: Questions, a: RuleFlow, b: RuleFlow) {
  const wanted = [questions.condition(a.place), questions.condition(b.place)];
  const places = a.entry.ending === 'continue' ? [b.place, a.place, null] : [a.place, null];
  for (const place of places) {
    const answer = questions.maybeMeet('pairs', wanted, place);
    if (answer?.answer !== 'impossible') return answer;
    // If the two exclude each other, no other question is needed.
    if (answer.blamed.length === 0) return EXCLUSIVE;
  }
  return EXCLUSIVE;
}

const EXCLUSIVE = { answer: 'exclusive' } as const;

/** An unconditional last branch. */
export const isElse = ({ entry }: RuleFlow): boolean => entry.link === 'otherwise' && isAlways(conditionOf(entry));
