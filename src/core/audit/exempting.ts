import { type Chain, conditionOf, looksAtFlags, type Rule, type TestTree } from '../rules/rule';
import { rewrite } from './edits';
import type { Repair } from './finding';
import { addressedTo, isFrom } from './senders';
import { REPAIRS } from './wording';

/** The repair that gives a rule one more exception. */
export function excepting(chain: Chain, rule: Rule, exception: TestTree, title: string): Repair {
  return rewrite(chain, rule, { ...rule, unless: [...rule.unless, exception] }, title);
}

/** Exempts some senders from a rule; nothing where there are none. */
export function exemptingSenders(chain: Chain, rule: Rule, senders: readonly string[]): Repair[] {
  if (senders.length === 0) return [];
  return [excepting(chain, rule, isFrom(senders), REPAIRS['exempt senders'](rule.name, senders))];
}

/** More own addresses are seldom all meant. */
const MOST_OWN = 20;

/** Exempts mail that is addressed to the user and came by no mailing list; nothing where no own address is known. */
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
 * Exempts from one rule whatever another one holds for, so that the two no longer meet. Nothing where that cannot be said in
 * a rule of its own: the other looks at flags that rules set, or is tried only where others have not acted, or holds for all mail.
 */
export function exemptingRule(chain: Chain, from: Rule, other: Rule): Repair[] {
  const condition = conditionOf(other);
  if (other.link === 'otherwise' || looksAtFlags(condition) || isAlways(condition)) return [];
  const title = REPAIRS['exempt rule'](from.name, other.name);
  // Each of its alternatives is an exception that can be read by itself.
  const exceptions = condition.kind === 'any' ? condition.children : [condition];
  return [rewrite(chain, from, { ...from, unless: [...from.unless, ...exceptions] }, title)];
}

/** An `all` of nothing. */
const isAlways = (tree: TestTree): boolean => tree.kind === 'all' && tree.children.every(isAlways);
