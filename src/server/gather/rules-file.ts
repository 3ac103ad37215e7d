import type { Chain } from '../../core/rules/rule';
import { limitFault } from '../../files/chain-shape';
import type { RulesFault as FaultInFile } from '../../files/rules/form';
import { RULES_FORMS, rulesForm } from '../../files/rules/forms';
import { Refusal } from '../audits/audits';
import { faultsOf } from '../changes/changes';
import type { JobRequest } from '../jobs/job';

export const isSheetName = (fileName: string): boolean => RULES_FORMS.sheet.is(fileName, '');

export interface RulesRead {
  readonly chain: Chain;
  /** As it is kept for being looked at. */
  readonly source: string;
  readonly faults: readonly RulesFault[];
}

/** What is wrong at a place of a file. */
export interface RulesFault {
  /** The place, and what is wrong there. */
  readonly words: string;
  /** The entry of the chain that it concerns, by its place; null where it is none. */
  readonly entry: number | null;
}

/** Faults that are kept of a file: what is none of its form may have one in each word. */
const MOST_FAULTS = 1000;

function told(all: readonly FaultInFile[]): RulesFault[] {
  const first = all.slice(0, MOST_FAULTS).map(({ at, words, entry }) => ({
    words: at === '' ? words : `${at}: ${words}`,
    entry,
  }));
  const left = all.length - first.length;
  return left > 0 ? [...first, { words: `and ${left} more`, entry: null }] : first;
}

/** Rules in any form. Throws a refusal for what holds none, or exceeds a limit. */
export function readRules(fileName: string, bytes: Uint8Array): RulesRead {
  const name = rulesForm(fileName, bytes);
  const read = RULES_FORMS[name].read(bytes);
  if (!read.ok) throw refusalOf(fileName, name, read);
  // What a document says need not be Sieve at all.
  const [fault] = name === 'json' ? faultsOf(read.chain) : [];
  if (fault !== undefined) throw new Refusal(`“${fileName}” cannot be read: ${fault}.`, 422);
  const limit = limitFault(read.chain);
  if (limit !== null) throw new Refusal(`“${fileName}” is beyond a limit: ${limit}.`, 413);
  return { chain: read.chain, source: read.source, faults: told(read.faults) };
}

type Unread = Extract<ReturnType<(typeof RULES_FORMS)['sieve']['read']>, { ok: false }>;

function refusalOf(fileName: string, name: keyof typeof RULES_FORMS, { reason, place }: Unread): Refusal {
  if (place) return new Refusal(`“${fileName}” is no ${RULES_FORMS.xml.title}: line ${place[0]}, ${reason}.`, 422);
  if (name !== 'sheet') return new Refusal(`“${fileName}” cannot be read: ${reason}.`, 422);
  const remedy = 'its columns can be told what they mean on the page where rules are typed in';
  return new Refusal(`“${fileName}” has no column “Rule”: ${remedy}.`, 422);
}

/** Whatever runs jobs. */
export interface JobStarter {
  start(auditId: string, request: JobRequest): string;
}

/** What a file was imported as. */
export interface Imported {
  readonly kind: 'script' | 'mail';
  /** The script, or the source of mail, that was made of it. */
  readonly target: string;
  readonly statement: string;
}

/** Reads a file of rules, in this thread or in another one. */
export type RulesReader = (fileName: string, octets: Uint8Array) => Promise<RulesRead>;

/** The very same file is there. */
export class AlreadyThere extends Refusal {
  constructor(
    fileName: string,
    readonly kind: Imported['kind'],
    readonly target: string,
  ) {
    super(`The same file was imported before, as “${fileName}”.`, 409);
  }
}
