import { and, asc, eq } from 'drizzle-orm';
import type { Flow } from '../../core/flow/flow';
import { envelopeOf, readMessage } from '../../core/mail/message';
import {
  askingChain,
  checkMessage,
  checkStored,
  type Expectation,
  expectationFault,
  type StoredCheck,
} from '../../core/repair/expectations';
import type { Chain } from '../../core/rules/rule';
import { elementAt } from '../../core/text/lookup';
import { type Audit, getAudit, Refusal } from '../audits/audits';
import { refuseOverweight } from '../audits/size-limit';
import { flowAtOnce, maybeAtomBitmaps } from '../chain/simulation';
import { inTransaction, type Store } from '../database/open';
import { expectations, probes } from '../database/schema';
import { maybeReasoned, ownDomains, type Verdict, workOutReasoned } from './verdicts';

export interface KeptExpectation extends Expectation {
  readonly id: number;
  /** The message about which the user was asked; null if it is no answer. */
  readonly message: number | null;
}

/** The state of an expectation under a chain. */
export interface Standing {
  readonly expectation: KeptExpectation;
  /** Null while its tests or the chain are not evaluated. */
  readonly stored: StoredCheck | null;
  /** Names of the probes it applies to that do not meet it. */
  readonly probes: readonly string[];
  /** Null while the proof was not attempted. */
  readonly reasoned: Verdict | null;
}

const MOST = 200;

export function listExpectations(store: Store, auditId: string): KeptExpectation[] {
  return store
    .select()
    .from(expectations)
    .where(eq(expectations.auditId, auditId))
    .orderBy(asc(expectations.id))
    .all()
    .map(({ id, statement, message }) => ({ id, ...statement, message }));
}

/** Saves an expectation; throws a refusal if it is invalid. */
export function keepExpectation(
  store: Store,
  auditId: string,
  expectation: Expectation,
  message: number | null = null,
): number {
  getAudit(store, auditId);
  const fault = expectationFault(expectation);
  if (fault) throw new Refusal(fault, 422);
  if (listExpectations(store, auditId).length >= MOST) {
    throw new Refusal(`An audit holds at most ${MOST} expectations. Delete one first.`, 422);
  }
  const row = { auditId, statement: expectation, message, createdAt: Date.now() };
  return inTransaction(store, (tx) => {
    const { lastInsertRowid } = tx.insert(expectations).values(row).run();
    refuseOverweight(tx, auditId);
    return Number(lastInsertRowid);
  });
}

export function dropExpectation(store: Store, auditId: string, id: number): void {
  const { changes } = store
    .delete(expectations)
    .where(and(eq(expectations.auditId, auditId), eq(expectations.id, id)))
    .run();
  if (changes === 0) throw new Refusal('There is no such expectation.', 404);
}

/** The states of all expectations under a chain, as far as known. */
export function standings(store: Store, audit: Audit, chain: Chain, flow: Flow | null): Standing[] {
  const kept = listExpectations(store, audit.id);
  if (kept.length === 0) return [];
  const probed = probesOf(store, audit.id);
  return kept.map((expectation) => ({
    expectation,
    stored: flow && checkOnStored(store, audit, expectation, flow),
    probes: brokenProbes(audit, chain, expectation, probed),
    reasoned: maybeReasoned(store, audit, chain, expectation),
  }));
}

/** The stored messages an expectation applies to, and those that do not meet it. */
export function messagesOfExpectation(store: Store, audit: Audit, id: number, flow: Flow): StoredCheck {
  const expectation = listExpectations(store, audit.id).find((kept) => kept.id === id);
  if (!expectation) throw new Refusal('There is no such expectation.', 404);
  const found = checkOnStored(store, audit, expectation, flow);
  if (!found) throw new Refusal('The tests of this expectation are being evaluated. Try again in a moment.', 409);
  return found;
}

/** Null if its tests need a job to evaluate. */
export function checkOnStored(store: Store, audit: Audit, expectation: Expectation, flow: Flow): StoredCheck | null {
  const asking = askingChain([expectation]);
  const atoms = maybeAtomBitmaps(store, audit, asking) ?? evaluated(store, audit, asking);
  return atoms && checkStored(expectation, flow, atoms, ownDomains(audit));
}

/** Whether its tests can be evaluated without a job. */
function evaluated(store: Store, audit: Audit, asking: Chain) {
  return flowAtOnce(store, audit, asking) && maybeAtomBitmaps(store, audit, asking);
}

interface Probe {
  readonly name: string;
  readonly raw: Buffer;
}

const probesOf = (store: Store, auditId: string): Probe[] =>
  store.select({ name: probes.name, raw: probes.raw }).from(probes).where(eq(probes.auditId, auditId)).all();

function brokenProbes(audit: Audit, chain: Chain, expectation: Expectation, probed: readonly Probe[]): string[] {
  const world = { own: ownDomains(audit), clock: audit.clock };
  return probed.flatMap(({ name, raw }) => {
    const message = readMessage(raw);
    const envelope = envelopeOf(message, audit.recipient);
    return checkMessage(chain, expectation, message, envelope, world) === 'broken' ? [name] : [];
  });
}

/** An expectation that a change would break, with the evidence. */
export interface Broken {
  readonly id: number;
  readonly name: string;
  /** Stored messages that meet it now and would not. */
  readonly messages: readonly number[];
  readonly probes: readonly string[];
  /** A made-up message, for an expectation now met by all possible messages that would not be. */
  readonly witness: Extract<Verdict, { witness: unknown }>['witness'] | null;
}

/**
 * The expectations met under one chain and not under another. A change is not blamed for expectations that are already
 * broken. Missing proofs are attempted here, unless `known` says that there is no time.
 */
export function brokenBy(
  store: Store,
  audit: Audit,
  after: Chain,
  flows: readonly [Flow | null, Flow | null],
  asking: 'all' | 'known' = 'all',
): Broken[] {
  const [before] = flows;
  const then = standings(store, audit, after, flows[1]);
  if (then.length === 0) return [];
  const now = standings(store, audit, audit.draft, before);
  return then.flatMap(({ expectation, stored, probes: probed }, at): Broken[] => {
    const was = elementAt(now, at);
    const messages = stored && was.stored ? [...stored.broken.without(was.stored.broken).members()] : [];
    const newly = probed.filter((name) => !was.probes.includes(name));
    const answer = asking === 'all' ? workOutReasoned : maybeReasoned;
    const reasoned = [audit.draft, after].map((chain) => answer(store, audit, chain, expectation));
    const [first, second] = reasoned;
    const witness = first?.verdict === 'holds' && second && 'witness' in second ? second.witness : null;
    if (messages.length + newly.length === 0 && witness === null) return [];
    return [{ id: expectation.id, name: expectation.name, messages, probes: newly, witness }];
  });
}
