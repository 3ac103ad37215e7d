import { describe, expect, test } from 'vitest';
import { compareChains } from '../reason/equivalence';
import { Reach } from '../reason/reach';
import { chainFromSieve } from '../rules/from-sieve';

/**
 * The relations of two rules by Al-Shaer and Hamed, "Firewall Policy Advisor for Anomaly Discovery and Rule Editing"
 * (IM 2003, section 3, from memory), carried over: a rule that stops is one that decides; a packet is a message.
 */

const rules = (...texts: string[]) => chainFromSieve(`require "fileinto";\n${texts.join('\n')}\n`).chain;
const ending = (test: string, folder: string) => `if ${test} { fileinto "${folder}"; stop; }`;
const canFire = (...texts: string[]) => {
  const chain = rules(...texts);
  const reach = new Reach(chain);
  return chain.entries.map((_, place) => reach.canFire(place).answer);
};
const alike = (first: readonly string[], second: readonly string[]) =>
  compareChains(rules(...first), rules(...second)).verdict;

const DOMAIN = 'address :domain :is "from" "oak.example"';
const ADDRESS = 'address :is "from" "sales@oak.example"';
const SUBJECT = 'header :contains "subject" "planks"';

describe('two rules', () => {
  test('shadowing: the earlier rule takes all that the later one holds for, and decides otherwise', () => {
    expect(canFire(ending(DOMAIN, 'Oak'), ending(ADDRESS, 'Sales'))).toEqual(['possible', 'shadowed']);
    expect(
      alike([ending(DOMAIN, 'Oak'), ending(ADDRESS, 'Sales')], [ending(ADDRESS, 'Sales'), ending(DOMAIN, 'Oak')]),
    ).toBe('different');
  });

  test('generalization: the later rule holds for all of the earlier and more; only the order keeps them apart', () => {
    expect(canFire(ending(ADDRESS, 'Sales'), ending(DOMAIN, 'Oak'))).toEqual(['possible', 'possible']);
    expect(alike([ending(ADDRESS, 'Sales'), ending(DOMAIN, 'Oak')], [ending(DOMAIN, 'Oak')])).toBe('different');
  });

  test('correlation: each holds for some of the other, and they decide otherwise', () => {
    expect(canFire(ending(DOMAIN, 'Oak'), ending(SUBJECT, 'Planks'))).toEqual(['possible', 'possible']);
    const both = [ending(DOMAIN, 'Oak'), ending(SUBJECT, 'Planks')];
    expect(alike(both, [...both].reverse())).toBe('different');
  });

  test('redundancy: the later rule holds for less and decides alike, before or behind', () => {
    const wide = ending(DOMAIN, 'Oak');
    const narrow = ending(ADDRESS, 'Oak');
    expect(alike([wide, narrow], [wide])).toBe('equivalent');
    expect(alike([narrow, wide], [wide])).toBe('equivalent');
    expect(alike([narrow, ending(SUBJECT, 'Planks'), wide], [ending(SUBJECT, 'Planks'), wide])).toBe('different');
  });

  test('disjoint: no message makes both hold, and the order is nothing', () => {
    const other = ending('address :domain :is "from" "lime.example"', 'Lime');
    expect(alike([ending(DOMAIN, 'Oak'), other], [other, ending(DOMAIN, 'Oak')])).toBe('equivalent');
  });

  test('what may continue: an earlier rule that only marks shadows nothing', () => {
    const marks = `if ${DOMAIN} { fileinto :copy "Oak"; }`;
    const chain = chainFromSieve(`require ["fileinto", "copy"];\n${marks}\n${ending(ADDRESS, 'Sales')}\n`).chain;
    expect(new Reach(chain).canFire(1).answer).toBe('possible');
  });
});
