import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { firing, traceMessage } from '../flow/trace';
import { weighCosts } from '../handover/costs';
import { prepareScript } from '../handover/prepare';
import { DEFAULT_CHOICES } from '../handover/rewrite';
import { READY_TARGETS } from '../handover/target';
import { readMessage } from '../mail/message';
import { compareChains } from '../reason/equivalence';
import { chainFromSieve } from '../rules/from-sieve';
import { contradictionsIn, inSieve, type Profile, SIEVE, withProfile } from '../rules/profile';
import { type Action, blankRule, type Chain, type Rule } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { ARRIVAL, worldFor } from '../sieve/interpret/world';
import { elementAt } from '../text/lookup';
import { profiles } from './arbitrary-profiles';

const NOWHERE = { from: null, to: null };
const NAMES = ['a', 'b', 'c', 'd'];
const exists = (name: string): Rule['tests'] => ({ kind: 'leaf', test: { test: 'exists', headers: [`x-${name}`] } });

const filing = fc.constantFrom('One', 'Two', 'Three').map((folder): Action => {
  return { action: 'fileinto', folder, copy: false, flags: null };
});
const action = fc.oneof(
  { weight: 4, arbitrary: filing },
  fc.constant<Action>({ action: 'keep', flags: null }),
  { weight: 2, arbitrary: fc.constant<Action>({ action: 'discard' }) },
  fc.constantFrom('$p', '$q').map((flag): Action => ({ action: 'addflag', flags: [flag] })),
  fc.constantFrom('x@y.example', 'z@y.example').map((address): Action => ({ action: 'redirect', address, copy: true })),
);
const rule = fc
  .record({
    names: fc.subarray(NAMES, { minLength: 1, maxLength: 2 }),
    kind: fc.constantFrom('all' as const, 'any' as const),
    unless: fc.subarray(NAMES, { maxLength: 1 }),
    actions: fc.uniqueArray(action, { minLength: 1, maxLength: 3, selector: ({ action: name }) => name }),
    ending: fc.constantFrom('continue' as const, 'stop' as const),
    on: fc.integer({ max: 5, min: 0 }).map((some) => some > 0),
  })
  .map(({ names, kind, unless, ...rest }) => ({
    ...rest,
    tests: { kind, children: names.map(exists) },
    unless: unless.map(exists),
  }));
const chains = fc.array(rule, { minLength: 1, maxLength: 5 }).map((rules): Chain => {
  return { closing: '', entries: rules.map((one, at): Rule => ({ ...blankRule(`r${at}`), name: `R${at}`, ...one })) };
});
/** Every message that has some of the fields. */
const MESSAGES = Array.from({ length: 2 ** NAMES.length }, (_, bits) => {
  const fields = NAMES.filter((_name, at) => bits & (1 << at));
  const text = `From: a@x.example\n${fields.map((name) => `X-${name}: y\n`).join('')}\nwords\n`;
  return { has: (name: string) => fields.includes(name), message: readMessage(new TextEncoder().encode(text)) };
});

/** What a program does, told without the translation: where a message ends, with which flags, and to whom it goes. */
function asTheProgram(rules: readonly Rule[], profile: Profile, has: (name: string) => boolean): string {
  const holds = (tree: Rule['tests']): boolean =>
    tree.kind === 'leaf'
      ? tree.test.test === 'exists' && has((tree.test.headers[0] ?? '').slice(2))
      : tree.kind === 'all'
        ? tree.children.every(holds)
        : tree.children.some(holds);
  const matching = rules.filter(({ on, tests, unless }) => on && holds(tests) && !unless.some(holds));
  const last = matching.findIndex(({ ending }) => ending === 'stop');
  const acting = {
    first: matching.slice(0, 1),
    all: matching,
    rule: last < 0 ? matching : matching.slice(0, last + 1),
  };
  const all = acting[profile.ending];
  const flags: string[] = [];
  const redirects = new Set<string>();
  const filed: { folder: string; flags: readonly string[]; deletes: boolean }[] = [];
  let leaves = false;
  for (const { actions } of all) {
    for (const one of actions) if (one.action === 'addflag') flags.push(...one.flags);
    const so = [...flags];
    const deletes = actions.some((one) => one.action === 'discard');
    const files = actions.some((one) => one.action === 'fileinto' || one.action === 'keep');
    for (const one of actions) {
      if (one.action === 'redirect') redirects.add(one.address);
      if (one.action === 'fileinto') filed.push({ folder: one.folder, flags: so, deletes: false });
      if (one.action === 'keep') filed.push({ folder: 'INBOX', flags: so, deletes: false });
    }
    if (deletes && !files)
      filed.push({ folder: profile.delete === 'bin' ? profile.bin : '', flags: so, deletes: true });
    // Where the inbox is a place of its own, it is left by discarding, whatever else is done.
    if (deletes) leaves = true;
  }
  const deleted = filed.filter((one) => one.deletes);
  let places = filed;
  if (profile.deleteWins && deleted.length > 0 && profile.ending !== 'first') places = deleted;
  else if (profile.places === 'first') places = filed.slice(0, 1);
  else if (profile.places === 'last') places = filed.slice(-1);
  const isOneThing =
    profile.ending === 'all' || (profile.ending === 'rule' && (profile.places !== 'several' || profile.deleteWins));
  const ends = new Map<string, readonly string[]>();
  for (const { folder, flags: own } of places) if (folder !== '') ends.set(folder, isOneThing ? flags : own);
  const stays = profile.inbox === 'place' ? !leaves : filed.length === 0;
  if (stays && !ends.has('INBOX')) ends.set('INBOX', flags);
  const told = Array.from(ends, ([folder, own]) => `${folder} ${[...new Set(own)].sort().join()}`).sort();
  return JSON.stringify([told, [...redirects].sort()]);
}

function asTheChain(chain: Chain): (message: (typeof MESSAGES)[number]) => string {
  const run = interpreter(sieveFromChain(chain).script);
  return ({ message }) => {
    const { deliveries, redirects } = run(message, NOWHERE).fate;
    const told = deliveries.map(({ folder, flags }) => `${folder} ${[...flags].sort().join()}`).sort();
    return JSON.stringify([told, [...redirects].sort()]);
  };
}

const under = (chain: Chain, profile: Profile): Chain => inSieve(withProfile(chain, profile)).chain;

const rulesOf = ({ entries }: Chain): Rule[] => entries.flatMap((entry) => (entry.kind === 'rule' ? [entry] : []));

describe('a chain under a profile', () => {
  test('does with every message what the program does', () => {
    fc.assert(
      fc.property(chains, profiles, (chain, profile) => {
        const fate = asTheChain(under(chain, profile));
        for (const message of MESSAGES) {
          expect(fate(message)).toBe(asTheProgram(rulesOf(chain), profile, message.has));
        }
      }),
      { numRuns: 400 },
    );
  });

  test('without an order does the same in any order', () => {
    const unordered = profiles.filter(({ order }) => order === 'none');
    const flagged = fc
      .tuple(chains, fc.array(fc.boolean(), { minLength: 5, maxLength: 5 }))
      .map(([chain, flags]): Chain => {
        const entries = rulesOf(chain).map((one, at) => ({
          ...one,
          actions: one.actions.map((own) =>
            own.action === 'fileinto' && flags[at] ? { ...own, flags: [`$${at}`] } : own,
          ),
        }));
        return { ...chain, entries };
      });
    const shuffled = flagged.chain((chain) =>
      fc
        .shuffledSubarray([...chain.entries], { minLength: chain.entries.length })
        .map((entries) => [chain, { ...chain, entries }] as const),
    );
    fc.assert(
      fc.property(shuffled, unordered, ([chain, other], profile) => {
        const fates = [chain, other].map((one) => asTheChain(under(one, profile)));
        for (const message of MESSAGES) expect(elementAt(fates, 1)(message)).toBe(elementAt(fates, 0)(message));
      }),
      { numRuns: 200 },
    );
  });

  test('is run alike by the flow engine and the interpreter, entry by entry', () => {
    const columns = new MemoryColumns();
    for (const { message } of MESSAGES) columns.add(message, NOWHERE);
    fc.assert(
      fc.property(chains, profiles, (plain, profile) => {
        const chain = withProfile(plain, profile);
        const flow = runFlow(chain, evaluateAtoms(atomsOf(chain), columns), columns.count);
        const fire = firing(chain);
        MESSAGES.forEach(({ message }, at) => {
          const { fate, fired } = fire(message, NOWHERE, worldFor(message, ARRIVAL));
          expect(fateKey(flow.fates.fateOf(at))).toBe(fateKey(fate));
          const acting = flow.entries.filter((one) => one.fired.has(at)).map(({ entry }) => entry.id);
          expect([...fired].map(({ id }) => id).sort()).toEqual(acting.sort());
          const traced = traceMessage(chain, message, NOWHERE).entries;
          const stopped = flow.entries.filter((one) => one.stopped.has(at)).map(({ entry }) => entry.id);
          expect(traced.filter((one) => one.stopped).map(({ entry }) => entry.id)).toEqual(stopped);
        });
      }),
      { numRuns: 200 },
    );
  });

  test('is proved to be its translation', () => {
    fc.assert(
      fc.property(chains, profiles, (plain, profile) => {
        const chain = withProfile(plain, profile);
        expect(compareChains(chain, inSieve(chain).chain).verdict).toBe('equivalent');
      }),
      { numRuns: 150 },
    );
  });

  test('is exported as a script that does the same, with its costs counted', () => {
    const columns = new MemoryColumns();
    for (const { message } of MESSAGES) columns.add(message, NOWHERE);
    let costly = 0;
    fc.assert(
      fc.property(chains, profiles, fc.constantFrom(...READY_TARGETS), (plain, profile, target) => {
        const chain = withProfile(plain, profile);
        const prepared = prepareScript(chain, target, DEFAULT_CHOICES);
        const flowOf = (one: Chain) => runFlow(one, evaluateAtoms(atomsOf(one), columns), columns.count);
        const { changed, undeclared } = weighCosts(chain, prepared, flowOf);
        expect(undeclared).toEqual([]);
        if (prepared.costs.length > 0) costly++;
        else expect(changed).toBe(0);
        const { verdict } = compareChains(chain, chainFromSieve(prepared.text).chain);
        if (prepared.costs.length === 0) expect(verdict).toBe('equivalent');
      }),
      { numRuns: 100 },
    );
    expect(costly).toBeGreaterThan(5);
  });

  test('is as it was for scripts in Sieve', () => {
    fc.assert(
      fc.property(chains, (chain) => {
        const same = under(chain, SIEVE);
        for (const message of MESSAGES) expect(asTheChain(same)(message)).toBe(asTheChain(chain)(message));
      }),
    );
  });

  test('takes the rules of a linked run as exceptions', () => {
    const [first, second] = ['a', 'b'].map((name): Rule => {
      return {
        ...blankRule(name),
        tests: exists(name),
        actions: [{ action: 'fileinto', folder: name, copy: false, flags: null }],
      };
    }) as [Rule, Rule];
    const linked: Chain = { closing: '', entries: [first, { ...second, link: 'otherwise' }] };
    const { entries } = under(linked, { ...SIEVE, ending: 'all' });
    expect(entries).toMatchObject([{ unless: [] }, { unless: [exists('a')], link: 'always' }]);
  });

  test('is refused where the profile contradicts itself', () => {
    expect(contradictionsIn(SIEVE)).toEqual([]);
    expect(contradictionsIn({ ...SIEVE, order: 'none', places: 'last' })).toHaveLength(2);
    expect(contradictionsIn({ ...SIEVE, inbox: 'place', places: 'first', delete: 'bin', bin: ' ' })).toHaveLength(2);
  });
});
