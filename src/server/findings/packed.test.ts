import fc from 'fast-check';
import { expect, test } from 'vitest';
import { given } from '../../../test/given';
import type { AuditResult } from '../../core/audit/catalogue';
import type { Finding } from '../../core/audit/finding';
import { packResult, readRepairs, readResult } from './packed';

const numbers = fc
  .oneof(
    fc.array(fc.integer({ min: 0, max: 400 }), { maxLength: 60 }),
    fc.array(fc.integer({ min: 0, max: 2 ** 31 - 1 }), { maxLength: 5 }),
  )
  .map((some) => [...new Set(some)].sort((a, b) => a - b));

const finding = fc.record<Finding>({
  key: fc.string(),
  kind: fc.constantFrom('overlap', 'runs-on'),
  rules: fc.array(fc.string(), { maxLength: 2 }),
  certainty: fc.constantFrom('proved', 'shown'),
  consequence: fc.constantFrom('lost', 'clutter'),
  claim: fc.string({ unit: 'grapheme' }),
  messages: numbers,
  witness: fc.option(fc.record({ open: fc.string(), size: fc.nat(), from: fc.constant(null), to: fc.string() })),
  strength: fc.option(fc.record({ part: fc.nat(), whole: fc.nat(), words: fc.string() })),
  repairs: fc.array(
    fc.record({
      title: fc.string(),
      edits: fc.array(fc.record({ kind: fc.constant('switch' as const), id: fc.string(), on: fc.boolean() })),
    }),
    { maxLength: 3 },
  ),
});

const result = fc
  .record({ some: fc.array(finding, { maxLength: 5 }), times: fc.integer({ min: 1, max: 150 }) })
  // Findings in several pieces, many of which share their messages.
  .map(({ some, times }): AuditResult => {
    const findings = Array.from({ length: times }, () => some).flat();
    return {
      findings,
      overlaps: [{ a: 'a', b: 'b', messages: 3 }],
      unasked: 4,
      unlisted: 6,
      notes: ['a note'],
      orders: { alike: 1, conflict: 2, alone: 3, open: 4 },
    };
  });

test('what is kept of findings is read again, with the repairs of each', () => {
  fc.assert(
    fc.property(result, fc.nat(), (whole, at) => {
      const { statements, repairs } = packResult(whole, () => {});
      const findings = whole.findings.map(({ repairs: _, ...statement }) => statement);
      expect(readResult(statements)).toEqual({ ...whole, findings });
      const place = at % Math.max(1, whole.findings.length);
      expect(readRepairs(repairs, place)).toEqual(whole.findings[place]?.repairs ?? []);
    }),
  );
});

test('writing findings down can be cancelled', () => {
  const one = given(fc.sample(finding, 1)[0]);
  const findings = Array.from({ length: 1000 }, () => one);
  let calls = 0;
  const cancel = () => {
    if (++calls === 3) throw new Error('cancelled');
  };
  expect(() =>
    packResult(
      {
        findings,
        overlaps: [],
        unasked: 0,
        unlisted: 0,
        notes: [],
        orders: { alike: 0, conflict: 0, alone: 0, open: 0 },
      },
      cancel,
    ),
  ).toThrow('cancelled');
});
