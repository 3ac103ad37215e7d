import fc from 'fast-check';
import { XMLValidator } from 'fast-xml-parser';
import { expect, test } from 'vitest';
import { type Report, reportHtml, reportMarkdown } from './report';

const HOSTILE = [
  '<script>alert(1)</script>',
  '"><img src=x onerror=alert(1)>',
  '| a | [x](javascript:y) `z`',
  '\u0000\u001b[2J',
  '-->',
  '# x\n\n## y',
];

const reportOf = (text: string): Report => ({
  title: text,
  date: '1 January 2026',
  total: 5,
  sent: 0,
  plan: [{ part: 'mend', words: text, why: text, effect: text, ends: 3 }],
  answers: [text],
  declined: [{ title: text, reason: text }],
  gate: [{ what: text, state: text }],
  rules: [{ number: 1, name: text, on: false, says: [0, 1, 9].map((depth) => ({ depth, text })), fired: 2 }],
  findings: [{ kind: text, consequence: text, claim: text, certainty: 'proved', evidence: '2 messages', aside: text }],
  changes: [{ words: text, why: text, effect: text }],
  moves: [{ from: text, to: text, count: 1 }],
  target: text,
  requires: [text],
  costs: [],
  verification: [text],
  steps: [{ title: text, before: text, after: text }],
  leftOut: '',
});

test('nothing that a rule or a message says is markup in a page', () => {
  fc.assert(
    fc.property(fc.oneof(fc.constantFrom(...HOSTILE), fc.string({ unit: 'binary' })), (text) => {
      const page = reportHtml(reportOf(text.replace(/[\ud800-\udfff\ufffe\uffff]/g, '')));
      expect(page.match(/<(script|img|a|iframe|link)\b/i)).toBeNull();
      expect(page.match(/<h2>/g)).toHaveLength(11);
      expect(XMLValidator.validate(page.replace(/<meta [^>]*>/g, '').replace('<!doctype html>', ''))).toBe(true);
    }),
  );
});

test('nor in Markdown, where each row stays one', () => {
  fc.assert(
    fc.property(fc.oneof(fc.constantFrom(...HOSTILE), fc.string()), (text) => {
      const lines = reportMarkdown(reportOf(text)).split('\n');
      expect(lines.filter((line) => line.startsWith('## '))).toHaveLength(11);
      expect(lines.filter((line) => line.startsWith('# '))).toHaveLength(1);
      for (const line of lines.filter((one) => one.startsWith('| '))) {
        expect(line.replace(/\\.|<br>/g, '').match(/[<[`]/)).toBeNull();
      }
    }),
  );
});

test('what a rule says in several lines stands below each other, as deep as it is', () => {
  const says = [
    { depth: 0, text: 'When all of these match:' },
    { depth: 1, text: 'the size is over 2 MB' },
    { depth: 0, text: 'Then discard.' },
  ];
  const report: Report = { ...reportOf('x'), rules: [{ number: 1, name: 'Oak', on: true, says, fired: null }] };
  expect(reportHtml(report)).toContain('<div class="in0">When all of these match:</div><div class="in1">the size');
  expect(reportMarkdown(report)).toContain(
    'When all of these match:<br>&nbsp;&nbsp;&nbsp;&nbsp;the size is over 2 MB<br>Then discard.',
  );
});

test('what is empty is said', () => {
  const page = reportHtml({
    ...reportOf('x'),
    plan: [],
    answers: [],
    declined: [],
    gate: [],
    findings: [],
    changes: [],
    moves: [],
    verification: [],
  });
  for (const words of [
    'No step of a plan was carried out.',
    'No question was answered.',
    'no expectations, no probes and no grave findings',
    'There are no findings.',
    'No rule was changed.',
    'different destination',
    'was not verified',
    'exported unchanged',
  ]) {
    expect(page).toContain(words);
  }
});
