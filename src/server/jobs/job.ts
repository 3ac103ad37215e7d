import type { Edit } from '../../core/rules/edit';
import type { ChainRef } from '../changes/versions';

/** What a job tells while it runs. */
export interface Progress {
  /** A short phrase: "reading mail", "evaluating tests". */
  readonly phase: string;
  readonly done: number;
  readonly total: number;
  /** What `done` and `total` count. */
  readonly unit: 'bytes' | 'columns' | 'messages' | 'steps';
  /** Messages so far, where `done` counts something else. */
  readonly messages?: number;
}

/** What a job may use of the world. */
export interface JobContext {
  readonly auditId: string;
  readonly report: (progress: Progress) => void;
  /** Throws `Cancelled` once the user has asked to end the job; called often. */
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
      /** Whether the file is a copy of what was sent, to be removed afterwards. The user's own files are left alone. */
      readonly ours: boolean;
      /** The source it replaces: removed once this import is complete. */
      readonly replaces?: string;
    }
  | { readonly kind: 'simulate' }
  | { readonly kind: 'verify' }
  | { readonly kind: 'weigh' | 'foresee'; readonly edits: readonly Edit[] }
  /** Tries all repairs of the finding with this key. */
  | { readonly kind: 'repairs'; readonly finding: string }
  | { readonly kind: 'compare'; readonly before: ChainRef; readonly after: ChainRef };

/** What passes between the worker and the server. */
export interface WorkerTask {
  readonly auditId: string;
  readonly request: JobRequest;
  readonly databaseFile: string;
  /** One number that is not 0 once the job is to end. */
  readonly cancel: SharedArrayBuffer;
}

export type WorkerReport =
  | { readonly kind: 'progress'; readonly progress: Progress }
  | { readonly kind: 'done'; readonly message: string }
  | { readonly kind: 'cancelled' }
  | { readonly kind: 'failed'; readonly message: string };
