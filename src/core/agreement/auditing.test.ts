import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { given } from '../../../test/given';
import { type AuditSettings, auditChain } from '../audit/catalogue';
import { type Finding, textOf } from '../audit/finding';
import { isConfirmed } from '../audit/grouping';
import { AuditMemory } from '../audit/memory';
import { auditBudget } from '../audit/questions';
import { MailGatherer } from '../audit/stored';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { type EntryFlow, runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { type MailMessage, readMessage } from '../mail/message';
import { endedBy } from '../plan/ended';
import { compareChains } from '../reason/equivalence';
import { Reach } from '../reason/reach';
import { applyEdit, applyEdits, moveBefore } from '../rules/edit';
import { type Action, type Chain, type ChainEntry, conditionOf, looksAtFlags, type Rule } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { fateKey } from '../sieve/interpret/fate';
import { interpreter } from '../sieve/interpret/interpret';
import { parse } from '../sieve/parse';
import { elementAt, ownJson } from '../text/lookup';
import { brokenBy, chainOf, SMALL_ENVELOPE, SMALL_MESSAGES, smallFlow, smallRule } from './small-chains';

/**
 * Findings of audits without mail on random chains, compared with all small messages; and the effects of their repairs.
 */

/** More with CHAINS=20000 npx vitest run src/core/agreement/auditing.test.ts */
const CHAINS = Number(process.env.CHAINS ?? 250);

function audited(
  chain: Chain,
  mail: readonly MailMessage[] = [],
  settings: AuditSettings = { memory: new AuditMemory() },
): readonly Finding[] {
  const { flow, atoms } = flowOf(chain, mail);
  const gatherer = new MailGatherer();
  for (const message of mail) gatherer.add({ message, folder: null, flags: [] });
  return auditChain({ chain, flow, atoms, mail: gatherer.mail([]) }, settings).findings;
}

function flowOf(chain: Chain, messages: readonly MailMessage[]) {
  const columns = new MemoryColumns();
  for (const message of messages) columns.add(message, SMALL_ENVELOPE);
  const atoms = evaluateAtoms(atomsOf(chain), columns);
  return { flow: runFlow(chain, atoms, columns.count), atoms };
}

function fatesOf(chain: Chain, messages: readonly MailMessage[]): string[] {
  const run = interpreter(parse(sieveFromChain(chain).text).script);
  return messages.map((message) => fateKey(run(message, SMALL_ENVELOPE).fate));
}

const withoutRule = (chain: Chain, id: string): Chain => ({
  ...chain,
  entries: chain.entries.map((entry) => (entry.id === id ? { ...entry, on: false } : entry)),
});

function withOtherEnding(chain: Chain, id: string): Chain {
  const entries = chain.entries.map((entry): ChainEntry => {
    if (entry.kind !== 'rule' || entry.id !== id) return entry;
    return { ...entry, ending: entry.ending === 'stop' ? 'continue' : 'stop' };
  });
  return { ...chain, entries };
}

/** Ids of the rules that fire on a message, small or not. */
function firing(chain: Chain): ReadonlySet<string> {
  const reach = new Reach(chain);
  const fires = chain.entries.filter((_, place) => {
    const answer = reach.canFire(place);
    return answer.answer === 'possible' && flowOf(chain, [answer.witness.message]).flow.entries[place]?.fired.has(0);
  });
  return new Set(fires.map(({ id }) => id));
}

const looksAtNoFlags = (chain: Chain): boolean =>
  !chain.entries.some((entry) => entry.kind === 'rule' && looksAtFlags(conditionOf(entry)));

const read = (text: string): MailMessage => readMessage(new TextEncoder().encode(text));

describe('an audit, against all small messages', () => {
  test('overlaps, order conflicts, rules that add nothing, and what is proved', { timeout: CHAINS * 1000 }, () => {
    const counts = new Map<string, number>();
    const verdicts = new Map<string, number>();
    fc.assert(
      fc.property(fc.array(smallRule, { minLength: 2, maxLength: 8 }), (rules) => {
        const chain = chainOf(rules);
        const findings = audited(chain);
        const stated = new Set(findings.map(({ key }) => key));
        const shownToFire = firing(chain);
        for (const { kind, certainty } of findings) {
          counts.set(`${kind} ${certainty}`, (counts.get(`${kind} ${certainty}`) ?? 0) + 1);
        }
        const { entries, fates } = smallFlow(chain);
        entries.forEach((a, first) => {
          const { id } = a.entry;
          const canHold = !stated.has(`contradiction ${id}`);
          if (!a.held.isEmpty()) expect([id, canHold]).toEqual([id, true]);
          if (!a.fired.isEmpty()) expect([id, stated.has(`shadowed ${id}`)]).toEqual([id, false]);
          else expect([id, shownToFire.has(id) || stated.has(`shadowed ${id}`) || !canHold]).toEqual([id, true]);
          entries.slice(first + 1).forEach((b) => {
            const both = a.held.and(b.held);
            const pair = `${id} ${b.entry.id}`;
            if (both.isEmpty()) return;
            const edit = moveBefore(chain, b.entry.id, id);
            const moved = edit && applyEdit(chain, edit);
            if (!moved?.ok) return;
            const differs = smallFlow(moved.chain).fates.differsFrom(fates).meets(both);
            if (differs) expect([pair, stated.has(`order-conflict ${pair}`)]).toEqual([pair, true]);
          });
          // Every redundant rule is found, and no other.
          const without = withoutRule(chain, id);
          const needless = smallFlow(without).fates.differsFrom(fates).isEmpty();
          if (stated.has(`redundant ${id}`)) expect([id, needless]).toEqual([id, true]);
          else if (needless && !a.fired.isEmpty()) {
            const comparison = compareChains(chain, without);
            // An example message with two Subject fields may show the difference that a proof excludes by assumption.
            const isAssumed = comparison.verdict === 'equivalent' && comparison.assumes.join() === 'single-fields';
            if (!isAssumed) expect([id, comparison.verdict]).toEqual([id, 'different']);
          }
          // The same with another ending, so that all later rules see other mail.
          const ended = withOtherEnding(chain, id);
          const { verdict } = compareChains(chain, ended);
          verdicts.set(verdict, (verdicts.get(verdict) ?? 0) + 1);
          const alike = smallFlow(ended).fates.differsFrom(fates).isEmpty();
          if (verdict === 'equivalent') expect([id, alike]).toEqual([id, true]);
          if (!alike) expect([id, verdict]).toEqual([id, 'different']);
        });
      }),
      { numRuns: CHAINS },
    );
    expect([...counts.keys(), ...verdicts.keys()].filter((key) => key.endsWith('undecided'))).toEqual([]);
    for (const kind of ['overlap shown', 'order-conflict shown', 'redundant proved', 'shadowed proved']) {
      expect([kind, (counts.get(kind) ?? 0) > 20]).toEqual([kind, true]);
    }
  });

  test('every message that is made up to show an order conflict or a double filing does so', () => {
    fc.assert(
      fc.property(fc.array(smallRule, { minLength: 2, maxLength: 5 }), (rules) => {
        const chain = chainOf(rules);
        for (const { kind, rules: named, witness } of audited(chain)) {
          if (!witness) continue;
          const message = read(textOf(witness));
          const [a, b] = named.map((id) => chain.entries.findIndex((entry) => entry.id === id));
          const entries = flowOf(chain, [message]).flow.entries;
          if (kind === 'overlap')
            expect(elementAt(entries, given(a)).held.has(0) && elementAt(entries, given(b)).held.has(0)).toBe(true);
          if (kind === 'runs-on')
            expect(elementAt(entries, given(a)).fired.has(0) && elementAt(entries, given(b)).fired.has(0)).toBe(true);
          if (kind !== 'order-conflict') continue;
          const edit = moveBefore(chain, elementAt(named, 1), elementAt(named, 0));
          const moved = edit && applyEdit(chain, edit);
          expect(moved?.ok && fatesOf(moved.chain, [message])).not.toEqual(fatesOf(chain, [message]));
        }
      }),
      { numRuns: 150 },
    );
  });
});

/** A rule that only makes a chain longer. */
const NOTHING: Omit<Rule, 'id' | 'name'> = {
  kind: 'rule',
  note: '',
  on: true,
  tests: { kind: 'leaf', test: { test: 'exists', headers: ['x-nothing'] } },
  unless: [],
  actions: [{ action: 'discard' }],
  ending: 'continue',
  link: 'always',
};

/** Kinds that are complete on short chains; for the others it depends on the example messages. */
const COMPLETE =
  /^(contradiction|shadowed|overlap|order-conflict|runs-on|cut-short|redundant|mergeable|subsumed-test|exception-void)$/;

test('after an edit, with what was found before the edit, the same is stated as by an audit that begins anew', () => {
  const edited = fc.tuple(fc.array(smallRule, { minLength: 2, maxLength: 5 }), fc.nat(), smallRule);
  fc.assert(
    fc.property(edited, ([rules, at, other]) => {
      const [before, after] = [chainOf(rules), chainOf(rules.with(at % rules.length, other))];
      const memory = new AuditMemory();
      audited(before, [], { memory });
      const complete = (findings: readonly Finding[]) => findings.filter(({ kind }) => COMPLETE.test(kind));
      const stated = (findings: readonly Finding[]) =>
        findings.map(({ key, certainty }) => `${key} ${certainty}`).sort((a, b) => (a < b ? -1 : 1));
      const [again, fresh] = [complete(audited(after, [], { memory })), complete(audited(after))];
      // Chains are compared for messages with single fields; an example that was constructed for another question may show more.
      const within = (findings: readonly Finding[], others: readonly Finding[]) => {
        const known = new Set(stated(others));
        const isBeyond = ({ key, certainty, witness }: Finding) =>
          !known.has(`${key} ${certainty}`) &&
          witness !== null &&
          brokenBy(read(textOf(witness))).includes('single-fields');
        return stated(findings.filter((finding) => !isBeyond(finding)));
      };
      expect(within(again, fresh)).toEqual(within(fresh, again));
    }),
    { numRuns: 150 },
  );
});

test('which findings an edit resolves is the same whether all is looked for after it or only these', () => {
  const mail = SMALL_MESSAGES.filter((_, index) => index % 3 === 0);
  const edited = fc.tuple(fc.array(smallRule, { minLength: 2, maxLength: 5 }), fc.nat(), smallRule);
  let resolved = 0;
  fc.assert(
    fc.property(edited, ([rules, at, other]) => {
      const found = audited(chainOf(rules), mail);
      const after = chainOf(rules.with(at % rules.length, other));
      const about = found.filter(isConfirmed);
      const all = endedBy([], found, audited(after, mail));
      expect(endedBy([], found, audited(after, mail, { about }))).toEqual(all);
      resolved += all.gone.length;
    }),
    { numRuns: 150 },
  );
  expect(resolved).toBeGreaterThan(50);
});

describe('metamorphic: what an audit says changes nothing, changes nothing', () => {
  const mail = SMALL_MESSAGES.filter((_, index) => index % 3 === 0);

  test('neighbours that are not in conflict may change places', { timeout: 60_000 }, () => {
    let swapped = 0;
    fc.assert(
      fc.property(fc.array(smallRule, { minLength: 2, maxLength: 5 }), (rules) => {
        const chain = chainOf(rules.map((rule) => ({ ...rule, link: 'always' as const })));
        if (!looksAtNoFlags(chain)) return;
        const conflicts = new Set(
          audited(chain).flatMap(({ kind, rules: named }) => (kind === 'order-conflict' ? [named.join(' ')] : [])),
        );
        const fates = fatesOf(chain, mail);
        chain.entries.slice(1).forEach((entry, at) => {
          const before = elementAt(chain.entries, at).id;
          if (conflicts.has(`${before} ${entry.id}`)) return;
          const edit = moveBefore(chain, entry.id, before);
          const moved = edit && applyEdit(chain, edit);
          if (!moved?.ok) return;
          swapped++;
          expect(fatesOf(moved.chain, mail)).toEqual(fates);
        });
      }),
      { numRuns: 800 },
    );
    expect(swapped).toBeGreaterThan(100);
  });

  test('what is proved to add nothing is left out, joined or taken out', { timeout: 120_000 }, () => {
    const counts = new Map<string, number>();
    const plain = fc.array(smallRule, { minLength: 2, maxLength: 5 }).map((rules) => {
      // Makes rules that do the same frequent.
      const [first] = rules;
      return rules.map((rule, at) =>
        at % 2 === 0 && first ? { ...rule, actions: first.actions, ending: first.ending, unless: [] } : rule,
      );
    });
    fc.assert(
      fc.property(plain, (rules) => {
        const chain = chainOf(rules);
        const fates = fatesOf(chain, SMALL_MESSAGES);
        for (const { kind, certainty, repairs, claim } of audited(chain)) {
          if (!/^(redundant|mergeable|subsumed-test|contradiction)$/.test(kind) || certainty !== 'proved') continue;
          counts.set(kind, (counts.get(kind) ?? 0) + 1);
          for (const { edits } of repairs) {
            const after = applyEdits(chain, edits);
            expect(after.ok).toBe(true);
            if (after.ok) expect([claim, fatesOf(after.chain, SMALL_MESSAGES)]).toEqual([claim, fates]);
          }
        }
      }),
      { numRuns: 200 },
    );
    for (const kind of ['redundant', 'mergeable', 'subsumed-test']) {
      expect([kind, (counts.get(kind) ?? 0) > 5]).toEqual([kind, true]);
    }
  });

  /** Chains of more than 80 entries, which are not compared as a whole, and without questions about pairs. */
  const TOO_LONG = {
    ...auditBudget(100),
    pairs: 0,
    parts: 3000,
    comparisons: 0,
    orders: 0,
    overlapsByThemselves: false,
  };
  const fill = chainOf(Array.from({ length: 160 }, () => ({ ...NOTHING, on: false })));

  test('what is proved of long chains, where little is asked and no mail is at hand', {
    timeout: CHAINS * 1000,
  }, () => {
    const counts = new Map<string, number>();
    const plainly: readonly Action[] = [{ action: 'fileinto', folder: 'A', copy: false, flags: null }];
    const related = fc.tuple(fc.array(smallRule, { minLength: 3, maxLength: 7 }), fc.boolean()).map(([rules, narrow]) =>
      // Every second rule does what the first one does, for other mail or part of its mail.
      rules.map((rule, at) => {
        const [first] = rules;
        if (at % 2 === 1 || !first) return rule;
        const tests = narrow && at > 0 ? { kind: 'all' as const, children: [first.tests, rule.tests] } : rule.tests;
        return { ...rule, tests, actions: plainly, ending: first.ending, unless: [], link: 'always' as const };
      }),
    );
    fc.assert(
      fc.property(related, fc.boolean(), (rules, reversed) => {
        const { entries } = chainOf(reversed ? rules.toReversed() : rules);
        const chain = {
          entries: [...entries, ...fill.entries.map((one, at) => ({ ...one, id: `o${at}` }))],
          closing: '',
        };
        const { fates } = smallFlow(chain);
        for (const { kind, certainty, repairs, claim } of audited(chain, [], { budget: TOO_LONG })) {
          if (!/^(redundant|mergeable|subsumed-test|contradiction)$/.test(kind) || certainty !== 'proved') continue;
          counts.set(kind, (counts.get(kind) ?? 0) + 1);
          for (const { edits } of repairs) {
            const after = applyEdits(chain, edits);
            expect(after.ok).toBe(true);
            if (after.ok)
              expect([claim, smallFlow(after.chain).fates.differsFrom(fates).isEmpty()]).toEqual([claim, true]);
          }
        }
      }),
      { numRuns: CHAINS },
    );
    for (const kind of ['redundant', 'subsumed-test']) {
      expect([kind, (counts.get(kind) ?? 0) > 5]).toEqual([kind, true]);
    }
  });
});

describe('what is said of stored mail', () => {
  const mail = SMALL_MESSAGES.filter((_, index) => index % 4 === 0);
  const columns = new MemoryColumns();
  for (const message of mail) columns.add(message, SMALL_ENVELOPE);

  /** For each kind, the messages that should show it, by the interpreter and the flow. */
  const wanted: Readonly<Record<string, (of: Story, a: string, b: string) => (message: number) => boolean>> = {
    overlap:
      ({ at }, a, b) =>
      (message) =>
        at(a).held.has(message) && at(b).held.has(message),
    'runs-on':
      ({ at }, a, b) =>
      (message) =>
        at(a).fired.has(message) && at(b).fired.has(message),
    'cut-short':
      ({ at }, a, b) =>
      (message) =>
        at(a).stopped.has(message) && at(b).held.has(message),
    loss:
      ({ at, fates }, a) =>
      (message) => {
        const [folders, addresses] = ownJson<[unknown[], unknown[]]>(elementAt(fates, message));
        return at(a).fired.has(message) && folders.length + addresses.length === 0;
      },
    redundant:
      ({ at }, a) =>
      (message) =>
        at(a).fired.has(message),
    'order-conflict': ({ chain, at, fates }, a, b) => {
      const edit = moveBefore(chain, b, a);
      const moved = edit && applyEdit(chain, edit);
      const after = moved?.ok ? fatesOf(moved.chain, mail) : [];
      return (message) => at(a).held.has(message) && at(b).held.has(message) && fates[message] !== after[message];
    },
  };
  interface Story {
    readonly chain: Chain;
    readonly fates: readonly string[];
    readonly at: (id: string) => EntryFlow;
  }

  test('is so of these very messages and of no others, by the interpreter', { timeout: CHAINS * 1000 }, () => {
    const counts = new Map<string, number>();
    fc.assert(
      fc.property(fc.array(smallRule, { minLength: 2, maxLength: 6 }), (rules) => {
        const chain = chainOf(rules);
        const atoms = evaluateAtoms(atomsOf(chain), columns);
        const { entries } = runFlow(chain, atoms, columns.count);
        const fates = fatesOf(chain, mail);
        const at = (id: string) => given(entries.find(({ entry }) => entry.id === id));
        for (const {
          kind,
          // A rule that files and discards is about itself.
          rules: [a = '', b = a],
          messages,
          witness,
        } of audited(chain, mail)) {
          const isSo = wanted[kind]?.({ chain, fates, at }, a, b);
          if (!isSo || witness) continue;
          counts.set(kind, (counts.get(kind) ?? 0) + 1);
          expect([kind, a, b, [...messages]]).toEqual([kind, a, b, mail.map((_, number) => number).filter(isSo)]);
        }
      }),
      { numRuns: CHAINS },
    );
    for (const kind of Object.keys(wanted)) expect([kind, (counts.get(kind) ?? 0) > 10]).toEqual([kind, true]);
  });
});
