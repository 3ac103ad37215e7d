import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { readMessage } from '../mail/message';
import { fateKey } from '../sieve/interpret/fate';
import { Bitmap } from './bitmap';
import { MemoryColumns } from './columns';
import { evaluateOpaque, opaqueKey, outcomeKey, outcomePrefix, readOutcome } from './opaque';
import { BitmapAlgebra, FlowState } from './state';

const COUNT = 700;
const members = fc.uniqueArray(fc.nat(COUNT - 1), { maxLength: 4 });
const listed = (bitmap: Bitmap) => [...bitmap.members()];
const ascending = (numbers: Iterable<number>) => [...new Set(numbers)].sort((a, b) => a - b);

describe('sets of messages as an algebra', () => {
  test('are what sets are, in both forms', () => {
    fc.assert(
      fc.property(members, members, members, fc.boolean(), fc.boolean(), (a, b, c, noteA, noteB) => {
        const algebra = new BitmapAlgebra(COUNT);
        const set = (numbers: readonly number[], noted: boolean) => {
          const bitmap = Bitmap.of(COUNT, [...numbers]);
          return noted ? bitmap.compact() : bitmap;
        };
        const [x, y, z] = [set(a, noteA), set(b, noteB), set(c, true)];
        expect(listed(algebra.and(x, y))).toEqual(ascending(a.filter((one) => b.includes(one))));
        expect(listed(algebra.or(x, y))).toEqual(ascending([...a, ...b]));
        expect(listed(algebra.without(x, y))).toEqual(ascending(a.filter((one) => !b.includes(one))));
        expect(listed(algebra.shrunk(x, y))).toEqual(listed(algebra.without(x, y)));
        expect(algebra.isNone(algebra.and(x, y))).toBe(!a.some((one) => b.includes(one)));
        const collected = algebra.removing(algebra.adding(algebra.adding(algebra.begin(), x), y), z);
        expect(listed(collected)).toEqual(ascending([...a, ...b].filter((one) => !c.includes(one))));
        const replaced = algebra.replacing(collected, x, z);
        expect(listed(replaced)).toEqual(
          ascending([
            ...[...a, ...b].filter((one) => !c.includes(one) && !a.includes(one)),
            ...a.filter((one) => c.includes(one)),
          ]),
        );
        // The original set does not change.
        expect([listed(x), listed(y), listed(z)]).toEqual([a, b, c].map(ascending));
      }),
    );
  });
});

describe('fates of messages', () => {
  const of = (...numbers: number[]) => Bitmap.of(4, numbers);
  const filed = () => {
    const state = new FlowState(4, of(0, 1, 2));
    state.act({ action: 'fileinto', folder: 'Oak', copy: false, flags: ['\\Seen'] }, of(0));
    state.act({ action: 'discard' }, of(1));
    state.act({ action: 'redirect', address: 'a@b.example', copy: true }, of(2));
    state.finish();
    return state;
  };

  test('each as the interpreter tells it; what takes no part has none', () => {
    const state = filed();
    expect(fateKey(state.fateOf(0))).toBe(
      fateKey({
        deliveries: [{ folder: 'Oak', flags: ['\\seen'] }],
        redirects: [],
        rejected: false,
        refusal: null,
        replies: [],
      }),
    );
    expect(state.fateOf(2)).toMatchObject({ deliveries: [{ folder: 'INBOX' }], redirects: ['a@b.example'] });
    expect(listed(state.dropped())).toEqual([1]);
    expect(state.fateOf(3).deliveries).toEqual([]);
  });

  test('of all messages at once are those of each', () => {
    const all = (state: FlowState) => expect(state.allFates()).toEqual([0, 1, 2, 3].map((one) => state.fateOf(one)));
    all(filed());
    const actions = fc.constantFrom<Parameters<FlowState['act']>[0]>(
      { action: 'keep', flags: ['\\Seen', 'b', 'a'] },
      { action: 'keep', flags: null },
      { action: 'fileinto', folder: 'Oak', copy: true, flags: null },
      { action: 'fileinto', folder: 'Elm', copy: false, flags: ['a'] },
      { action: 'redirect', address: 'a@b.example', copy: false },
      { action: 'reject', reason: 'no' },
      { action: 'reject', reason: 'never' },
      { action: 'addflag', flags: ['x', 'b'] },
      { action: 'removeflag', flags: ['b'] },
      { action: 'discard' },
    );
    const acts = fc.array(fc.tuple(actions, fc.uniqueArray(fc.nat(2))), { maxLength: 8 });
    fc.assert(
      fc.property(acts, (done) => {
        const state = new FlowState(4, of(0, 1, 2));
        for (const [action, messages] of done) state.act(action, of(...messages));
        state.finish();
        all(state);
      }),
    );
  });

  test('two differ where a folder, a flag, an address, a reply or a refusal does', () => {
    const [state, same] = [filed(), filed()];
    expect(state.differsFrom(same).isEmpty()).toBe(true);
    const other = new FlowState(4, of(0, 1, 2));
    other.act({ action: 'fileinto', folder: 'Oak', copy: false, flags: ['\\Flagged'] }, of(0));
    other.act({ action: 'redirect', address: 'a@c.example', copy: true }, of(2));
    other.finish();
    expect(listed(state.differsFrom(other))).toEqual([0, 1, 2]);
    expect(listed(other.differsFrom(state))).toEqual([0, 1, 2]);
  });
});

describe('what only the interpreter can run', () => {
  const messages = ['oak', 'elm', 'weir'].map((subject) =>
    readMessage(Buffer.from(`From: a@b.example\r\nSubject: ${subject}\r\n\r\ntext of ${subject}\r\n`)),
  );
  const columns = new MemoryColumns();
  for (const message of messages) columns.add(message, { from: 'a@b.example', to: 'me@b.example' });
  const run = (text: string, requires: readonly string[] = [], before?: string) => {
    const atom = { test: 'script' as const, text, requires, ...(before === undefined ? {} : { before }) };
    const key = opaqueKey(atom);
    const found = evaluateOpaque([atom], columns, { fixed: null, otherwise: 0 }, () => {});
    return { key, found };
  };

  test('a script has one set for each of its outcomes, and one of all that it was run on', () => {
    const { key, found } = run(
      'if header :is "subject" "oak" { discard; stop; } if header :is "subject" "elm" { keep; }',
    );
    expect(listed(found.get(key) ?? new Bitmap(3))).toEqual([0, 1, 2]);
    const outcomes = [...found].filter(([name]) => name.startsWith(outcomePrefix(key)));
    const told = outcomes.map(([name, set]) => [readOutcome(name).taken.map(({ action }) => action), listed(set)]);
    expect(told).toEqual([
      [['discard'], [0]],
      [['keep'], [1]],
      [[], [2]],
    ]);
    const [first] = outcomes;
    expect(first && outcomeKey(key, readOutcome(first[0]))).toBe(first?.[0]);
  });

  test('the order in which words are required does not matter, what runs before it does', () => {
    const key = (requires: string[], before?: string) => run('keep;', requires, before).key;
    expect(key(['variables', 'fileinto'])).toBe(key(['fileinto', 'variables']));
    expect(key([], 'addflag "x";')).not.toBe(key([]));
  });
});
