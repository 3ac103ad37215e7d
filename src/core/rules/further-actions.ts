/** Actions beyond the plain ones; only the interpreter knows their effect on a message. */
export type FurtherAction =
  | Vacation
  | Notify
  /** RFC 5429. */
  | { readonly action: 'reject'; readonly reason: string }
  | { readonly action: 'ereject'; readonly reason: string }
  /** RFC 8579 section 4: into the folder that has a use, or into the one named where there is none. */
  | {
      readonly action: 'fileinto-use';
      readonly use: string;
      readonly folder: string;
      readonly copy: boolean;
      readonly create?: true;
      readonly flags: readonly string[] | null;
    }
  | RedirectFurther
  /** RFC 5703 sections 5 and 6. */
  | {
      readonly action: 'replace';
      readonly text: string;
      readonly mime?: true;
      readonly subject?: string;
      readonly from?: string;
    }
  | {
      readonly action: 'enclose';
      readonly text: string;
      readonly subject?: string;
      readonly headers?: readonly string[];
    }
  /** RFC 6558. */
  | { readonly action: 'convert'; readonly from: string; readonly to: string; readonly parameters: readonly string[] }
  /** RFC 5463 section 5: ends the script with an error. */
  | { readonly action: 'error'; readonly message: string };

/** Files a copy of what a script sends (RFC 8580). */
export interface FiledCopy {
  readonly folder: string;
  readonly flags?: readonly string[];
  readonly create?: true;
  readonly use?: string;
}

/** RFC 5230, and RFC 6131 for seconds. */
export interface Vacation {
  readonly action: 'vacation';
  readonly reason: string;
  readonly period?: { readonly unit: 'days' | 'seconds'; readonly number: number };
  readonly subject?: string;
  readonly from?: string;
  readonly addresses?: readonly string[];
  readonly mime?: true;
  readonly handle?: string;
  readonly fcc?: FiledCopy;
}

/** RFC 5435. */
export interface Notify {
  readonly action: 'notify';
  readonly method: string;
  readonly from?: string;
  readonly importance?: string;
  readonly options?: readonly string[];
  readonly message?: string;
  readonly fcc?: FiledCopy;
}

/** RFC 6134 section 2.5 for external lists, RFC 6009 for delivery parameters. */
export interface RedirectFurther {
  readonly action: 'redirect-further';
  /** Or the name of a list. */
  readonly address: string;
  readonly copy: boolean;
  readonly list?: true;
  readonly notify?: readonly string[];
  readonly ret?: string;
  readonly by?: {
    /** Seconds from now, or a time. */
    readonly time: number | string;
    readonly mode?: string;
    readonly trace?: true;
  };
}

export type FurtherActionName = FurtherAction['action'];
