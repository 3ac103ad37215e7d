import { describe, expect, test, vi } from 'vitest';
import { audit, fill, id, job, simulated, store, withAudit } from '../../../test/harness';
import { dateTest } from '../../core/repair/test-forms';
import { applyEdits, type Edit, moveBefore } from '../../core/rules/edit';
import { bodyTest } from '../../core/rules/known-comparisons';
import type { Rule, TestTree } from '../../core/rules/rule';
import { makeChange } from '../changes/changes';
import { maybeForesight } from '../changes/foresight-view';
import { previewView } from '../changes/view';
import { analyses, atoms } from '../database/schema';
import { forgetWorkedOut } from '../database/worked-out';
import { maybeHealth } from '../findings/health-view';
import { maybeFindings, unaudited } from '../findings/results';
import { editsShape, messageQueryShape, writtenShape } from '../http/shapes';
import { perform } from '../jobs/perform';
import { messagePage } from '../mail/list-view';
import { trialView, type Written } from './trial-view';

withAudit();

const about = (...keys: string[]): TestTree => ({
  kind: 'leaf',
  test: { test: 'header', headers: ['subject'], match: 'contains', comparator: 'i;ascii-casemap', keys },
});
const made = (change: Partial<Rule> = {}): Rule => ({
  kind: 'rule',
  id: 'new',
  name: 'Nothing',
  note: '',
  on: true,
  tests: about('nothing'),
  unless: [],
  actions: [{ action: 'fileinto', folder: 'Rest', copy: false, flags: null }],
  ending: 'stop',
  link: 'always',
  ...change,
});
const named = (name: string): Rule => {
  const found = audit().draft.entries.find((entry) => entry.name === name);
  if (found?.kind !== 'rule') throw new Error(`no rule ${name}`);
  return found;
};
const trial = (written: Partial<Written>) =>
  trialView(store, id, { rule: made(), begun: null, behind: null, ...written });

describe('a rule while it is written', () => {
  test('a new one: what it would do, and what no rule has taken', async () => {
    await fill();
    const last = named('Beams').id;
    const { sentence, faults, effect, text } = trial({ rule: made({ tests: about('nothing', 'oak') }), behind: last });
    expect(sentence).toBe('When the subject contains “nothing” or “oak”: file into “Rest”, then stop.');
    expect(text).toContain('fileinto "Rest";');
    expect(faults).toEqual([]);
    expect(effect).toMatchObject({ total: 5, held: 3, fires: 3, untaken: 1, gained: 3, lost: 0, changed: 3 });
    const [newest] = effect?.samples ?? [];
    expect(newest).toMatchObject({ part: 'gained', before: 'Inbox', after: 'Rest' });
    expect(newest?.evidence).toEqual(['Subject: “nothing” by “nothing”']);
  });

  test('a change: gained, lost and kept, against the rule as it was saved', async () => {
    await fill();
    const oak = named('Oak');
    const { effect } = trial({ rule: { ...oak, tests: about('nothing', 'oak beam') }, begun: oak });
    expect(effect).toMatchObject({ fires: 2, untaken: 1, gained: 1, lost: 1 });
    expect(effect?.samples.map(({ part, row }) => [part, row.subject])).toEqual([
      ['gained', 'nothing'],
      ['lost', 'oak'],
      ['kept', 'oak beam'],
    ]);
  });

  test('each of its numbers leads to its messages', async () => {
    await fill();
    const oak = named('Oak');
    const { edits, effect } = trial({ rule: { ...oak, tests: about('nothing', 'oak beam') }, begun: oak });
    const found = (query: Record<string, string>) => {
      const asked = messageQueryShape.parse({ trying: JSON.stringify(edits), ...query });
      return messagePage(store, id, asked).rows.map(({ subject }) => subject);
    };
    const does = (part: string) => found({ written: oak.id, does: part });
    expect(does('fired')).toEqual(['nothing', 'oak beam']);
    expect([does('untaken'), does('gained'), does('lost')]).toEqual([['nothing'], ['nothing'], ['oak']]);
    expect(found({})).toHaveLength(effect?.changed ?? -1);
    const { comparison } = previewView(store, id, edits ?? []);
    for (const { from, to, count } of comparison?.moves ?? []) {
      expect(found({ was: from, becomes: to, flags: '1' })).toHaveLength(count);
    }
    expect(found({ was: 'Oak', becomes: 'Inbox' })).toEqual(['oak']);
    // Looking at a saved rule changes nothing.
    const kept = messageQueryShape.parse({ trying: '[]', written: oak.id });
    expect(messagePage(store, id, kept).found).toBe(2);
    expect(messageQueryShape.safeParse({ trying: '[{"kind":"vanish"}]' }).success).toBe(false);
  });

  test('what it gives back makes the change, as an edit of the history', async () => {
    await fill();
    const oak = named('Oak');
    const written = writtenShape.parse({
      rule: { ...oak, name: 'Oak and lime', tests: about('oak', 'lime') },
      begun: oak,
      behind: null,
    });
    const { edits } = trialView(store, id, written);
    makeChange(store, id, editsShape.parse({ edits }).edits, '');
    expect(named('Oak and lime').tests).toEqual(about('oak', 'lime'));
    expect(trial({ rule: named('Oak and lime'), begun: named('Oak and lime') }).edits).toEqual([]);
  });

  test('at the head of the chain, and behind any entry', async () => {
    await fill();
    const places = [null, named('Weir').id, named('Beams').id].map((behind) => {
      const after = applyEdits(audit().draft, trial({ behind }).edits ?? []);
      return after.ok && after.chain.entries.findIndex((entry) => entry.id === 'new');
    });
    expect(places).toEqual([0, 1, 4]);
  });

  test('with a grave fault there is no change and no effect, but what it says so far', async () => {
    await fill();
    const half = trial({ rule: made({ name: '', tests: about() }) });
    expect(half).toMatchObject({ edits: null, effect: null });
    expect(half.faults.map(({ at }) => at)).toEqual(['name', 'tests']);
    expect(half.sentence).toContain('When the subject contains nothing');
  });

  test('words in the text are looked for at once; what only the interpreter can tell, by a job first', async () => {
    await fill();
    const texts = made({ tests: { kind: 'leaf', test: bodyTest({ match: 'contains', keys: ['words 4'] }) } });
    expect(trial({ rule: texts }).effect).toMatchObject({ fires: 1, untaken: 1 });
    const rule = made({ tests: { kind: 'leaf', test: dateTest({ relation: 'ge', day: '2026-01-05' }) } });
    const asked = trial({ rule });
    expect(asked.effect).toBeNull();
    await perform(store, job(), { kind: 'weigh', edits: asked.edits ?? [] });
    expect(trial({ rule }).effect).toMatchObject({ fires: 1, untaken: 1 });
  });

  test('a rule that was changed meanwhile is not written over', async () => {
    await fill();
    const oak = named('Oak');
    makeChange(store, id, [{ kind: 'ending', id: oak.id, from: 'continue', to: 'stop' }], '');
    expect(() => trial({ rule: { ...oak, name: 'Mine' }, begun: oak })).toThrow('changed in another window meanwhile');
  });

  test('a rule that has gone meanwhile', async () => {
    await fill();
    expect(() => trial({ begun: made({ id: 'gone' }) })).toThrow('no longer in the chain');
    expect(() => trial({ behind: 'gone' })).toThrow('no longer in the chain');
  });
});

describe('what a change would do to the findings', () => {
  const forBeams = (): Edit[] => {
    const { draft } = audit();
    const edit = moveBefore(draft, named('Flood').id, named('Weir').id);
    if (!edit) throw new Error('nothing is moved');
    return [edit];
  };

  test('is looked for by a job, and told as what it ends and brings', async () => {
    await fill();
    const edits = forBeams();
    expect(maybeForesight(store, id, edits)).toBeNull();
    await perform(store, job(), { kind: 'foresee', edits });
    const seen = maybeForesight(store, id, edits);
    expect(seen?.ended.map(({ kind }) => kind)).toContain('shadowed');
    expect([...(seen?.ended ?? []), ...(seen?.brought ?? [])].map(({ kind }) => kind)).not.toContain('overlap');
    // Previewing changes nothing.
    expect(audit().draft.entries[0]?.name).toBe('Weir');
    expect(maybeForesight(store, id, [{ kind: 'switch', id: named('Oak').id, on: false }])).toBeNull();
  });

  test('what was looked at long ago is forgotten, and the draft is not', async () => {
    await fill();
    for (let n = 0; n < 30; n++) {
      const oak = named('Oak');
      const { edits } = trial({ rule: { ...oak, name: `Oak ${n}` }, begun: oak });
      vi.setSystemTime(Date.UTC(2027, 0, 1, 0, n));
      await perform(store, job(), { kind: 'foresee', edits: edits ?? [] });
    }
    vi.useRealTimers();
    expect(store.select().from(analyses).all()).toHaveLength(25);
    expect(maybeFindings(store, audit(), audit().draft)).not.toBeNull();
    // What another thread has evicted is computed again, whatever this one still holds.
    store.delete(analyses).run();
    expect(maybeFindings(store, audit(), audit().draft)).toBeNull();
    await perform(store, job(), { kind: 'simulate' });
    expect(store.select().from(analyses).all()).toHaveLength(1);
    expect(maybeFindings(store, audit(), audit().draft)).not.toBeNull();
  });
});

test('what was never audited, or only by another build, is told apart from what has no findings', async () => {
  expect(unaudited(store)).toEqual([]);
  await fill();
  expect(unaudited(store)).toEqual([]);
  expect(maybeHealth(store, id)?.rules).toBe(4);
  forgetWorkedOut(store, null);
  expect(unaudited(store)).toEqual([]);
  forgetWorkedOut(store, 'abcdef0123');
  expect(store.select().from(analyses).all()).toEqual([]);
  expect(store.select().from(atoms).all()).toEqual([]);
  await simulated();
  forgetWorkedOut(store, 'abcdef0123');
  expect(unaudited(store)).toEqual([]);
  forgetWorkedOut(store, 'abcdef1123');
  vi.resetModules();
  const fresh = await import('../findings/results');
  expect(fresh.unaudited(store)).toEqual([id]);
  const { maybeHealth: anew } = await import('../findings/health-view');
  expect(anew(store, id)).toBeNull();
});
