import {
  canonicalDestination,
  type Destination,
  destinationKey,
  destinationOf,
  destinationVerb,
} from '../fates/destination';
import { Bitmap } from '../flow/bitmap';
import { type AtomBitmaps, holds } from '../flow/conditions';
import type { Flow } from '../flow/flow';
import { traceMessage } from '../flow/trace';
import type { Clock } from '../mail/arrival';
import type { Envelope, MailMessage } from '../mail/message';
import type { LoweredChain } from '../reason/chain';
import { Knowledge } from '../reason/knowledge';
import { type Assumption, COMPARISON } from '../reason/solve/assumptions';
import { FALSE, type Formula, type Formulas, not } from '../reason/solve/formula';
import { possibleWithin } from '../reason/solve/solver';
import { buildWitness, type Witness } from '../reason/witness';
import { blankRule, type Chain, looksAtFlags, type TestTree } from '../rules/rule';
import { treeWords } from '../rules/sentence';
import { canonicalAddress, canonicalFolder, type Fate, INBOX, isDropped } from '../sieve/interpret/fate';
import { ARRIVAL, worldFor } from '../sieve/interpret/world';
import { elementAt } from '../text/lookup';

/** A statement about fates that must be true after every change. */
export interface Expectation {
  readonly name: string;
  /** Tests of the message alone: no flags that rules set. */
  readonly tests: TestTree;
  readonly must: Must;
}

/** What must happen to the mail. */
export type Must =
  | { readonly must: 'reach the inbox' }
  /** It is delivered, sent on or refused: its sender or its recipient knows of it. */
  | { readonly must: 'not be dropped' }
  | { readonly must: 'end in'; readonly folder: string }
  /** In some folder or the inbox. */
  | { readonly must: 'be kept' }
  /** To no domain but those of the user's own addresses. */
  | { readonly must: 'not be sent outside' }
  /** There, and nowhere else. */
  | { readonly must: 'end only in'; readonly destination: Destination };

/** “Mail where … must reach the inbox”. */
export function expectationWords({ tests, must }: Pick<Expectation, 'tests' | 'must'>): string {
  const always = tests.kind === 'all' && tests.children.length === 0;
  return `${always ? 'All mail' : `Mail where ${treeWords(tests)}`} must ${mustWords(must)}`;
}

export function mustWords(must: Must): string {
  switch (must.must) {
    case 'end in':
      return `end in “${must.folder}”`;
    case 'be kept':
      return 'be kept somewhere';
    case 'not be dropped':
      return 'not be discarded';
    case 'not be sent outside':
      return 'not be redirected to other domains';
    case 'end only in':
      return destinationVerb(must.destination);
    default:
      return must.must;
  }
}

/** The fault of an expectation in plain words, or null. */
export function expectationFault({ name, tests, must }: Expectation): string | null {
  if (name.trim() === '') return 'The expectation has no name.';
  if (looksAtFlags(tests)) return 'An expectation can only test the message itself, not flags that rules set.';
  if (must.must === 'end in' && must.folder.trim() === '') return 'The folder has no name.';
  if (must.must === 'end only in' && must.destination.folders.some((folder) => folder.trim() === '')) {
    return 'The folder has no name.';
  }
  return null;
}

/** The tests of expectations as rules without actions, so that they are evaluated like all others. */
export function askingChain(expectations: readonly Pick<Expectation, 'tests'>[]): Chain {
  const entries = expectations.map(({ tests }, at) => ({ ...blankRule(`e${at}`), name: 'expectation', tests }));
  return { entries, closing: '' };
}

/** The stored messages an expectation applies to, and those that do not meet it. */
export interface StoredCheck {
  readonly about: Bitmap;
  readonly broken: Bitmap;
}

/** `atoms`: of the tests of the expectation. `own`: the domains of the user's own addresses, in lower case. */
export function checkStored(
  { tests, must }: Expectation,
  flow: Flow,
  atoms: AtomBitmaps,
  own: ReadonlySet<string>,
): StoredCheck {
  const about = holds(tests, atoms, { count: flow.count, flags: new Map() }).and(flow.fates.traffic);
  return { about, broken: about.and(brokenIn(must, flow, own)) };
}

/** The messages whose fate does not meet it. */
export function brokenIn(must: Must, { fates, count }: Flow, own: ReadonlySet<string>): Bitmap {
  const inFolder = (folder: string) => fates.folders.get(canonicalFolder(folder))?.messages ?? fates.none;
  switch (must.must) {
    case 'reach the inbox':
      return inFolder(INBOX).not();
    case 'not be dropped':
      return fates.dropped();
    case 'end in':
      return inFolder(must.folder).not();
    case 'be kept': {
      let kept = new Bitmap(count);
      for (const { messages } of fates.folders.values()) kept = kept.or(messages);
      return kept.not();
    }
    case 'not be sent outside': {
      let sent = new Bitmap(count);
      for (const [address, messages] of fates.redirects) if (isOutside(address, own)) sent = sent.or(messages);
      return sent;
    }
    case 'end only in': {
      const { folders, redirects, rejected } = must.destination;
      let elsewhere = rejected ? fates.rejected.not() : fates.rejected;
      const compare = (wanted: readonly string[], there: readonly (readonly [string, Bitmap])[]) => {
        const missing = wanted.filter((one) => !there.some(([name]) => name === one));
        if (missing.length > 0) elsewhere = fates.none.not();
        for (const [name, messages] of there) {
          elsewhere = elsewhere.or(wanted.includes(name) ? messages.not() : messages);
        }
      };
      compare(
        folders.map(canonicalFolder),
        [...fates.folders].map(([name, { messages }]) => [name, messages]),
      );
      compare(redirects.map(canonicalAddress), [...fates.redirects]);
      return elsewhere;
    }
    default:
      must satisfies never;
      throw new Error('unknown requirement');
  }
}

const isOutside = (address: string, own: ReadonlySet<string>): boolean =>
  !own.has(address.slice(address.lastIndexOf('@') + 1).toLowerCase());

/** Whether one message meets it. */
export function isMet(must: Must, fate: Fate, own: ReadonlySet<string>): boolean {
  const endsIn = (name: string) => fate.deliveries.some(({ folder }) => folder === canonicalFolder(name));
  switch (must.must) {
    case 'reach the inbox':
      return endsIn(INBOX);
    case 'not be dropped':
      return !isDropped(fate);
    case 'end in':
      return endsIn(must.folder);
    case 'be kept':
      return fate.deliveries.length > 0;
    case 'not be sent outside':
      return !fate.redirects.some((address) => isOutside(address, own));
    case 'end only in':
      return destinationKey(destinationOf(fate)) === destinationKey(canonicalDestination(must.destination));
    default:
      must satisfies never;
      throw new Error('unknown requirement');
  }
}

/** Whether mail with this destination meets it. */
export const isMetAt = (must: Must, { folders, redirects, rejected }: Destination, own: ReadonlySet<string>): boolean =>
  isMet(
    must,
    { deliveries: folders.map((folder) => ({ folder, flags: [] })), redirects, rejected, refusal: null, replies: [] },
    own,
  );

/** The result for one message: not concerned, met, or not met. */
export type SingleCheck = 'not concerned' | 'met' | 'broken';

export function checkMessage(
  chain: Chain,
  expectation: Expectation,
  message: MailMessage,
  envelope: Envelope,
  { own, clock }: { readonly own: ReadonlySet<string>; readonly clock: Clock },
): SingleCheck {
  const world = worldFor(message, clock);
  const [asked] = traceMessage(askingChain([expectation]), message, envelope, world).entries;
  if (asked?.outcome !== 'fired') return 'not concerned';
  const { fate } = traceMessage(chain, message, envelope, worldFor(message, clock));
  return isMet(expectation.must, fate, own) ? 'met' : 'broken';
}

export type Reasoned =
  /** For every message that keeps the assumptions. */
  | { readonly verdict: 'holds'; readonly assumes: readonly Assumption[] }
  /** This message breaks it, and the interpreter has confirmed it. */
  | { readonly verdict: 'broken'; readonly witness: Witness }
  | { readonly verdict: 'undecided'; readonly reason: string };

/** Whether all possible messages meet an expectation under a chain. */
export function checkAll(
  chain: Chain,
  expectation: Expectation,
  own: ReadonlySet<string>,
  { knowledge = new Knowledge(), clock = ARRIVAL }: { readonly knowledge?: Knowledge; readonly clock?: Clock } = {},
): Reasoned {
  const { known, chains } = knowledge.lower(chain, askingChain([expectation]));
  const [lowered, asking] = [elementAt(chains, 0), elementAt(chains, 1)];
  const { formulas } = known.lowering;
  const about = asking.entries[0]?.condition ?? FALSE;
  const broken = formulas.and(about, breaking(expectation.must, lowered, own, formulas));
  const answer = possibleWithin(known.solver, [broken], COMPARISON, knowledge.budget);
  if (answer.answer === 'impossible') return { verdict: 'holds', assumes: answer.assumes };
  if (answer.answer === 'undecided') return { verdict: 'undecided', reason: answer.reason };
  const witness = buildWitness(answer.model, known.lowering.facts);
  const shows =
    witness && checkMessage(chain, expectation, witness.message, witness.envelope, { own, clock }) === 'broken';
  if (shows) return { verdict: 'broken', witness };
  return {
    verdict: 'undecided',
    reason: 'the expectation depends on tests or a script block that the proof cannot reason about',
  };
}

function breaking(must: Must, { fates }: LoweredChain, own: ReadonlySet<string>, formulas: Formulas): Formula {
  const part = (name: string) => fates.get(name) ?? FALSE;
  const named = (prefix: string) => [...fates].filter(([name]) => name.startsWith(prefix));
  const parts = (prefix: string) => named(prefix).map(([, when]) => when);
  switch (must.must) {
    case 'reach the inbox':
      return not(part(`folder ${INBOX}`));
    case 'end in':
      return not(part(`folder ${canonicalFolder(must.folder)}`));
    case 'be kept':
      return not(formulas.or(...parts('folder ')));
    case 'not be dropped':
      return not(formulas.or(...parts('folder '), ...parts('redirect '), part('rejected')));
    case 'not be sent outside': {
      const sent = [...fates].flatMap(([name, when]) => {
        const outside = name.startsWith('redirect ') && isOutside(name.slice('redirect '.length), own);
        // A script block that only the interpreter understands may redirect mail anywhere.
        return outside || name.startsWith('block ') ? [when] : [];
      });
      return formulas.or(...sent);
    }
    case 'end only in': {
      const { folders, redirects, rejected } = must.destination;
      const wanted = new Set([
        ...folders.map((folder) => `folder ${canonicalFolder(folder)}`),
        ...redirects.map((address) => `redirect ${canonicalAddress(address)}`),
        ...(rejected ? ['rejected'] : []),
      ]);
      const all = [...['folder ', 'redirect ', 'block '].flatMap(named), ['rejected', part('rejected')] as const];
      const unwanted = all.flatMap(([name, when]) => (wanted.has(name) ? [] : [when]));
      return formulas.or(...[...wanted].map((name) => not(part(name))), ...unwanted);
    }
    default:
      must satisfies never;
      throw new Error('unknown requirement');
  }
}
