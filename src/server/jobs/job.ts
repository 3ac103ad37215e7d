import type { Edit } from '../../core/rules/edit';
import type { ChainRef } from '../changes/versions';

/** The progress of a job. */
export interface Progress {
  /** A short phrase: "reading mail", "evaluating tests". */
  readonly phase: string;
  readonly done: number;
  readonly total: number;
  /** The unit of `done` and `total`. */
  readonly unit: 'bytes' | 'columns' | 'messages' | 'steps';
  /** Messages so far, if `done` counts something else. */
  readonly messages?: number;
}

/** The resources a job may use. */
export interface JobContext {
  readonly auditId: string;
  readonly report: (progress: Progress) => void;
  /** Throws `Cancelled` once the user has cancelled the job; called often. */
  readonly checkpoint: () => void;
}

export class Cancelled extends Error {
  constructor() {
    super('cancelled');
  }
}

export type JobRequest =
  | {
      readonly kind: 'import';
      readonly sourceId: string;
      /** A file, or a folder of files. */
      readonly file: string;
      /** Whether the file is a copy of an upload, to be deleted afterwards. The user's own files are not touched. */
      readonly ours: boolean;
      /** The source it replaces, which is removed once this import is complete. */
      readonly replaces?: string;
    }
  /** Fetches what is new in the remembered mailbox; the password is the secret of the task. */
  | { readonly kind: 'fetch'; readonly sourceId: string }
  | { readonly kind: 'simulate' | 'verify' | 'plan' }
  | { readonly kind: 'weigh' | 'foresee'; readonly edits: readonly Edit[] }
  /** Tries all repairs of the finding with this key. */
  | { readonly kind: 'repairs'; readonly finding: string }
  | { readonly kind: 'compare'; readonly before: ChainRef; readonly after: ChainRef };

/** Messages between worker and server. */
export interface WorkerTask {
  readonly auditId: string;
  readonly request: JobRequest;
  readonly databaseFile: string;
  /** What must not be stored; empty for most. */
  readonly secret: string;
  /** A shared number that becomes nonzero when the job is cancelled. */
  readonly cancel: SharedArrayBuffer;
}

export type WorkerReport =
  | { readonly kind: 'progress'; readonly progress: Progress }
  | { readonly kind: 'done'; readonly message: string }
  | { readonly kind: 'cancelled' }
  | { readonly kind: 'failed'; readonly message: string };
