import { describe, expect, test, vi } from 'vitest';
import { evaluateAtoms } from '../flow/atoms';
import { MemoryColumns } from '../flow/columns';
import { runFlow } from '../flow/flow';
import { atomsOf } from '../flow/program';
import * as tracing from '../flow/trace';
import { readMessage } from '../mail/message';
import type { Witness } from '../reason/witness';
import { applyEdit } from '../rules/edit';
import { chainFromSieve } from '../rules/from-sieve';
import { ARRIVAL } from '../sieve/interpret/world';
import { auditChain } from './catalogue';
import { AuditMemory } from './memory';
import { type AuditBudget, auditBudget } from './questions';
import { MailGatherer } from './stored';

const ENVELOPE = { from: null, to: null };

function witness(subject: string): Witness {
  const open = `From: a@people.example\nSubject: ${subject}\n\n${subject}\n`;
  return {
    open,
    message: readMessage(new TextEncoder().encode(open)),
    envelope: ENVELOPE,
    now: null,
    text: () => open,
  };
}

const { chain } = chainFromSieve(`require ["fileinto", "imap4flags", "variables", "date"];
# Oak
if header :contains "subject" "oak" { addflag "\\\\Seen"; }
# What only the interpreter knows
if header :matches "subject" "* of *" { set "what" "\${1}"; fileinto "Of/\${what}"; }
# This year
if currentdate :is "year" "2026" { fileinto "This year"; }
# Oak beams
if header :contains "subject" "oak beams" { fileinto "Oak"; stop; }
`);

/** As a new memory sees it. */
function fresh(witnesses: readonly Witness[], clock = ARRIVAL) {
  const columns = new MemoryColumns();
  for (const { message, envelope } of witnesses) columns.add(message, envelope);
  return evaluateAtoms(atomsOf(chain), columns, () => {}, clock);
}

const membersOf = (atoms: ReadonlyMap<string, { members(): Iterable<number>; readonly size: number }>) =>
  [...atoms].map(([key, bitmap]) => [key, bitmap.size, ...bitmap.members()].join(' ')).sort();

describe('made-up messages, kept', () => {
  const subjects = ['oak', 'lime', 'a load of oak beams', 'grains of lime', 'oak beams', 'a list of words'];

  test('tests are evaluated for what has come since, and tell the same', () => {
    const memory = new AuditMemory();
    memory.begin(ARRIVAL, [], () => {});
    for (const [count, subject] of subjects.entries()) {
      memory.add(witness(subject));
      // Sometimes no question is asked between two messages.
      if (count % 3 === 1) continue;
      const known = fresh(memory.witnesses);
      expect(membersOf(memory.atomsFor(chain))).toEqual(membersOf(known));
    }
    expect(() => runFlow(chain, memory.atomsFor(chain), subjects.length)).not.toThrow();
  });

  test('the same message is kept once', () => {
    const memory = new AuditMemory();
    for (const subject of ['oak', 'lime', 'oak']) memory.add(witness(subject));
    expect(memory.witnesses).toHaveLength(2);
  });

  test('at another time, tests of the date tell something else', () => {
    const memory = new AuditMemory();
    memory.begin(ARRIVAL, [], () => {});
    memory.add(witness('oak'));
    memory.atomsFor(chain);
    const later = { fixed: Date.UTC(2027, 5, 1), otherwise: 0 };
    memory.begin(later, [], () => {});
    expect(membersOf(memory.atomsFor(chain))).toEqual(membersOf(fresh(memory.witnesses, later)));
  });

  test('more than can be kept: the latest are', () => {
    const memory = new AuditMemory();
    for (let n = 0; n <= 5000; n++) memory.add(witness(`oak ${n}`));
    memory.begin(ARRIVAL, [], () => {});
    expect(memory.witnesses).toHaveLength(2500);
    expect(memory.witnesses.at(-1)?.open).toContain('oak 5000');
    expect(membersOf(memory.atomsFor(chain))).toEqual(membersOf(fresh(memory.witnesses)));
  });
});

describe('an audit after an edit', () => {
  const plain = chainFromSieve(`require ["fileinto", "imap4flags"];
if header :contains "subject" "oak" { fileinto "Oak"; }
if header :contains "subject" "beam" { fileinto "Beams"; stop; }
if address :domain :is "from" "lime.example" { fileinto "Lime"; }
`).chain;
  const audit = (one: typeof plain, memory: AuditMemory) => {
    const atoms = evaluateAtoms(atomsOf(one), new MemoryColumns());
    const input = { chain: one, flow: runFlow(one, atoms, 0), atoms, mail: new MailGatherer().mail([]) };
    return auditChain(input, { memory }).findings;
  };

  test('of what no edit has touched, nothing is run by the interpreter again', () => {
    const memory = new AuditMemory();
    const ran = vi.spyOn(tracing, 'firing');
    const before = audit(plain, memory);
    expect(before.map(({ kind }) => kind)).toContain('runs-on');
    expect(ran).toHaveBeenCalled();
    // Messages made towards the end are used like all others from the next audit on.
    const statedBy = (findings: typeof before) => findings.map(({ key, certainty }) => `${key} ${certainty}`);
    expect(statedBy(audit(plain, memory))).toEqual(statedBy(before));
    ran.mockClear();
    audit(plain, memory);
    expect(ran).not.toHaveBeenCalled();
    const [last] = plain.entries.slice(-1);
    const edited = last && applyEdit(plain, { kind: 'switch', id: last.id, on: false });
    if (edited?.ok) audit(edited.chain, memory);
    expect(ran).not.toHaveBeenCalled();
    ran.mockRestore();
  });

  test('of pairs whose order is not searched, it is told what their form tells', () => {
    const { chain: three } = chainFromSieve(`require "fileinto";
if header :contains "subject" "oak" { fileinto "Oak"; stop; }
if header :contains "x-tag" "beam" { fileinto "Beams"; stop; }
if header :contains "subject" "oak" { fileinto "Oak"; }
`);
    const atoms = evaluateAtoms(atomsOf(three), new MemoryColumns());
    const input = { chain: three, flow: runFlow(three, atoms, 0), atoms, mail: new MailGatherer().mail([]) };
    const ordersWithin = (budget: Partial<AuditBudget>) =>
      auditChain(input, { budget: { ...auditBudget(3), ...budget } }).orders;
    expect(ordersWithin({})).toEqual({ alike: 2, conflict: 1, alone: 0, open: 0 });
    expect(ordersWithin({ examples: 0, orders: 0 })).toEqual({ alike: 1, conflict: 0, alone: 2, open: 0 });
  });
});
