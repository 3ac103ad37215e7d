import { Bitmap } from '../flow/bitmap';
import type { AtomBitmaps } from '../flow/conditions';
import type { EntryFlow, Flow } from '../flow/flow';
import { runFlow } from '../flow/flow';
import { Reach, type ReachAnswer } from '../reason/reach';
import type { Chain, Rule } from '../rules/rule';

/** What all kinds of findings look at. */
export interface AuditContext {
  readonly chain: Chain;
  readonly flow: Flow;
  /** Rules that are on, with their flow, in the order of the chain. */
  readonly rules: readonly RuleFlow[];
  /** Fates under another chain over the same tests, for the messages of `among`: those that differ. */
  readonly changedBy: (other: Chain, among: Bitmap) => Bitmap;
  /** Whether the rule at a place of the chain can fire, for every message there could be. */
  readonly canFire: (place: number) => ReachAnswer;
}

export interface RuleFlow extends EntryFlow {
  readonly entry: Rule;
  /** Place among all entries of the chain. */
  readonly place: number;
}

/** `progress` is told how many rules have been reasoned about, and may throw to cancel. */
export function auditContext(
  chain: Chain,
  flow: Flow,
  atoms: AtomBitmaps,
  progress: (done: number, total: number) => void,
): AuditContext {
  const rules = flow.entries.flatMap((entryFlow, place) => {
    const { entry } = entryFlow;
    return entry.kind === 'rule' && entry.on ? [{ ...entryFlow, entry, place }] : [];
  });
  const alike = groupAlike(atoms, flow.count);
  const small = new Map([...atoms].map(([key, bitmap]) => [key, alike.project(bitmap)]));
  const smallFlow = runFlow(chain, small, alike.count);
  const changedBy = (other: Chain, among: Bitmap): Bitmap => {
    const changed = runFlow(other, small, alike.count).fates.differsFrom(smallFlow.fates);
    return alike.spread(changed).and(among);
  };
  const reach = new Reach(chain);
  const answers = new Map<number, ReachAnswer>();
  rules.forEach(({ place }, done) => {
    progress(done, rules.length);
    answers.set(place, reach.canFire(place));
  });
  const canFire = (place: number): ReachAnswer => answers.get(place) ?? reach.canFire(place);
  return { chain, flow, rules, changedBy, canFire };
}

interface Alike {
  readonly count: number;
  readonly project: (messages: Bitmap) => Bitmap;
  readonly spread: (groups: Bitmap) => Bitmap;
}

/**
 * Messages for which exactly the same atoms hold have the same fate under any chain over these atoms, so one of each
 * group stands for all. Real mail has few groups, and a chain runs over them in a fraction of the time.
 */
function groupAlike(atoms: AtomBitmaps, count: number): Alike {
  let groupOf = new Uint32Array(count);
  let groups = count > 0 ? 1 : 0;
  for (const bitmap of atoms.values()) {
    const split = new Map<number, number>();
    const next = groupOf.slice();
    for (const message of bitmap.members()) {
      const group = groupOf[message] as number;
      let inside = split.get(group);
      if (inside === undefined) {
        inside = groups++;
        split.set(group, inside);
      }
      next[message] = inside;
    }
    groupOf = next;
  }
  // Groups all of whose messages moved on are empty now: number those that are left anew.
  const numbers = new Map<number, number>();
  const first: number[] = [];
  for (let message = 0; message < count; message++) {
    const group = groupOf[message] as number;
    if (!numbers.has(group)) {
      numbers.set(group, first.length);
      first.push(message);
    }
    groupOf[message] = numbers.get(group) as number;
  }
  return {
    count: first.length,
    project: (messages) => {
      const small = new Bitmap(first.length);
      first.forEach((message, group) => {
        if (messages.has(message)) small.add(group);
      });
      return small;
    },
    spread: (small) => {
      const messages = new Bitmap(count);
      for (let message = 0; message < count; message++) {
        if (small.has(groupOf[message] as number)) messages.add(message);
      }
      return messages;
    },
  };
}
