import type { Envelope, MailMessage } from '../mail/message';
import { readTest } from '../rules/nodes';
import { endingOf, profileOf } from '../rules/profile';
import type { Chain, ChainEntry } from '../rules/rule';
import { leafWords } from '../rules/sentence';
import { sieveFromChain } from '../rules/to-sieve';
import type { Fate } from '../sieve/interpret/fate';
import { interpreter, type Outcome } from '../sieve/interpret/interpret';
import type { Evidence, TraceStep } from '../sieve/interpret/run';
import { ARRIVAL, type World, worldFor } from '../sieve/interpret/world';
import { printTest } from '../sieve/print';
import type { Statement, TestNode } from '../sieve/tree';

/** The trace of one message through a chain, by the interpreter. */
export interface Trace {
  readonly fate: Fate;
  /** Why the script failed, after which the message is only kept; null if it did not. */
  readonly error: string | null;
  /** One for each entry that is on, in chain order. */
  readonly entries: readonly EntryTrace[];
}

export interface EntryTrace {
  readonly entry: ChainEntry;
  /** `not reached`: an earlier rule stopped the message. `passed over`: an earlier rule of the linked run acted. */
  readonly outcome: 'fired' | 'did not hold' | 'not reached' | 'passed over';
  readonly stopped: boolean;
  /** Leaf tests that were tried, with their evidence. */
  readonly tests: readonly TestTrace[];
}

export interface TestTrace {
  /** The test as Sieve. */
  readonly text: string;
  /** The test in plain words; null for one that rules cannot contain. */
  readonly words: string | null;
  readonly holds: boolean;
  readonly evidence: readonly Evidence[];
}

/** Runs the chain as a script on one message. */
export function traceMessage(
  chain: Chain,
  message: MailMessage,
  envelope: Envelope,
  world = worldFor(message, ARRIVAL),
): Trace {
  return tracer(chain)(message, envelope, world);
}

/** The same for many messages, with the script made once. `checkpoint` may throw to cancel. */
export function tracer(
  chain: Chain,
  checkpoint: () => void = () => {},
): (message: MailMessage, envelope: Envelope, world: World) => Trace {
  const follow = follower(chain, checkpoint);
  return (message, envelope, world) => traceOf(chain, follow(message, envelope, world));
}

/** What the interpreter does with a message. */
export interface Firing {
  readonly fate: Fate;
  /** The entries that fired. */
  readonly fired: ReadonlySet<ChainEntry>;
}

/** Only the fate and the entries that fire, which is faster. */
export function firing(
  chain: Chain,
  checkpoint: () => void = () => {},
): (message: MailMessage, envelope: Envelope, world: World) => Firing {
  const follow = follower(chain, checkpoint);
  return (message, envelope, world) => {
    const { outcome, steps } = follow(message, envelope, world);
    const fired = [...steps].filter(([entry, own]) => hasFired(chain, entry, own));
    return { fate: outcome.fate, fired: new Set(fired.map(([entry]) => entry)) };
  };
}

interface Followed {
  readonly outcome: Outcome;
  readonly steps: ReadonlyMap<ChainEntry, readonly TraceStep[]>;
}

function follower(
  chain: Chain,
  checkpoint: () => void,
): (message: MailMessage, envelope: Envelope, world: World) => Followed {
  const { script, entryOf } = sieveFromChain(chain, 'export', { checkpoint, isTraced: true });
  checkpoint();
  const run = interpreter(script);
  checkpoint();
  const owners = ownersOf(entryOf);
  return (message, envelope, world) => {
    const outcome = run(message, envelope, { trace: true, world });
    const steps = new Map<ChainEntry, TraceStep[]>();
    for (const step of outcome.trace) {
      const owner = owners.get(step.node);
      if (!owner) continue;
      const own = steps.get(owner);
      if (own) own.push(step);
      else steps.set(owner, [step]);
    }
    return { outcome, steps };
  };
}

function traceOf(chain: Chain, { outcome, steps }: Followed): Trace {
  const entries: EntryTrace[] = [];
  const profile = profileOf(chain);
  let stopped = false;
  for (const entry of chain.entries.filter((candidate) => candidate.on)) {
    const own = steps.get(entry) ?? [];
    const fired = hasFired(chain, entry, own);
    const ends = profile
      ? fired && entry.kind === 'rule' && endingOf(entry, profile) === 'stop'
      : own.some((step) => step.kind === 'action' && step.node.name === 'stop');
    const linked = entry.kind === 'rule' && entry.link === 'otherwise';
    const missed = stopped ? 'not reached' : own.length === 0 && linked ? 'passed over' : 'did not hold';
    entries.push({
      entry,
      outcome: fired ? 'fired' : missed,
      stopped: ends,
      // Computed on demand: writing tests out takes longer than running them, and few callers need it.
      get tests() {
        return leafSteps(own);
      },
    });
    stopped ||= ends;
  }
  return { fate: outcome.fate, error: outcome.error, entries };
}

/** Under a profile a rule may fire and have no effect, since another has settled where the message goes. */
const hasFired = (chain: Chain, entry: ChainEntry, steps: readonly TraceStep[]): boolean =>
  profileOf(chain) ? endsTrue(steps) : steps.some((step) => acts(entry, step)) || firedWithoutAction(entry, steps);

/** A script block acts only if it does something to the message; a rule has fired if its actions were reached. */
function acts(entry: ChainEntry, step: TraceStep): boolean {
  return step.kind === 'action' && (entry.kind === 'rule' || step.took || step.node.name === 'stop');
}

/** A rule without actions has fired if its condition was true. */
const firedWithoutAction = (entry: ChainEntry, steps: readonly TraceStep[]): boolean =>
  entry.kind === 'rule' && entry.actions.length === 0 && entry.ending === 'continue' && endsTrue(steps);

/** Whether the condition of an entry, the first test that finished last, was true. */
function endsTrue(steps: readonly TraceStep[]): boolean {
  const last = steps.findLast(({ kind }) => kind === 'test');
  return last?.kind === 'test' && last.holds;
}

function leafSteps(steps: readonly TraceStep[]): TestTrace[] {
  return steps.flatMap((step): TestTrace[] => {
    if (step.kind !== 'test' || step.node.tests.length > 0) return [];
    const { node, holds, evidence } = step;
    return [{ text: printTest(node), words: maybeWords(node), holds, evidence }];
  });
}

function maybeWords(node: TestNode): string | null {
  const tree = readTest(node);
  return tree?.kind === 'leaf' ? leafWords(tree.test) : null;
}

/** The entry that each command and test of the script belongs to. */
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
