import type { Envelope, MailMessage } from '../mail/message';
import type { Chain, ChainEntry } from '../rules/rule';
import { sieveFromChain } from '../rules/to-sieve';
import type { Fate } from '../sieve/interpret/fate';
import { interpreter, type Outcome } from '../sieve/interpret/interpret';
import type { Evidence, TraceStep } from '../sieve/interpret/run';
import { ARRIVAL, type World, worldFor } from '../sieve/interpret/world';
import { printTest } from '../sieve/print';
import type { Statement, TestNode } from '../sieve/tree';

/** The way of one message through a chain, told by the interpreter. */
export interface Trace {
  readonly fate: Fate;
  /** Why the script ended with an error, after which the message is only kept; null where it did not. */
  readonly error: string | null;
  /** One for each entry that is on, in the order of the chain. */
  readonly entries: readonly EntryTrace[];
}

export interface EntryTrace {
  readonly entry: ChainEntry;
  /** `not reached`: an earlier rule stopped the message. `passed over`: a linked rule before it has fired. */
  readonly outcome: 'fired' | 'did not hold' | 'not reached' | 'passed over';
  readonly stopped: boolean;
  /** Leaf tests that were tried, each with what made it hold. */
  readonly tests: readonly { readonly text: string; readonly holds: boolean; readonly evidence: readonly Evidence[] }[];
}

/** Runs the chain, as the script that it stands for, over one message. */
export function traceMessage(
  chain: Chain,
  message: MailMessage,
  envelope: Envelope,
  world = worldFor(message, ARRIVAL),
): Trace {
  return tracer(chain)(message, envelope, world);
}

/** The same for many messages: the script is made once. `checkpoint` may throw to cancel that. */
export function tracer(
  chain: Chain,
  checkpoint: () => void = () => {},
): (message: MailMessage, envelope: Envelope, world: World) => Trace {
  const { script, entryOf } = sieveFromChain(chain, 'export', { checkpoint });
  checkpoint();
  const run = interpreter(script);
  checkpoint();
  const owners = ownersOf(entryOf);
  return (message, envelope, world) => traceOf(chain, owners, run(message, envelope, { trace: true, world }));
}

function traceOf(chain: Chain, owners: ReadonlyMap<object, ChainEntry>, outcome: Outcome): Trace {
  const steps = new Map<ChainEntry, TraceStep[]>();
  for (const step of outcome.trace) {
    const owner = owners.get(step.node);
    if (!owner) continue;
    const own = steps.get(owner);
    if (own) own.push(step);
    else steps.set(owner, [step]);
  }
  const entries: EntryTrace[] = [];
  let stopped = false;
  for (const entry of chain.entries.filter((candidate) => candidate.on)) {
    const own = steps.get(entry) ?? [];
    const fired = own.some((step) => acts(entry, step)) || firedWithoutAction(entry, own);
    const ends = own.some((step) => step.kind === 'action' && step.node.name === 'stop');
    const linked = entry.kind === 'rule' && entry.link === 'otherwise';
    const missed = stopped ? 'not reached' : own.length === 0 && linked ? 'passed over' : 'did not hold';
    entries.push({
      entry,
      outcome: fired ? 'fired' : missed,
      stopped: ends,
      // To write tests out takes longer than to run them, and few who ask look at them.
      get tests() {
        return leafSteps(own);
      },
    });
    stopped ||= ends;
  }
  return { fate: outcome.fate, error: outcome.error, entries };
}

/** A script block acts only where it does something to the message; a rule that comes to its actions has fired. */
function acts(entry: ChainEntry, step: TraceStep): boolean {
  return step.kind === 'action' && (entry.kind === 'rule' || step.took || step.node.name === 'stop');
}

/** A rule without actions has fired when its condition, the first test that was finished last, held. */
function firedWithoutAction(entry: ChainEntry, steps: readonly TraceStep[]): boolean {
  if (entry.kind !== 'rule' || entry.actions.length > 0 || entry.ending === 'stop') return false;
  const last = steps[steps.length - 1];
  return last?.kind === 'test' && last.holds;
}

function leafSteps(steps: readonly TraceStep[]): EntryTrace['tests'] {
  return steps.flatMap((step) =>
    step.kind === 'test' && step.node.tests.length === 0
      ? [{ text: printTest(step.node), holds: step.holds, evidence: step.evidence }]
      : [],
  );
}

/** Which entry each command and test of the script belongs to. */
function ownersOf(entryOf: ReadonlyMap<Statement, ChainEntry>): Map<object, ChainEntry> {
  const owners = new Map<object, ChainEntry>();
  const claim = (statement: Statement, entry: ChainEntry) => {
    owners.set(statement, entry);
    if (statement.kind === 'unreadable') return;
    for (const test of statement.tests) claimTest(test, entry);
    for (const inner of statement.block?.commands ?? []) claim(inner, entry);
  };
  const claimTest = (test: TestNode, entry: ChainEntry) => {
    owners.set(test, entry);
    for (const inner of test.tests) claimTest(inner, entry);
  };
  for (const [statement, entry] of entryOf) claim(statement, entry);
  return owners;
}
