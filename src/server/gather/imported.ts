import { Refusal } from '../audits/audits';
import type { JobRequest } from '../jobs/job';
import type { RulesRead } from './rules-file';

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
