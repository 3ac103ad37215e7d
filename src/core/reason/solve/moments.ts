import { elementAt } from '../../text/lookup';
import { type FoundMoment, findMoment, type Moment } from '../automata/calendar';
import type { AskedField, Counted } from './asked-field';
import type { Assigned, Fact } from './fields';
import { smallest } from './smallest';
import { USUAL } from './usual';

type Failed = { readonly conflicts: readonly (readonly number[])[] } | { readonly gaveUp: readonly number[] };

/** Moments that answer tests of dates, or the facts that conflict. */
export class Moments {
  readonly #found = new Map<string, FoundMoment>();

  constructor(
    readonly facts: readonly Fact[],
    readonly checkpoint: () => void,
  ) {}

  /** The current date; null if it does not matter. */
  now(assigned: Assigned): { readonly now: number | null } | Failed {
    const [some, none]: [number[], number[]] = [[], []];
    for (const [index, truth] of assigned) {
      if (elementAt(this.facts, index).fact === 'now') (truth ? some : none).push(index);
    }
    if (some.length + none.length === 0) return { now: null };
    const found = this.#moment(some, none);
    return 'moment' in found ? { now: found.moment.time } : found;
  }

  /** The dates of a field: one for each test, or one for all if it occurs once. */
  forField({ dated, notDated }: AskedField, counted: Counted): { readonly moments: readonly Moment[] } | Failed {
    const isTogether = counted.most === 1 && dated.length > 1;
    const moments: Moment[] = [];
    for (const group of isTogether ? [dated] : dated.map((one) => [one])) {
      const found = this.#moment(group, notDated);
      if ('moment' in found) moments.push(found.moment);
      else if ('gaveUp' in found) return found;
      else {
        const isOfOne = (facts: readonly number[]) => facts.filter((one) => group.includes(one)).length === 1;
        return { conflicts: found.conflicts.map((facts) => (isOfOne(facts) ? facts : [...facts, ...counted.why])) };
      }
    }
    return { moments };
  }

  #moment(some: readonly number[], none: readonly number[]): { readonly moment: Moment } | Failed {
    const found = this.#find(some, none);
    if (found.found === 'moment') return { moment: found.moment };
    if (found.found === 'gave up') return { gaveUp: [...some, ...none] };
    const conflict = smallest([...some, ...none], (kept) => {
      const [wanted, unwanted] = [some.filter((one) => kept.includes(one)), none.filter((one) => kept.includes(one))];
      // If no fact wants a date, a field may have none.
      if (some.length > 0 && wanted.length === 0) return false;
      return this.#find(wanted, unwanted).found === 'none';
    });
    return { conflicts: [conflict] };
  }

  #find(some: readonly number[], none: readonly number[]): FoundMoment {
    const key = `${some.join(' ')} not ${none.join(' ')}`;
    const known = this.#found.get(key);
    if (known) return known;
    this.checkpoint();
    const testOf = (index: number) => {
      const fact = elementAt(this.facts, index);
      if (fact.fact !== 'now' && fact.fact !== 'dated') throw new Error('no test of a date');
      return fact.test;
    };
    const found = findMoment({ some: some.map(testOf), none: none.map(testOf) }, { time: USUAL, zone: 0 });
    this.#found.set(key, found);
    return found;
  }
}
