import type { FoundMail, PassedOver } from '../../files/mail/found';

/** What became of one file that came in with an archive or a folder; files of one message each are told of by their folder. */
export interface FileLine {
  readonly path: string;
  /** Whether it stands for all files of one message each that lie at this path. */
  readonly many: boolean;
  readonly messages: number;
  /** Messages that their folder held before, to the octet. */
  readonly repeated: number;
  /** Messages with anything odd about them. */
  readonly odd: number;
  /** Its messages, from the first of each pair up to and without the second. */
  readonly ranges: readonly Readonly<Pair>[];
  /** Why it, or the rest of it, was passed over; null where it was read whole. */
  readonly passedOver: string | null;
}

/** A line in the making. */
export type ReportLine = { -readonly [Key in Exclude<keyof FileLine, 'ranges'>]: FileLine[Key] } & { ranges: Pair[] };
type Pair = [from: number, to: number];

/** So many lines are kept; what follows is told of in one. */
const MOST_LINES = 5000;
const FURTHER = 'further files';

/** What became of each file, in the order in which they were read. */
export class FileReport {
  readonly #lines = new Map<string, ReportLine>();

  /** The line of a message that was found, or null where it came with no file of its own. */
  line({ path, single }: FoundMail): ReportLine | null {
    if (path === null) return null;
    return single ? this.#at(path.replace(/[^/\\]*$/, ''), true) : this.#at(path, false);
  }

  passedOver({ path, reason }: PassedOver): void {
    this.#at(path, false).passedOver = reason;
  }

  lines(): FileLine[] {
    return [...this.#lines.values()];
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

/** Counts a message on its line; numbers come in ascending order. */
export function countOn(line: ReportLine | null, number: number): void {
  if (!line) return;
  line.messages++;
  const last = line.ranges.at(-1);
  if (last?.[1] === number) last[1]++;
  else line.ranges.push([number, number + 1]);
}
