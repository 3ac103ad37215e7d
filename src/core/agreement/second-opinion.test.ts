import { afterAll, describe, expect, test } from 'vitest';
import { auditChain } from '../audit/catalogue';
import type { Finding } from '../audit/finding';
import { MailGatherer } from '../audit/stored';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import { readMessage } from '../mail/message';
import { applyEdits } from '../rules/edit';
import { type Chain, conditionOf, type LeafTest, leavesOf, type Rule } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import { elementAt } from '../text/lookup';
import { seeded } from './corpus';
import { Dovecot } from './dovecot';
import { PEOPLE_SCRIPTS, peopleChain } from './people-rules';
import { brokenBy } from './small-chains';

/**
 * A second opinion: what is proved about the demo and the corpus of sense, asked of the independent interpreter of
 * dovecot-sieve, on messages made of what the rules look for.
 */

/** Messages for each proved finding; more with SAMPLES=1000 npx vitest run src/core/agreement/second-opinion.test.ts. */
const SAMPLES = Number(process.env.SAMPLES ?? 20);

type Next = (below: number) => number;
const pick = <T>(all: readonly T[], next: Next): T => elementAt(all, next(all.length));

/** The key in other case, inside other text, or as it is. */
function around(key: string, match: string, next: Next): string {
  const bare = match === 'matches' ? key.replace(/\*/g, () => pick(['', 'oak', ' 7 '], next)).replace(/\?/g, 'q') : key;
  const cased = pick([bare, bare, bare.toUpperCase(), bare.toLowerCase()], next);
  return match === 'contains' ? pick([cased, `Re: ${cased}`, `${cased} (2)`, `old ${cased}s`], next) : cased;
}

/** A header value with an address of which the part is the key. */
function addressWith(key: string, part: string, match: string, next: Next): string {
  const wanted = around(key, match, next).replace(/[<>"]/g, '').replace(/^old /, '');
  const address =
    part === 'domain'
      ? `ann@${wanted}`
      : part === 'localpart'
        ? `${wanted}@hill.example`
        : wanted.includes('@')
          ? wanted
          : `ann@${wanted}`;
  return pick([address, `Ann Lee <${address}>`, `"Lee, Ann" <${address}>`, `${address} (Ann)`], next);
}

interface Draft {
  /** The envelope recipient. */
  to: string;
  readonly fields: [name: string, value: string][];
  readonly body: string[];
}

function fulfil(test: LeafTest, draft: Draft, next: Next): void {
  const put = (name: string, value: string) => draft.fields.push([name, value.replace(/[\r\n]/g, ' ')]);
  switch (test.test) {
    case 'header':
      put(pick(test.headers, next), around(pick(test.keys, next), test.match, next));
      return;
    case 'address':
      put(pick(test.headers, next), addressWith(pick(test.keys, next), test.part, test.match, next));
      return;
    case 'exists':
      for (const name of test.headers) put(name, pick(['yes', 'oak', 'ann@hill.example'], next));
      return;
    case 'size':
      if (test.relation === 'over' && test.octets < 40_000)
        draft.body.push(
          'x'
            .repeat(998)
            .concat('\n')
            .repeat(1 + Math.ceil(test.octets / 990)),
        );
      return;
    case 'compared': {
      const { subject, by } = test;
      const key = 'keys' in by ? pick(by.keys, next) : '';
      if (subject.of === 'envelope' && subject.part === 'detail') draft.to = `me+${key}@home.example`;
      if (subject.of === 'body' || subject.of === 'body parts') draft.body.push(around(key, 'contains', next));
      if (subject.of === 'header')
        put(pick(subject.headers, next), /^\d+$/.test(key) ? String(Number(key) + next(5) - 1) : key);
      if (subject.of === 'address') put(pick(subject.headers, next), addressWith(key, 'all', 'is', next));
      return;
    }
    default:
  }
}

interface Sample {
  readonly raw: Buffer;
  readonly to: string;
}

/** A message made of what the rules look for. */
function messageFor(rules: readonly Rule[], id: string, next: Next): Sample {
  const draft: Draft = { to: 'me@home.example', fields: [], body: ['words'] };
  for (const rule of rules) {
    for (const leaf of leavesOf(conditionOf(rule))) if (next(5) > 0) fulfil(leaf, draft, next);
  }
  // One field of each name: the first that was asked for.
  const byName = new Map<string, [name: string, value: string]>();
  for (const field of draft.fields) {
    const name = field[0].toLowerCase();
    if (!byName.has(name)) byName.set(name, field);
  }
  const usual: [string, string][] = [
    ['From', 'Ann Lee <ann@hill.example>'],
    ['To', 'me@home.example'],
    ['Subject', 'Tomorrow'],
    ['Date', 'Thu, 1 Jan 2026 10:00:00 +0000'],
  ];
  for (const field of usual) if (!byName.has(field[0].toLowerCase())) byName.set(field[0].toLowerCase(), field);
  const lines = [...byName.values()].map(([name, value]) => `${name}: ${value}`);
  const raw = Buffer.from([...lines, `Message-ID: <${id}>`, '', ...draft.body, ''].join('\r\n'));
  return { raw, to: draft.to };
}

/** `matching`: of the messages made for shadowed rules, those that match them; `hits`: of any rule on any message. */
const asked = { findings: 0, messages: 0, shadowed: 0, matching: 0, hits: 0 };

/** Folders that no script uses. */
const hitOf = (id: string) => `Hit by ${id}.`;

/** Every rule also files into a folder of its own, so that it shows when it acts. */
function watched(chain: Chain): Chain {
  const entries = chain.entries.map((entry): Chain['entries'][number] => {
    if (entry.kind !== 'rule') return entry;
    return {
      ...entry,
      actions: [{ action: 'fileinto', folder: hitOf(entry.id), copy: true, flags: null }, ...entry.actions],
    };
  });
  return { ...chain, entries };
}

const NEVER = ['contradiction', 'shadowed'];
const UNCHANGED = ['redundant', 'mergeable', 'subsumed-test', 'exception-void'];

function readsEnvelope(rule: Rule): boolean {
  return leavesOf(conditionOf(rule)).some(
    (leaf) => leaf.test === 'envelope' || (leaf.test === 'compared' && leaf.subject.of === 'envelope'),
  );
}

describe.each(PEOPLE_SCRIPTS)('%s', (file) => {
  const chain = peopleChain(file);
  const atoms = evaluateAtoms(atomsOf(chain), new MemoryColumns());
  const flow = runFlow(chain, atoms, 0);
  const proved = auditChain({ chain, flow, atoms, mail: new MailGatherer().mail([]) }).findings.filter(
    ({ kind, certainty }) => certainty === 'proved' && [...NEVER, ...UNCHANGED].includes(kind),
  );
  const ruleOf = (id: string | undefined) =>
    chain.entries.find((entry): entry is Rule => entry.kind === 'rule' && entry.id === id);
  const dead = new Set(proved.flatMap(({ kind, rules }) => (NEVER.includes(kind) ? rules.slice(0, 1) : [])));
  const claims = proved.flatMap((finding) => {
    const rule = ruleOf(finding.rules[0]);
    // An exception that always applies switches its rule off: that changes with it.
    if (finding.kind === 'exception-void' && rule && dead.has(rule.id)) return [];
    return rule ? [{ finding, rule }] : [];
  });

  test('no sampled message refutes what is proved', () => {
    if (claims.length === 0) return;
    const next = seeded(5228);
    const samples = claims.flatMap(({ rule, finding }, at) =>
      Array.from({ length: SAMPLES }, (_, number) => {
        const others = finding.rules.slice(1).flatMap((id) => ruleOf(id) ?? []);
        const beside = next(3) === 0 ? [pick(claims, next).rule] : next(3) === 0 ? others : [];
        return messageFor([rule, ...beside], `${at}.${number}@sample.example`, next);
      }),
    );
    const raw = samples.map((sample) => sample.raw);
    const messages = raw.map((one) => readMessage(one));
    const dovecot = new Dovecot(raw);
    try {
      const watching = sieveFromChain(watched(chain)).text;
      // The filter of a folder knows no envelope.
      const hits = claims.some(({ rule }) => readsEnvelope(rule))
        ? samples.map(({ to }, index) => dovecot.test(watching, index, 'ann@hill.example', to))
        : dovecot.filter(watching);
      const before = dovecot.filter(sieveFromChain(chain).text);
      const columns = new MemoryColumns();
      for (const [index, message] of messages.entries())
        columns.add(message, { from: 'ann@hill.example', to: samples[index]?.to ?? null });
      const { entries } = runFlow(chain, evaluateAtoms(atomsOf(chain), columns), columns.count);
      for (const [at, { finding, rule }] of claims.entries()) {
        const allowed = (index: number) =>
          !brokenBy(elementAt(messages, index)).some((one) => (finding.assumes ?? []).includes(one));
        if (NEVER.includes(finding.kind)) {
          const refuting = hits.findIndex((outcome, index) => outcome?.includes(hitOf(rule.id)) && allowed(index));
          expect(refuting < 0 ? '' : `${finding.claim}\n${raw[refuting]}`).toBe('');
        } else expect(refutedBy(finding, before, allowed)).toBe('');
        if (finding.kind !== 'shadowed') continue;
        const held = entries.find(({ entry }) => entry.id === rule.id)?.held;
        asked.shadowed += SAMPLES;
        for (let index = at * SAMPLES; index < (at + 1) * SAMPLES; index++) if (held?.has(index)) asked.matching++;
      }
      asked.findings += claims.length;
      asked.messages += raw.length;
      asked.hits += hits.filter((outcome) => outcome?.includes('Hit by')).length;
    } finally {
      dovecot.close();
    }

    function refutedBy(
      { repairs, claim }: Finding,
      before: readonly (string | null)[],
      allowed: (index: number) => boolean,
    ): string {
      const after = applyEdits(chain, repairs[0]?.edits ?? []);
      if (!after.ok) return `${claim}: the repair does not apply`;
      const outcomes = dovecot.filter(sieveFromChain(after.chain).text);
      const refuting = outcomes.findIndex((outcome, index) => outcome !== before[index] && allowed(index));
      return refuting < 0 ? '' : `${claim}\n${raw[refuting]}\n${before[refuting]}\n${outcomes[refuting]}`;
    }
  });
});

afterAll(() => {
  if (process.env.SHOW) console.log(asked);
  expect(asked.findings).toBeGreaterThan(100);
  expect(asked.matching).toBeGreaterThan(asked.shadowed / 3);
  expect(asked.hits).toBeGreaterThan(asked.messages / 4);
});
