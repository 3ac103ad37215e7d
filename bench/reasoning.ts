import { readFileSync } from 'node:fs';
import { auditChain } from '../src/core/audit/catalogue';
import { AuditMemory } from '../src/core/audit/memory';
import { MailGatherer } from '../src/core/audit/stored';
import { evaluateAtoms } from '../src/core/flow/atoms';
import { MemoryColumns } from '../src/core/flow/columns';
import { runFlow } from '../src/core/flow/flow';
import { atomsOf } from '../src/core/flow/program';
import { compareChains } from '../src/core/reason/equivalence';
import { Reach } from '../src/core/reason/reach';
import { applyEdit, type Edit, moveBefore } from '../src/core/rules/edit';
import { chainFromSieve } from '../src/core/rules/from-sieve';
import type { Chain } from '../src/core/rules/rule';
import { figure, milliseconds, seconds } from './figures';
import { demoLikeChain, madeUpScript } from './made-up';

/** Work without mail: which rules can act at all, and whether a chain is equivalent to one with a single change. */
export function benchReasoning(): void {
  for (const [rules, wanted] of [
    [500, '5 s'],
    [2000, '60 s'],
  ] as const) {
    const { chain } = chainFromSieve(madeUpScript(rules));
    const counts = new Map<string, number>();
    const took = seconds(() => {
      const reach = new Reach(chain);
      chain.entries.forEach((_, place) => {
        const { answer } = reach.canFire(place);
        counts.set(answer, (counts.get(answer) ?? 0) + 1);
      });
    });
    figure(`which of ${rules} rules can act`, `${took.toFixed(1)} s`, wanted);
    figure('  undecided', `${counts.get('undecided') ?? 0} of ${rules}, ${counts.get('shadowed') ?? 0} shadowed`, '1%');
  }
  benchFindings();
  const { chain } = chainFromSieve(madeUpScript(500));
  const verdicts = new Map<string, number>();
  const times = editsOf(chain).map((edit) => {
    const changed = applyEdit(chain, edit);
    if (!changed.ok) throw new Error(changed.reason);
    return seconds(() => {
      const { verdict } = compareChains(chain, changed.chain);
      verdicts.set(verdict, (verdicts.get(verdict) ?? 0) + 1);
    });
  });
  times.sort((a, b) => a - b);
  const [median, worst] = [times[times.length >> 1] ?? 0, times.at(-1) ?? 0];
  figure(
    '500 rules against the same with one change',
    `${milliseconds(median)}, at most ${milliseconds(worst)}`,
    '100 ms, at most 500 ms',
  );
  figure('  verdicts', Array.from(verdicts, ([verdict, count]) => `${count} ${verdict}`).join(', '));
}

/** All findings that need no mail, and again after one edit, when earlier example messages are reused. */
function benchFindings(): void {
  const { chain: demo } = chainFromSieve(readFileSync(new URL('../demo/rules.sieve', import.meta.url), 'utf8'));
  benchSizes('made-up rules', (rules) => chainFromSieve(madeUpScript(rules)).chain, [
    [500, '2 s'],
    [1000, null],
    [2000, '10 s'],
    [5000, '40 s'],
  ]);
  benchSizes("rules like the demo's", (rules) => demoLikeChain(demo, rules), [
    [80, '3 s'],
    [500, '2 s'],
    [1000, null],
    [2000, '10 s'],
  ]);
}

function benchSizes(
  what: string,
  chainOf: (rules: number) => Chain,
  sizes: readonly (readonly [rules: number, wanted: string | null])[],
): void {
  const first: number[] = [];
  for (const [rules, wanted] of sizes) {
    const chain = chainOf(rules);
    const memory = new AuditMemory();
    const counts = new Map<string, number>();
    let unasked = 0;
    const took = [chain, edited(chain)].map((one) => {
      const atoms = evaluateAtoms(atomsOf(one), new MemoryColumns());
      const input = { chain: one, flow: runFlow(one, atoms, 0), atoms, mail: new MailGatherer().mail([]) };
      return seconds(() => {
        const result = auditChain(input, { memory });
        unasked = result.unasked;
        for (const { certainty } of result.findings) counts.set(certainty, (counts.get(certainty) ?? 0) + 1);
      });
    });
    first.push(took[0] ?? 0);
    figure(`all findings on ${rules} ${what}`, `${(took[0] ?? 0).toFixed(1)} s`, wanted ?? '');
    figure('  after one edit', `${(took[1] ?? 0).toFixed(1)} s`);
    figure('  by certainty', Array.from(counts, ([certainty, count]) => `${count} ${certainty}`).join(', '));
    figure('  pairs that are not settled', `${unasked} of ${(rules * (rules - 1)) / 2}`, '1%');
  }
  const growth = sizes.slice(1).flatMap(([rules], at) => {
    const [before] = sizes[at] ?? [0];
    return rules === 2 * before ? [(first[at + 1] ?? 0) / (first[at] ?? 1)] : [];
  });
  figure('growth: twice the rules take', growth.map((times) => times.toFixed(2)).join(', then '), 'at most 2.5 times');
}

/** With another ending of a rule in the middle. */
function edited(chain: Chain): Chain {
  const rule = chain.entries[chain.entries.length >> 1];
  if (rule?.kind !== 'rule') throw new Error('no rule in the middle');
  const to = rule.ending === 'stop' ? 'continue' : 'stop';
  const changed = applyEdit(chain, { kind: 'ending', id: rule.id, from: rule.ending, to });
  if (!changed.ok) throw new Error(changed.reason);
  return changed.chain;
}

/** Some rules switched off, some with another ending, some moved. */
function editsOf({ entries, ...rest }: Chain): Edit[] {
  return [7, 79, 151, 223, 295, 367, 439].flatMap((place): Edit[] => {
    const rule = entries[place];
    if (rule?.kind !== 'rule') return [];
    const { id, ending } = rule;
    const move = moveBefore({ entries, ...rest }, id, entries[(place * 7) % entries.length]?.id ?? null);
    return [
      { kind: 'switch', id, on: false },
      { kind: 'ending', id, from: ending, to: ending === 'stop' ? 'continue' : 'stop' },
      ...(move ? [move] : []),
    ];
  });
}
