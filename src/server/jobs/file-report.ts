import type { FoundMail, PassedOver } from '../../files/mail/found';

/** The result for one file of an archive or folder; files of one message each are combined by folder. */
export interface FileLine {
  readonly path: string;
  /** Whether the line combines all files of one message each at this path. */
  readonly many: boolean;
  readonly messages: number;
  /** Messages already in their folder. */
  readonly repeated: number;
  /** Irregular messages. */
  readonly odd: number;
  /** The messages of the file: pairs of the first number and the number after the last. */
  readonly ranges: readonly Readonly<Pair>[];
  /** Why the file, or the rest of it, was skipped; null if the file was read completely. */
  readonly passedOver: string | null;
}

/** A line under construction. */
export type ReportLine = { -readonly [Key in Exclude<keyof FileLine, 'ranges'>]: FileLine[Key] } & { ranges: Pair[] };
type Pair = [from: number, to: number];

/** The most lines kept; the rest is combined in one. */
const MOST_LINES = 5000;
const FURTHER = 'further files';

/** Collects the results of files in the order they are read. */
export class FileReport {
  readonly #lines = new Map<string, ReportLine>();

  /** The line of a message, or null if the message has no file of its own. */
  line({ path, single }: FoundMail): ReportLine | null {
    if (path === null) return null;
    return single ? this.#at(path.replace(/[^/\\]*$/, ''), true) : this.#at(path, false);
  }

  passedOver({ path, reason }: PassedOver): void {
    this.#at(path, false).passedOver = reason;
  }

  /** Without the messages from a number on, if one is given. */
  lines(end = Number.POSITIVE_INFINITY): FileLine[] {
    if (end === Number.POSITIVE_INFINITY) return [...this.#lines.values()];
    return Array.from(this.#lines.values(), (line) => {
      const ranges = line.ranges.flatMap(([from, to]): Pair[] => (from < end ? [[from, Math.min(to, end)]] : []));
      return { ...line, ranges, messages: ranges.reduce((sum, [from, to]) => sum + to - from, 0) };
    });
  }

  #at(path: string, many: boolean): ReportLine {
    const known = this.#lines.get(path);
    if (known) return known;
    if (this.#lines.size >= MOST_LINES && path !== FURTHER) return this.#at(FURTHER, true);
    const line: ReportLine = { path, many, messages: 0, repeated: 0, odd: 0, ranges: [], passedOver: null };
    this.#lines.set(path, line);
    return line;
  }
}

/** Counts a message on its line; numbers arrive in ascending order. */
export function countOn(line: ReportLine | null, number: number): void {
  if (!line) return;
  line.messages++;
  const last = line.ranges.at(-1);
  if (last?.[1] === number) last[1]++;
  else line.ranges.push([number, number + 1]);
}
