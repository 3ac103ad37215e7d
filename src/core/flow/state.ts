import { type Algebra, FateState } from '../fates/state';
import { compareText, type Fate } from '../sieve/interpret/fate';
import { elementAt } from '../text/lookup';
import { Bitmap } from './bitmap';

/** Sets of messages as an algebra. */
export class BitmapAlgebra implements Algebra<Bitmap> {
  readonly none: Bitmap;
  readonly all: Bitmap;

  constructor(readonly count: number) {
    this.none = new Bitmap(count).compact();
    this.all = Bitmap.full(count);
  }

  and(a: Bitmap, b: Bitmap): Bitmap {
    return a.and(b);
  }

  or(a: Bitmap, b: Bitmap): Bitmap {
    return a.or(b);
  }

  without(a: Bitmap, b: Bitmap): Bitmap {
    return a.without(b);
  }

  shrunk(a: Bitmap, b: Bitmap): Bitmap {
    return a.shrunk(b);
  }

  isNone(a: Bitmap): boolean {
    return a.isEmpty();
  }

  begin(): Bitmap {
    return new Bitmap(this.count);
  }

  adding(collection: Bitmap, more: Bitmap): Bitmap {
    collection.addEvery(more);
    return collection;
  }

  removing(collection: Bitmap, less: Bitmap): Bitmap {
    collection.remove(less);
    return collection;
  }

  replacing(collection: Bitmap, where: Bitmap, model: Bitmap): Bitmap {
    collection.takeFrom(model, where);
    return collection;
  }
}

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

  /** The empty set; shared, never changed. */
  get none(): Bitmap {
    return this.algebra.none;
  }

  /** Messages that are delivered, redirected or rejected nowhere. */
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

  /** The fates of all messages; of one that takes no part, an empty one. */
  allFates(): Fate[] {
    const fates = Array.from({ length: this.count }, () => ({
      deliveries: [] as { readonly folder: string; readonly flags: string[] }[],
      redirects: [] as string[],
      rejected: false,
      refusal: null as string | null,
      replies: [] as string[],
    }));
    const each = (messages: Bitmap, tell: (fate: (typeof fates)[number]) => void) => {
      for (const message of messages.members()) tell(elementAt(fates, message));
    };
    for (const [folder, { messages, flags }] of this.folders) {
      each(messages, ({ deliveries }) => deliveries.push({ folder, flags: [] }));
      for (const [flag, carried] of [...flags].sort(([a], [b]) => compareText(a, b)))
        each(carried.and(messages), ({ deliveries }) => deliveries.at(-1)?.flags.push(flag));
    }
    for (const [address, sent] of this.redirects) each(sent, ({ redirects }) => redirects.push(address));
    for (const [line, sent] of this.replies) each(sent, ({ replies }) => replies.push(line));
    for (const [reason, refused] of this.refusals) {
      each(refused, (fate) => {
        fate.rejected = true;
        fate.refusal ??= reason;
      });
    }
    return fates;
  }

  /** The messages whose fate differs from `other`. */
  differsFrom(other: FlowState): Bitmap {
    const none = new Bitmap(this.count);
    const changed = new Bitmap(this.count);
    const compare = (a: Bitmap | undefined, b: Bitmap | undefined) => {
      if (a !== b) changed.addDifference(a ?? none, b ?? none);
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
