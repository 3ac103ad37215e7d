import { FateState } from '../fates/state';
import { compareText, type Fate } from '../sieve/interpret/fate';
import { BitmapAlgebra } from './algebra';
import { Bitmap } from './bitmap';

/** Fates of all messages at once, as sets of them. */
export class FlowState extends FateState<Bitmap> {
  /** `traffic` are the messages that take part; the others have no fate. */
  constructor(
    readonly count: number,
    traffic: Bitmap = Bitmap.full(count),
    algebra = new BitmapAlgebra(count),
  ) {
    super(algebra, traffic);
  }

  /** No message; shared, never changed. */
  get none(): Bitmap {
    return this.algebra.none;
  }

  /** Messages that are delivered, redirected or refused nowhere. */
  dropped(): Bitmap {
    return this.traffic.without(this.somewhere().or(this.rejected));
  }

  /** The fate of a message that takes part. */
  fateOf(message: number): Fate {
    const deliveries = [...this.folders].flatMap(([folder, { messages, flags }]) => {
      if (!messages.has(message)) return [];
      const held = [...flags].filter(([, carried]) => carried.has(message)).map(([flag]) => flag);
      return [{ folder, flags: held.sort(compareText) }];
    });
    const redirects = [...this.redirects].flatMap(([address, sent]) => (sent.has(message) ? [address] : []));
    const replies = [...this.replies].flatMap(([line, sent]) => (sent.has(message) ? [line] : []));
    const refusal = [...this.refusals].find(([, refused]) => refused.has(message))?.[0] ?? null;
    return { deliveries, redirects, rejected: refusal !== null, refusal, replies };
  }

  /** The messages whose fate differs from that in `other`. */
  differsFrom(other: FlowState): Bitmap {
    const none = new Bitmap(this.count);
    let changed = none;
    const compare = (a: Bitmap | undefined, b: Bitmap | undefined) => {
      changed = changed.or((a ?? none).difference(b ?? none));
    };
    for (const folder of new Set([...this.folders.keys(), ...other.folders.keys()])) {
      const [mine, theirs] = [this.folders.get(folder), other.folders.get(folder)];
      compare(mine?.messages, theirs?.messages);
      for (const flag of new Set([...(mine?.flags.keys() ?? []), ...(theirs?.flags.keys() ?? [])])) {
        compare(mine?.flags.get(flag), theirs?.flags.get(flag));
      }
    }
    for (const address of new Set([...this.redirects.keys(), ...other.redirects.keys()])) {
      compare(this.redirects.get(address), other.redirects.get(address));
    }
    for (const line of new Set([...this.replies.keys(), ...other.replies.keys()])) {
      compare(this.replies.get(line), other.replies.get(line));
    }
    for (const reason of new Set([...this.refusals.keys(), ...other.refusals.keys()])) {
      compare(this.refusals.get(reason), other.refusals.get(reason));
    }
    return changed;
  }
}
