import { elementAt } from '../../text/lookup';
import type { Assigned, Fact, Field, Position } from './fields';

/** A fact about the value at a position. */
interface Placed {
  readonly index: number;
  readonly at: Position;
}

/** The assigned facts about one field, sorted by what they demand. */
export interface AskedField {
  readonly field: Field;
  readonly all: readonly number[];
  /** Tests that some value must match, at any position. */
  readonly some: readonly number[];
  /** Tests that no value may match. */
  readonly none: readonly number[];
  readonly at: readonly Placed[];
  readonly notAt: readonly Placed[];
  /** Tests that the date of some value must match, and that no date may match. */
  readonly dated: readonly number[];
  readonly notDated: readonly number[];
  readonly present: { readonly index: number; readonly truth: boolean } | null;
  readonly bounds: Bounds;
  readonly hasTexts: boolean;
  readonly hasAddresses: boolean;
}

/** How many occurrences and addresses there must and may be; positions demand occurrences too. */
export class Bounds {
  /** `facts` demand the number of occurrences. */
  readonly least: { times: number; facts: readonly number[] } = { times: 0, facts: [] };
  readonly most: { times: number; facts: readonly number[] } = { times: Number.POSITIVE_INFINITY, facts: [] };
  readonly leastAddresses: { number: number; facts: readonly number[] } = { number: 0, facts: [] };
  readonly mostAddresses: { number: number; facts: readonly number[] } = {
    number: Number.POSITIVE_INFINITY,
    facts: [],
  };

  /** Facts about numbers for which the field must be there. */
  get wanting(): readonly number[] {
    return [...this.least.facts, ...this.leastAddresses.facts];
  }

  addLeast(times: number, index: number): void {
    if (times > this.least.times) Object.assign(this.least, { times, facts: [index] });
  }

  addMost(times: number, index: number): void {
    if (times < this.most.times) Object.assign(this.most, { times, facts: [index] });
  }

  addAddresses(least: number, truth: boolean, index: number): void {
    if (truth && least > this.leastAddresses.number)
      Object.assign(this.leastAddresses, { number: least, facts: [index] });
    if (!truth && least - 1 < this.mostAddresses.number)
      Object.assign(this.mostAddresses, { number: least - 1, facts: [index] });
  }

  /** The numbers for a field that occurs at most once where `isSingle`, with one address at most where `isJoint`. */
  under(isSingle: boolean, isJoint: boolean): Counted | { readonly conflict: readonly number[] } {
    const { least, leastAddresses, mostAddresses } = this;
    const most = isSingle ? { times: 1, facts: [] } : this.most;
    if (least.times > most.times) return { conflict: [...least.facts, ...most.facts] };
    const addresses = isJoint ? { number: 1, facts: [] } : mostAddresses;
    if (leastAddresses.number > addresses.number) return { conflict: [...leastAddresses.facts, ...addresses.facts] };
    return {
      most: most.times,
      why: [...most.facts, ...(isJoint ? [] : mostAddresses.facts)],
      isJoint: addresses.number === 1,
      addresses: leastAddresses.number,
    };
  }
}

export interface Counted {
  /** The most occurrences. */
  readonly most: number;
  /** Whether there is at most one address. */
  readonly isJoint: boolean;
  /** Facts for which there is only one occurrence, or one address. */
  readonly why: readonly number[];
  /** The least number of addresses. */
  readonly addresses: number;
}

export function askedOf(
  facts: readonly Fact[],
  field: Field,
  indexes: readonly number[],
  assigned: Assigned,
): AskedField {
  const [some, none]: [number[], number[]] = [[], []];
  const [at, notAt]: [Placed[], Placed[]] = [[], []];
  const [dated, notDated]: [number[], number[]] = [[], []];
  const bounds = new Bounds();
  let present: AskedField['present'] = null;
  let [hasTexts, hasAddresses] = [false, false];
  for (const index of indexes) {
    const fact = elementAt(facts, index);
    const truth = assigned.get(index) === true;
    switch (fact.fact) {
      case 'some': {
        if (fact.test.part === 'text') hasTexts = true;
        else hasAddresses = true;
        if (!fact.at) (truth ? some : none).push(index);
        else if (truth) {
          at.push({ index, at: fact.at });
          bounds.addLeast(fact.at.number, index);
        } else notAt.push({ index, at: fact.at });
        break;
      }
      case 'present':
        present = { index, truth };
        break;
      case 'dated':
        (truth ? dated : notDated).push(index);
        break;
      case 'times':
        if (truth) bounds.addLeast(fact.least, index);
        else bounds.addMost(fact.least - 1, index);
        break;
      case 'addresses':
        bounds.addAddresses(fact.least, truth, index);
        break;
      default:
        throw new Error('no fact about a field');
    }
  }
  return { field, all: indexes, some, none, at, notAt, dated, notDated, present, bounds, hasTexts, hasAddresses };
}
