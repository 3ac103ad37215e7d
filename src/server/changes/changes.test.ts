import { describe, expect, test } from 'vitest';
import { given, ruleAt } from '../../../test/given';
import { audit, fill, id, job, simulated, store, withAudit } from '../../../test/harness';
import type { Expectation } from '../../core/repair/expectations';
import type { Edit } from '../../core/rules/edit';
import type { Rule } from '../../core/rules/rule';
import { maybeFlow } from '../chain/simulation';
import { answers } from '../database/schema';
import { findingView } from '../findings/finding-view';
import { messageQueryShape } from '../http/shapes';
import { perform } from '../jobs/perform';
import { messagePage } from '../mail/list-view';
import { keepProbe } from '../mail/probes';
import { history, makeChange, takingBack, undo } from './changes';
import { dropExpectation, keepExpectation, listExpectations, standings } from './expectations';
import { maybeForesight } from './foresight-view';
import { maybeVerdict } from './verdicts';
import { chainAt, dropVersion, editsTo, keepVersion, listVersions } from './versions';
import { changesView, previewView } from './view';

withAudit();

const off = (rule: string): Edit => ({ kind: 'switch', id: rule, on: false });
const stop = (rule: string): Edit => ({ kind: 'ending', id: rule, from: 'continue', to: 'stop' });
const rule = (name: string) => ruleAt(audit().draft.entries, name);
const found = (query: object) => messagePage(store, id, messageQueryShape.parse(query)).found;

describe('repairs of a finding', () => {
  test('are tried beforehand, and offered in the order of what they were seen to do', async () => {
    await fill();
    const before = findingView(store, id, 'runs-on r3 r4');
    expect(before?.repairs.map(({ trial }) => trial)).toEqual(before?.repairs.map(() => null));
    await perform(store, job(), { kind: 'repairs', finding: 'runs-on r3 r4' });
    const after = findingView(store, id, 'runs-on r3 r4');
    const trials = after?.repairs.map(({ trial }) => trial) ?? [];
    expect(trials.every((trial) => trial?.ends)).toBe(true);
    expect(trials[0]).toMatchObject({ worse: [], breaks: [], verdict: { verdict: 'different' } });
    expect(after?.repairs[0]?.title).toBe('Add an exception to “Beams” for mail that matches “Oak”');
  });
  test('a change that alters nothing is said to, for all possible messages', async () => {
    await fill();
    // A rule that never acts is switched off.
    await perform(store, job(), { kind: 'foresee', edits: [off('r2')] });
    expect(maybeForesight(store, id, [off('r2')])?.verdict).toEqual({ verdict: 'equivalent', assumes: [] });
  });
});

describe('expectations', () => {
  const expectation: Expectation = {
    name: 'Oak is kept in sight',
    tests: {
      kind: 'leaf',
      test: { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap', keys: ['beam'] },
    },
    must: { must: 'end in', folder: 'Beams' },
  };

  test('are checked on stored mail, on probes and for all messages', async () => {
    await fill();
    const kept = keepExpectation(store, id, expectation);
    keepProbe(store, id, 'weir', Buffer.from('From: a@x.example\nSubject: beam at the weir\n\n\n'), null);
    await simulated();
    const [standing] = standings(store, audit(), audit().draft, maybeFlow(store, audit(), audit().draft));
    expect(standing?.stored?.about.count()).toBe(1);
    expect(standing?.stored?.broken.isEmpty()).toBe(true);
    expect(standing?.probes).toEqual(['weir']);
    expect(standing?.reasoned?.verdict).toBe('broken');
    expect([found({ about: kept }), found({ breaks: kept })]).toEqual([1, 0]);
    expect(() => keepExpectation(store, id, { ...expectation, name: ' ' })).toThrow('no name');
    dropExpectation(store, id, kept);
    expect(listExpectations(store, id)).toEqual([]);
    expect(() => dropExpectation(store, id, kept)).toThrow('no such');
  });

  test('stop a change that breaks one on stored mail, and say which; what is broken already stops nothing', async () => {
    await fill();
    keepExpectation(store, id, expectation);
    await simulated();
    expect(previewView(store, id, [stop('r3')]).broken).toMatchObject([{ name: expectation.name, messages: [2] }]);
    expect(() => makeChange(store, id, [stop('r3')], '')).toThrow('breaks the expectation “Oak is kept in sight”');
    expect(history(store, id)).toEqual([]);
    makeChange(store, id, [off('r1')], '');
  });

  test('stop a change that no stored message shows to break one, where it was proved before', async () => {
    await fill();
    const must = { must: 'not be dropped' } as const;
    keepExpectation(store, id, { ...expectation, must });
    await simulated();
    const dropping: Edit = {
      kind: 'rewrite',
      from: 4,
      before: [],
      after: [
        {
          ...rule('Weir'),
          id: 'new',
          name: 'Drop',
          tests: { kind: 'leaf', test: { test: 'exists', headers: ['x-none'] } },
          actions: [{ action: 'discard' }],
        },
      ],
      closing: { before: '', after: '' },
    };
    const inFront = { ...dropping, from: 0 };
    const [broken] = previewView(store, id, [inFront]).broken;
    // The tests of a preview must have been evaluated.
    expect(broken).toBeUndefined();
    await perform(store, job(), { kind: 'foresee', edits: [inFront] });
    expect(previewView(store, id, [inFront]).broken).toMatchObject([
      { messages: [], witness: { open: expect.stringContaining('X-None') } },
    ]);
    expect(() => makeChange(store, id, [inFront], '')).toThrow('breaks the expectation');
    // After all others it discards nothing that they file.
    await perform(store, job(), { kind: 'foresee', edits: [dropping] });
    expect(previewView(store, id, [dropping]).broken).toEqual([]);
  });
});

describe('changes', () => {
  test('one in the middle is taken back, where no later one builds on it', async () => {
    await fill();
    makeChange(store, id, [stop('r3')], 'first');
    makeChange(store, id, [off('r1')], 'second');
    const [first] = history(store, id);
    const { edits, words } = takingBack(store, audit(), given(first).id);
    expect(words).toBe('Undo: Let “Oak” stop');
    makeChange(store, id, edits, '', words);
    expect([rule('Oak').ending, rule('Weir').on]).toEqual(['continue', false]);
    expect(history(store, id).at(-1)?.words).toBe(words);
    expect(undo(store, id)).toBe(true);
    expect(rule('Oak').ending).toBe('stop');
  });

  test('one that a later one builds on cannot be, and it is said why', async () => {
    await fill();
    const entry = rule('Beams');
    const rewrite = (before: Rule, after: Rule): Edit => ({
      kind: 'rewrite',
      from: 3,
      before: [before],
      after: [after],
      closing: { before: '', after: '' },
    });
    const second = { ...entry, tests: rule('Oak').tests };
    makeChange(store, id, [rewrite(entry, second)], '');
    makeChange(store, id, [rewrite(second, { ...second, tests: rule('Weir').tests })], '');
    const [first] = history(store, id);
    expect(() => takingBack(store, audit(), given(first).id)).toThrow('the tests of “Beams”');
    expect(() => takingBack(store, audit(), 99)).toThrow('no such change');
  });

  test('each has its part in what ends elsewhere, and the matrix counts every message', async () => {
    await fill();
    makeChange(store, id, [{ kind: 'move', ids: ['r2'], from: 1, to: 0, withinRun: false }], '');
    makeChange(store, id, [stop('r3')], '');
    const { matrix, comparison, byRule, history: lines } = changesView(store, id);
    expect(comparison?.changed).toBe(2);
    expect(matrix).toEqual({
      from: ['Weir', 'Beams + Oak'],
      to: ['Inbox', 'Oak'],
      counts: [
        [1, 0],
        [0, 1],
      ],
    });
    expect(lines.map(({ responsible }) => responsible)).toEqual([1, 1]);
    expect(byRule.map(({ name, count }) => `${name} ${count}`).sort()).toEqual(['Beams 1', 'Flood 1', 'Weir 1']);
    expect(found({ was: 'Weir', becomes: 'Inbox', between: 'baseline..draft' })).toBe(1);
    expect(found({ mover: 'r4', between: 'baseline..draft' })).toBe(1);
    expect(found({ change: lines[0]?.id })).toBe(1);
  });
});

describe('versions', () => {
  test('are kept, compared, gone back to, and removed', async () => {
    await fill();
    makeChange(store, id, [stop('r3')], '');
    const kept = keepVersion(store, id, 'with an end');
    makeChange(
      store,
      id,
      [{ kind: 'list', id: 'l', from: null, to: { id: 'l', name: 'Team', keys: ['a@x.example'] } }],
      '',
    );
    makeChange(store, id, [off('r3')], '');
    expect(listVersions(store, id)).toMatchObject([{ id: kept, name: 'with an end', rules: 4 }]);
    await perform(store, job(), { kind: 'compare', before: kept, after: 'draft' });
    const view = changesView(store, id, kept, 'draft');
    expect(view.names).toEqual(['“with an end”', 'the draft']);
    expect(view.comparison?.changed).toBe(2);
    expect(view.verdict).toMatchObject({ verdict: 'different' });
    expect(view.texts).not.toBeNull();
    makeChange(store, id, editsTo(audit(), chainAt(store, audit(), kept)), '', 'Go back');
    expect(audit().draft.entries).toEqual(chainAt(store, audit(), kept).entries);
    expect(audit().draft.lists).toEqual([]);
    expect(editsTo(audit(), chainAt(store, audit(), kept))).toEqual([]);
    expect(undo(store, id)).toBe(true);
    expect(rule('Oak').on).toBe(false);
    dropVersion(store, id, kept);
    expect(listVersions(store, id)).toEqual([]);
    expect(() => changesView(store, id, kept, 'draft')).toThrow('no such version');
  });

  test('a comparison of two chains is kept until it is old', async () => {
    await fill();
    makeChange(store, id, [off('r2')], '');
    expect(maybeVerdict(store, audit(), audit().baseline, audit().draft)).toBeNull();
    await simulated();
    expect(maybeVerdict(store, audit(), audit().baseline, audit().draft)).toEqual({
      verdict: 'equivalent',
      assumes: [],
    });
    expect(store.select().from(answers).all()).toHaveLength(1);
  });
});
