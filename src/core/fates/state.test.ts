import fc from 'fast-check';
import { expect, test } from 'vitest';
import { FateBuilder, fateKey, KEPT, normalFlags, type Taken } from '../sieve/interpret/fate';
import { ScriptError } from '../sieve/interpret/run';
import { changeFlags } from '../sieve/language/actions/flags';
import { type Algebra, FateState } from './state';

/** The smallest algebra: a single message, present or not. */
const ONE: Algebra<boolean> = {
  none: false,
  all: true,
  and: (a, b) => a && b,
  or: (a, b) => a || b,
  without: (a, b) => a && !b,
  shrunk: (a, b) => a && !b,
  isNone: (a) => !a,
  begin: () => false,
  adding: (collection, more) => collection || more,
  removing: (collection, less) => collection && !less,
  replacing: (collection, where, model) => (where ? model : collection),
};

const flags = fc.subarray(['\\Seen', 'oak', 'a b', '']);
const folder = fc.constantFrom('Oak', 'inbox', 'Elm');
const taken: fc.Arbitrary<Taken> = fc.oneof(
  fc.record({ action: fc.constant('keep' as const), flags: fc.option(flags) }),
  fc.record({ action: fc.constant('fileinto' as const), folder, copy: fc.boolean(), flags: fc.option(flags) }),
  fc.record({
    action: fc.constant('redirect' as const),
    address: fc.constantFrom('a@Mill.example', 'a@mill.example'),
    copy: fc.boolean(),
  }),
  fc.constant<Taken>({ action: 'discard' }),
  fc.record({ action: fc.constant('reject' as const), reason: fc.constantFrom('reject "a"', 'ereject "b"') }),
  fc.record({
    action: fc.constant('reply' as const),
    by: fc.constantFrom('vacation' as const, 'notify' as const),
    line: fc.option(fc.constantFrom('reply 1', 'reply 2')),
  }),
  fc.record({ action: fc.constantFrom('setflag' as const, 'addflag' as const, 'removeflag' as const), flags }),
);

/** The fate of one message by the table of actions. */
function byTable(actions: readonly Taken[]): string {
  const state = new FateState(ONE);
  for (const action of actions) state.act(action, state.alive);
  state.finish();
  const there = (parts: ReadonlyMap<string, boolean>) => [...parts].flatMap(([name, is]) => (is ? [name] : []));
  const deliveries = [...state.folders].flatMap(([name, fate]) =>
    fate.messages ? [{ folder: name, flags: there(fate.flags).sort() }] : [],
  );
  const [refusal = null] = there(state.refusals);
  const [redirects, replies] = [there(state.redirects), there(state.replies)];
  return fateKey({ deliveries, redirects, rejected: refusal !== null, refusal, replies });
}

/** The fate that the interpreter collects for a single message. */
function byBuilder(actions: readonly Taken[]): string {
  const builder = new FateBuilder();
  let held: readonly string[] = [];
  try {
    for (const action of actions) {
      const given = 'flags' in action && action.flags !== null ? { flags: normalFlags(action.flags) } : {};
      builder.take({ ...action, ...given } as Taken, held);
      if (action.action === 'setflag' || action.action === 'addflag' || action.action === 'removeflag') {
        held = changeFlags(action.action, held, normalFlags(action.flags));
      }
    }
    return fateKey(builder.finish(held));
  } catch (error) {
    if (error instanceof ScriptError) return fateKey(KEPT);
    throw error;
  }
}

test('whatever is done with a message, the table of actions and the interpreter come to the same fate', () => {
  fc.assert(
    fc.property(fc.array(taken, { maxLength: 6 }), (actions) => {
      expect(byTable(actions)).toBe(byBuilder(actions));
    }),
    { numRuns: 3000 },
  );
});

test('nothing is done with what is not there, and what is stopped stays stopped', () => {
  const state = new FateState(ONE);
  state.act({ action: 'discard' }, false);
  state.stop(true);
  state.act({ action: 'fileinto', folder: 'Oak', copy: false, flags: null }, state.alive);
  state.finish();
  expect([...state.folders.keys()]).toEqual(['INBOX']);
  expect(state.somewhere()).toBe(true);
});
