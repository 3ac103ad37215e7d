import fc from 'fast-check';
import { expect, test } from 'vitest';
import { chainOf, smallFlow, smallRule } from '../agreement/small-chains';
import { Bitmap } from '../flow/bitmap';
import type { Flow } from '../flow/flow';
import { applyEdit, moveBefore } from '../rules/edit';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { elementAt } from '../text/lookup';
import { OrderTable } from './order-table';
import { PairTable } from './pair-table';

/** As if all rules overlapped. */
function tableOf({ entries }: Chain): { orders: OrderTable; pairs: PairTable } {
  const pairs = new PairTable(entries.length);
  for (let b = 0; b < entries.length; b++) for (let a = 0; a < b; a++) pairs.set(a, b, 'possible');
  return { orders: new OrderTable({ entries, closing: '' }, [...entries.keys()], pairs), pairs };
}

/** Messages that exactly the entries at these places match. */
function matchedByOnly({ entries, count }: Flow, places: readonly number[]): Bitmap {
  return entries.reduce(
    (left, { held }, place) => (places.includes(place) ? left.and(held) : left.without(held)),
    Bitmap.of(
      count,
      Array.from({ length: count }, (_, message) => message),
    ),
  );
}

function changedByMoving(chain: Chain, flow: Flow, a: number, b: number): Bitmap | null {
  const edit = moveBefore(chain, elementAt(chain.entries, b).id, elementAt(chain.entries, a).id);
  const moved = edit && applyEdit(chain, edit);
  return moved?.ok ? smallFlow(moved.chain).fates.differsFrom(flow.fates) : null;
}

test('what form tells of an order is so for all small messages', () => {
  const told = { alike: 0, alone: 0 };
  fc.assert(
    fc.property(fc.array(smallRule, { minLength: 2, maxLength: 5 }), (rules) => {
      const chain = chainOf(rules);
      const { orders } = tableOf(chain);
      const flow = smallFlow(chain);
      const lone = (rule: (typeof rules)[number] | undefined) => rule?.ending === 'stop';
      for (let b = 1; b < rules.length; b++) {
        for (let a = 0; a < b; a++) {
          const changed = changedByMoving(chain, flow, a, b);
          if (!changed) continue;
          const state = orders.byForm(a, b);
          const both = elementAt(flow.entries, a).held.and(elementAt(flow.entries, b).held);
          if (state === 'alike' && !both.isEmpty()) {
            expect([...both.and(changed).members()]).toEqual([]);
            told.alike++;
          }
          if (state !== 'alone') continue;
          const stopping = rules.flatMap((rule, place) => (place > a && place < b && lone(rule) ? [place] : []));
          const sets = [[a, b], ...stopping.map((place) => [a, place, b])].map((some) => matchedByOnly(flow, some));
          if (sets.every((some) => some.isEmpty())) continue;
          told.alone++;
          // One of the sets is what is meant; if none of its messages exists, nothing can be told.
          expect(sets.some((some) => some.without(changed).isEmpty())).toBe(true);
          if (lone(rules[a]) || lone(rules[b])) expect(sets[0]?.without(changed).isEmpty()).toBe(true);
        }
      }
    }),
    { numRuns: 4000 },
  );
  expect(told.alike).toBeGreaterThan(30);
  expect(told.alone).toBeGreaterThan(50);
});

test('what was found out about a pair replaces what form tells', () => {
  const { chain } = chainFromSieve(`require "fileinto";
if header :contains "subject" "oak" { fileinto "Oak"; stop; }
if header :contains "x-tag" "beam" { fileinto "Beams"; stop; }
if header :contains "x-tag" "lime" { fileinto "Beams"; stop; }
if header :contains "x-tag" "weir" { fileinto "Weir"; }
if header :contains "subject" "mill" { fileinto "Mill"; }
`);
  const { orders } = tableOf(chain);
  const states = () => orders.counts(() => {});
  expect(orders.at(1, 2)).toBe('alike');
  expect(orders.at(0, 1)).toBe('alone');
  // Neither stops, and nothing between them does.
  expect(orders.at(3, 4)).toBe('alike');
  expect(states()).toEqual({ alike: 2, conflict: 0, alone: 8, open: 0 });
  orders.set(0, 1, 'conflict');
  orders.set(0, 4, 'alike');
  expect(orders.at(0, 1)).toBe('conflict');
  expect(states()).toEqual({ alike: 3, conflict: 1, alone: 6, open: 0 });
});
