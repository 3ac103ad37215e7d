import { BODY } from './known-fields';
import type { Fact } from './solve/fields';
import { FALSE, type Formula, type Formulas, not } from './solve/formula';
import { type Meeting, SubjectMeetings } from './subject-meeting';

/** What a conjunction asks of each subject: a field, or another property of the message that the rest is independent of. */
type Way = ReadonlyMap<string, Formula>;

/** Which subjects a way in which a condition can hold is about, as bits, and on which whatever is added changes nothing. */
interface Outline {
  readonly subjects: number;
  readonly additive: number;
}

/** The most ways in which a condition may hold before the solver is asked instead. */
const MOST_WAYS = 6;

/**
 * Tells from the forms of two conditions whether one message can match both, where each alone can be matched: conditions
 * on different fields always can, words to be contained in a text can stand beside each other, and different values of a
 * single address cannot. What is exclusive is so for messages that keep the assumptions of comparisons.
 */
export class Meetings {
  readonly #ways = new Map<Formula, readonly Way[] | null>();
  readonly #outlines = new Map<Formula, readonly Outline[]>();
  readonly #subjectMeetings: SubjectMeetings;
  readonly #shapes = new Map<string, number>();
  readonly #bits = new Map<string, number>();
  readonly #subjects = new Map<number, ReadonlySet<string> | null>();

  constructor(
    readonly formulas: Formulas,
    readonly facts: readonly Fact[],
    /** Asks the solver about a condition on one subject. */
    readonly canBeMatched: (formula: Formula) => boolean,
  ) {
    this.#subjectMeetings = new SubjectMeetings(formulas, facts, canBeMatched);
  }

  /** Whether two conditions have nothing in common, or nothing that matters: then one message can match both. */
  areApart(a: Formula, b: Formula): boolean {
    return areApart(this.#outlinesOf(a), this.#outlinesOf(b));
  }

  /** Precondition: each of the two can be matched. */
  settle(a: Formula, b: Formula): Meeting {
    if (this.areApart(a, b)) return 'possible';
    const [first, second] = [this.#waysOf(a), this.#waysOf(b)];
    if (!first || !second) return 'ask';
    let settled: Meeting = 'exclusive';
    for (const one of first) {
      for (const other of second) {
        const meeting = this.#meet(one, other);
        if (meeting === 'possible' && this.#canHold(first, one) && this.#canHold(second, other)) return 'possible';
        if (meeting !== 'exclusive') settled = 'ask';
      }
    }
    return settled;
  }

  /** A number for what decides whether a condition is apart from others: thousands of rules have few of them. */
  shapeOf(formula: Formula): number {
    const outlines = this.#outlinesOf(formula);
    const key = outlines.map(({ subjects, additive }) => `${subjects} ${additive}`).join();
    const known = this.#shapes.get(key) ?? this.#shapes.size;
    if (known === this.#shapes.size) this.#shapes.set(key, known);
    return known;
  }

  #outlinesOf(formula: Formula): readonly Outline[] {
    const known = this.#outlines.get(formula);
    if (known) return known;
    const ways = this.#waysOf(formula) ?? [];
    const found = ways.filter((way) => this.#canHold(ways, way)).map((way) => this.#outlineOf(way));
    this.#outlines.set(formula, found);
    return found;
  }

  #outlineOf(way: Way): Outline {
    let [subjects, additive] = [0, 0];
    for (const [subject, part] of way) {
      const bit = this.#bitOf(subject);
      // Of two subjects with one bit, both must be additive.
      if (!this.#subjectMeetings.isAdditive(part)) additive &= ~bit;
      else if ((subjects & bit) === 0) additive |= bit;
      subjects |= bit;
    }
    return { subjects, additive };
  }

  /** The same bit for two subjects only if there are more than bits. */
  #bitOf(subject: string): number {
    const known = this.#bits.get(subject) ?? 1 << (this.#bits.size % 31);
    this.#bits.set(subject, known);
    return known;
  }

  /** A condition that can be matched can be so in its only way; of several, some may be impossible. */
  #canHold(all: readonly Way[], way: Way): boolean {
    return all.length === 1 || [...way.values()].every((formula) => this.canBeMatched(formula));
  }

  #meet(one: Way, other: Way): Meeting {
    const [fewer, more] = one.size <= other.size ? [one, other] : [other, one];
    let meeting: Meeting = 'possible';
    for (const [subject, formula] of fewer) {
      const there = more.get(subject);
      if (there === undefined) continue;
      const here = this.#subjectMeetings.settle(formula, there);
      if (here === 'exclusive') return here;
      if (here === 'ask') meeting = 'ask';
    }
    return meeting;
  }

  /** A conjunction of conditions on single subjects, or several such ways; null if there are too many, or it has others. */
  #waysOf(formula: Formula): readonly Way[] | null {
    const known = this.#ways.get(formula);
    if (known !== undefined) return known;
    const found = this.#split(formula);
    this.#ways.set(formula, found);
    return found;
  }

  #split(formula: Formula): readonly Way[] | null {
    let ways: readonly Way[] = [new Map()];
    for (const part of this.formulas.conjuncts(formula)) {
      const subjects = this.#subjectsOf(part >> 1);
      const [subject, another] = subjects ?? [];
      if (subject === undefined) return null;
      const added = another === undefined ? [new Map([[subject, part]])] : this.#alternatives(part);
      if (!added || ways.length * added.length > MOST_WAYS) return null;
      ways = ways.flatMap((way) => added.flatMap((more) => this.#joined(way, more) ?? []));
    }
    return ways.length > 0 ? ways : null;
  }

  #alternatives(disjunction: Formula): readonly Way[] | null {
    const node = this.formulas.node(disjunction >> 1);
    if (!('and' in node) || (disjunction & 1) === 0) return null;
    const all: Way[] = [];
    for (const member of node.and) {
      const ways = this.#waysOf(not(member));
      if (!ways || all.length + ways.length > MOST_WAYS) return null;
      all.push(...ways);
    }
    return all;
  }

  /** Null if the two contradict each other by their form. */
  #joined(way: Way, more: Way): Way | null {
    const joined = new Map(way);
    for (const [subject, formula] of more) {
      const both = this.formulas.and(joined.get(subject) ?? formula, formula);
      if (both === FALSE) return null;
      joined.set(subject, both);
    }
    return joined;
  }

  /** What a formula is about; null if it has facts that are not understood. */
  #subjectsOf(number: number): ReadonlySet<string> | null {
    const known = this.#subjects.get(number);
    if (known !== undefined) return known;
    const all = new Set<string>();
    const isUnderstood = this.#subjectMeetings.isOnly(2 * number, (fact) => {
      const subject = subjectOf(fact);
      if (subject !== null) all.add(subject);
      return subject !== null;
    });
    const found = isUnderstood ? all : null;
    this.#subjects.set(number, found);
    return found;
  }
}

/** Whether some ways of two conditions have no subject in common but those where both can be met beside each other. */
function areApart(first: readonly Outline[], second: readonly Outline[]): boolean {
  for (const here of first) {
    for (const there of second) {
      if ((here.subjects & there.subjects & ~(here.additive & there.additive)) === 0) return true;
    }
  }
  return false;
}

/** What facts are about, so that facts about different subjects are independent; null for what is not understood. */
function subjectOf(fact: Fact): string | null {
  switch (fact.fact) {
    case 'free':
      return null;
    case 'now':
    case 'dated':
      return 'dates';
    case 'over':
      return 'size';
    default: {
      const { name } = fact.field;
      if (name === 'date' || name === 'received') return 'dates';
      return name.startsWith(BODY) || name.startsWith('parts ') ? BODY : name;
    }
  }
}
