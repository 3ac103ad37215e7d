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
  /** The text stored for display. */
  readonly source: string;
  readonly faults: readonly RulesFault[];
}

/** A fault at a place of a file. */
export interface RulesFault {
  /** The place and the fault. */
  readonly words: string;
  /** The index of the chain entry concerned; null for none. */
  readonly entry: number | null;
}

/** Faults stored of a file: a file of another format may have one in each word. */
const MOST_FAULTS = 1000;

function told(all: readonly FaultInFile[]): RulesFault[] {
  const first = all.slice(0, MOST_FAULTS).map(({ at, words, entry }) => ({
    words: at === '' ? words : `${at}: ${words}`,
    entry,
  }));
  const left = all.length - first.length;
  return left > 0 ? [...first, { words: `and ${left} more`, entry: null }] : first;
}

/** Reads rules in any format; `me` are the user's own addresses. Throws a refusal if there are none, or a limit is exceeded. */
export function readRules(fileName: string, bytes: Uint8Array, me: readonly string[] = []): RulesRead {
  const name = rulesForm(fileName, bytes);
  const read = RULES_FORMS[name].read(bytes, { me });
  if (!read.ok) throw refusalOf(fileName, name, read);
  // A JSON document need not correspond to valid Sieve.
  const [fault] = name === 'json' ? faultsOf(read.chain) : [];
  if (fault !== undefined) throw new Refusal(`“${fileName}” cannot be read: ${fault}.`, 422);
  const limit = limitFault(read.chain);
  if (limit !== null) throw new Refusal(`“${fileName}” exceeds a limit: ${limit}. Nothing was imported.`, 413);
  return { chain: read.chain, source: read.source, faults: told(read.faults) };
}

type Unread = Extract<ReturnType<(typeof RULES_FORMS)['sieve']['read']>, { ok: false }>;

function refusalOf(fileName: string, name: keyof typeof RULES_FORMS, { reason, place }: Unread): Refusal {
  if (place)
    return new Refusal(`“${fileName}” is not a valid ${RULES_FORMS.xml.title}: line ${place[0]}, ${reason}.`, 422);
  if (name !== 'sheet') return new Refusal(`“${fileName}” cannot be read: ${reason}.`, 422);
  const remedy = 'open it on the Sheet page to choose the meaning of its columns';
  return new Refusal(`“${fileName}” has no column “Rule”: ${remedy}.`, 422);
}

/** Anything that runs jobs. */
export interface JobStarter {
  start(auditId: string, request: JobRequest): string;
}

/** The kind a file was imported as. */
export interface Imported {
  readonly kind: 'script' | 'mail';
  /** The script or source of mail made from it. */
  readonly target: string;
  readonly statement: string;
}

/** Reads a file of rules, in this thread or another one. */
export type RulesReader = (fileName: string, octets: Uint8Array, me?: readonly string[]) => Promise<RulesRead>;

/** The identical file is already imported. */
export class AlreadyThere extends Refusal {
  constructor(
    fileName: string,
    readonly kind: Imported['kind'],
    readonly target: string,
  ) {
    super(`The same file was imported before, as “${fileName}”.`, 409);
  }
}
