import { expect, test } from 'vitest';
import { chainFromSieve } from '../rules/from-sieve';
import type { Chain } from '../rules/rule';
import { AuditMemory } from './memory';
import { auditBudget, Questions } from './questions';

const chain = chainFromSieve(`require "fileinto";
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; stop; }
# Off
if header :contains "subject" "lime" { fileinto "Lime"; stop; }
# Beams
if header :contains "subject" "oak beams" { fileinto "Beams"; }
# Weir
if address :is "from" "weir@river.example" { fileinto "Weir"; }
`).chain;

const switched = (one: Chain, name: string, on: boolean): Chain => ({
  ...one,
  entries: one.entries.map((entry) => (entry.name === name ? { ...entry, on } : entry)),
});

test('a rule that is off in one chain and on in the other counts', () => {
  const off = switched(chain, 'Off', false);
  const questions = new Questions(off, auditBudget(4), new AuditMemory());
  expect(questions.maybeCompare(chain)?.verdict).toBe('different');
  expect(questions.maybeCompare(off)?.verdict).toBe('equivalent');
});

test('overlaps are looked at within a budget of pairs and of the messages they share', () => {
  const questions = new Questions(chain, { ...auditBudget(4), overlaps: 3, common: 100 }, new AuditMemory());
  expect([60, 50, 40].map((common) => questions.takeOverlap(common))).toEqual([true, false, true]);
  const few = new Questions(chain, { ...auditBudget(4), overlaps: 1, common: 100 }, new AuditMemory());
  expect([few.takeOverlap(1), few.mayTakeOverlap(1), few.takeOverlap(1)]).toEqual([true, false, false]);
});

test('what was compared costs nothing the second time, and is known after an edit of other rules', () => {
  const budget = { ...auditBudget(4), comparisons: 1 };
  const memory = new AuditMemory();
  const questions = new Questions(chain, budget, memory);
  const without = switched(chain, 'Beams', false);
  expect(questions.maybeCompare(without)?.verdict).toBe('equivalent');
  expect(questions.maybeCompare(without)?.verdict).toBe('equivalent');
  expect(questions.maybeCompare(switched(chain, 'Weir', false))).toBeNull();
  // A rule that excludes “Oak” and “Beams” together is not about mail that matches both.
  const excluding = chainFromSieve(`require "fileinto";
# None
if not header :contains "subject" "oak" { discard; stop; }
# Oak
if header :contains "subject" "oak" { fileinto "Oak"; stop; }
# Beams
if header :contains "subject" "oak beams" { fileinto "Beams"; }
`).chain;
  const pair = [1, 2];
  const longer = new Questions(excluding, budget, memory);
  longer.formulas.addExclusive(longer.condition(0), longer.condition(1));
  expect(longer.maybeCompare(switched(excluding, 'Beams', false), pair)?.verdict).toBe('equivalent');
  const edited = switched(excluding, 'None', false);
  const later = new Questions(edited, budget, memory);
  expect(later.maybeCompare(switched(edited, 'Oak', false))?.verdict).toBe('different');
  expect(later.maybeCompare(switched(edited, 'Beams', false), pair)?.verdict).toBe('equivalent');
});

test('the same pair of chains, asked about other mail, is another question', () => {
  const memory = new AuditMemory();
  const ordered = chainFromSieve(`require ["fileinto", "copy", "imap4flags"];
# One
if header :contains "subject" "oak" { fileinto :copy "Oak"; }
# Two
if header :contains "x-tag" "beam" { addflag "\\\\Flagged"; }
# Three
if header :contains "subject" "lime" { addflag "\\\\Flagged"; stop; }
`).chain;
  const questions = new Questions(ordered, auditBudget(3), memory);
  const without = switched(ordered, 'Three', false);
  // For mail about both, another rule has already set the flag.
  expect(questions.maybeCompare(without, [1, 2])?.verdict).toBe('equivalent');
  expect(questions.maybeCompare(without, [0, 2])?.verdict).toBe('different');
});
