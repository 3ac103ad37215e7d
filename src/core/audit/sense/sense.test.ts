import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from 'vitest';
import { z } from 'zod';
import { evaluateAtoms } from '../../flow/atoms';
import { MemoryColumns } from '../../flow/columns';
import { runFlow } from '../../flow/flow';
import { atomsOf } from '../../flow/program';
import { chainFromSieve } from '../../rules/from-sieve';
import { auditChain } from '../catalogue';
import type { Finding } from '../finding';
import { isConfirmed, withoutRepeated } from '../grouping';
import { MailGatherer } from '../stored';

/**
 * Scripts of the forms people write, without mail: sane ones, of which hardly anything is stated, and ones with planted
 * faults, all of which are.
 */

const here = (...path: string[]) => join(import.meta.dirname, ...path);
const scriptsIn = (folder: string) => readdirSync(here(folder)).map((file) => file.replace(/\.sieve$/, ''));
const PLANTED = z
  .record(z.string(), z.array(z.object({ kind: z.string(), rules: z.array(z.string()) })))
  .parse(JSON.parse(readFileSync(here('expected.json'), 'utf8')));

function confirmedIn(folder: string, name: string) {
  const { chain, diagnostics } = chainFromSieve(readFileSync(here(folder, `${name}.sieve`), 'utf8'));
  expect(diagnostics).toEqual([]);
  const atoms = evaluateAtoms(atomsOf(chain), new MemoryColumns());
  const flow = runFlow(chain, atoms, 0);
  const { findings } = auditChain({ chain, flow, atoms, mail: new MailGatherer().mail([]) });
  const names = new Map(chain.entries.map((entry) => [entry.id, entry.name]));
  const stated = ({ kind, rules }: Finding) => ({ kind, rules: rules.map((id) => names.get(id) ?? id) });
  const own = new Set<unknown>(withoutRepeated(findings));
  return {
    rules: chain.entries.length,
    all: findings.filter(isConfirmed).map(stated),
    own: findings.filter((finding) => isConfirmed(finding) && own.has(finding)).map(stated),
  };
}

describe('sane scripts', () => {
  const scripts = scriptsIn('sane');

  test('are twenty', () => {
    expect(scripts).toHaveLength(20);
  });

  test.each(scripts)('%s: at most one confirmed finding for ten rules', (name) => {
    const { rules, all } = confirmedIn('sane', name);
    expect(rules).toBeGreaterThanOrEqual(5);
    expect(all.length, JSON.stringify(all)).toBeLessThanOrEqual(Math.floor(rules / 10));
  });
});

describe('faulty scripts', () => {
  test('are twenty, each with three to ten planted faults', () => {
    expect(scriptsIn('faulty').toSorted()).toEqual(Object.keys(PLANTED).toSorted());
    expect(Object.keys(PLANTED)).toHaveLength(20);
    for (const faults of Object.values(PLANTED)) {
      expect(faults.length).toBeGreaterThanOrEqual(3);
      expect(faults.length).toBeLessThanOrEqual(10);
    }
  });

  test.each(Object.entries(PLANTED))('%s: all are confirmed, before anything about other rules', (name, faults) => {
    const { own } = confirmedIn('faulty', name);
    for (const fault of faults) expect(own).toContainEqual(fault);
    const touched = new Set(faults.flatMap(({ rules }) => rules));
    const isOther = ({ rules }: (typeof own)[number]) => !rules.some((rule) => touched.has(rule));
    const keys = faults.map((fault) => JSON.stringify(fault));
    const lastPlanted = own.findLastIndex((finding) => keys.includes(JSON.stringify(finding)));
    expect(own.slice(0, lastPlanted).filter(isOther)).toEqual([]);
  });
});
