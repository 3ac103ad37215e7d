import { type Edit, removal, rewriting } from '../rules/edit';
import { changeWords } from '../rules/edit-words';
import { profileOf } from '../rules/profile';
import {
  type Action,
  type Chain,
  type ChainEntry,
  conditionOf,
  looksAtFlags,
  type Rule,
  type TestTree,
} from '../rules/rule';
import { discards } from './destinations';
import type { Repair } from './finding';
import { addressedTo, isFrom } from './senders';
import { REPAIRS } from './wording';

/** Edits as a repair with their own description; none if the program that the rules are in has no such thing. */
export function repair(chain: Chain, ...edits: readonly (Edit | null)[]): Repair[] {
  const made = edits.filter((edit) => edit !== null);
  if (made.length === 0 || !made.every((edit) => isMeaningful(chain, edit))) return [];
  return [{ title: changeWords(chain, made), edits: made }];
}

/** Rules without an order cannot be moved, and where each does not say it, their ending cannot be changed. */
function isMeaningful(chain: Chain, { kind }: Edit): boolean {
  const profile = profileOf(chain);
  if (kind === 'move') return profile?.order !== 'none';
  return kind !== 'ending' || profile === undefined || profile.ending === 'rule';
}

export const switchOff = (id: string): Edit => ({ kind: 'switch', id, on: false });

/** An id for a new rule that no entry has. */
export function freeId(wanted: string, { entries }: Chain): string {
  const taken = new Set(entries.map(({ id }) => id));
  let id = wanted;
  while (taken.has(id)) id += '+';
  return id;
}

/** The edit that replaces an entry; removes it if `after` is empty. */
export function replace(chain: Chain, entry: ChainEntry, after: readonly ChainEntry[]): Edit {
  const from = chain.entries.findIndex(({ id }) => id === entry.id);
  // A rule whose exceptions were gathered is replaced as it is written.
  const written = chain.entries[from] ?? entry;
  return rewriting(
    from,
    [written],
    after.map((one) => asWritten(one, entry, written)),
  );
}

/** A changed rule with the actions and the ending as they are written, where they are those of the unchanged one. */
function asWritten(changed: ChainEntry, entry: ChainEntry, written: ChainEntry): ChainEntry {
  if (changed.kind === 'script' || entry.kind === 'script' || written.kind === 'script') return changed;
  return {
    ...changed,
    ...(changed.actions === entry.actions && { actions: written.actions }),
    ...(changed.ending === entry.ending && { ending: written.ending }),
  };
}

/** Two ways to disable a rule: switching it off, or removing it. */
export function withoutRule(chain: Chain, entry: ChainEntry): Repair[] {
  const written = chain.entries.find(({ id }) => id === entry.id) ?? entry;
  return [...repair(chain, switchOff(entry.id)), ...repair(chain, removal(chain, written))];
}

/** A rewritten rule as a repair with its own title. */
export function rewrite(chain: Chain, rule: Rule, after: Rule, title: string): Repair {
  return { title, edits: [replace(chain, rule, [after])] };
}

export const otherEnding = ({ id, ending }: Rule): Edit => {
  return { kind: 'ending', id, from: ending, to: ending === 'stop' ? 'continue' : 'stop' };
};

/** Alternatives to what a rule does with its mail. */

/** The folder for possibly unwanted mail, to be checked and emptied. */
const DOUBTFUL = { action: 'fileinto', folder: 'Doubtful', copy: false, flags: null } as const;

/** Files mail instead of discarding or rejecting it, or marks it and leaves it in the inbox. */
export function filed(chain: Chain, rule: Rule): Repair[] {
  const ends = ({ action }: Action) => /^(discard|e?reject)$/.test(action);
  if (!rule.actions.some(ends)) return [];
  const instead = (made: Action) => ({
    ...rule,
    actions: rule.actions.map((action) => (ends(action) ? made : action)),
  });
  const does = discards(rule) ? 'discards' : 'rejects';
  const marked = instead({ action: 'addflag', flags: ['$Doubtful'] });
  return [
    rewrite(chain, rule, instead(DOUBTFUL), REPAIRS['file instead'](rule.name, does)),
    rewrite(chain, rule, marked, REPAIRS['mark instead'](rule.name, does)),
  ];
}

/** Keeps the filed mail in the inbox too. */
export function inInboxToo(chain: Chain, rule: Rule): Repair[] {
  const kept = { ...rule, actions: [...rule.actions, { action: 'keep', flags: null } as const] };
  return [rewrite(chain, rule, kept, REPAIRS['inbox too'](rule.name))];
}

/** The repair that adds an exception to a rule. */
export function excepting(chain: Chain, rule: Rule, exception: TestTree, title: string): Repair {
  return rewrite(chain, rule, { ...rule, unless: [...rule.unless, exception] }, title);
}

/** Exempts some senders from a rule; nothing if there are none. */
export function exemptingSenders(chain: Chain, rule: Rule, senders: readonly string[]): Repair[] {
  if (senders.length === 0) return [];
  return [excepting(chain, rule, isFrom(senders), REPAIRS['exempt senders'](rule.name, senders))];
}

/** With more own addresses, hardly all of them are meant. */
const MOST_OWN = 20;

/** Exempts mail to the user that came by no mailing list; nothing if no own address is known. */
export function exemptingOwn(chain: Chain, rule: Rule, own: readonly string[]): Repair[] {
  if (own.length === 0 || own.length > MOST_OWN) return [];
  const toOwn: TestTree = {
    kind: 'all',
    children: [
      { kind: 'none', children: [{ kind: 'leaf', test: { test: 'exists', headers: ['list-id'] } }] },
      addressedTo(['to'], own),
    ],
  };
  return [excepting(chain, rule, toOwn, REPAIRS['exempt own'](rule.name))];
}

/**
 * Exempts mail that matches one rule from another, so that they no longer overlap. None if an exception cannot express
 * that: the other rule tests flags set by rules, is tried only if others have not acted, or matches all mail.
 */
export function exemptingRule(chain: Chain, from: Rule, other: Rule): Repair[] {
  const condition = conditionOf(other);
  if (other.link === 'otherwise' || looksAtFlags(condition) || isAlways(condition)) return [];
  const title = REPAIRS['exempt rule'](from.name, other.name);
  // Each alternative becomes an exception of its own, which is easier to read.
  const exceptions = condition.kind === 'any' ? condition.children : [condition];
  return [rewrite(chain, from, { ...from, unless: [...from.unless, ...exceptions] }, title)];
}

/** An `all` without tests. */
export const isAlways = (tree: TestTree): boolean => tree.kind === 'all' && tree.children.every(isAlways);
