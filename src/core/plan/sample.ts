import { groupAlike } from '../audit/alike';
import type { Valued } from '../audit/stored';
import { Bitmap } from '../flow/bitmap';
import { type AtomBitmaps, trafficOf } from '../flow/conditions';
import { elementAt } from '../text/lookup';
import type { Kept } from './filing';

/**
 * Messages that stand for the whole mailbox: a few of each group that all tests of the chain see alike, that are of one
 * sender or list, and that lie in one place. What a change does to them is nearly what it does to all, and is found in a
 * fraction of the time.
 */
export interface Sample {
  /** Numbers of messages, ascending. */
  readonly messages: readonly number[];
  /** By index in the sample: how many messages of the mailbox it stands for. */
  readonly weights: readonly number[];
}

/** The most of one group. */
const MOST_OF_GROUP = 6;

/** `always` are messages that are in the sample whatever they are like. */
export function sampleOf(
  atoms: AtomBitmaps,
  mail: Valued,
  keptIn: (message: number) => Kept | null,
  always: readonly number[],
): Sample {
  const count = mail.mail.messages.length;
  const alike = groupAlike(atoms, count);
  const traffic = trafficOf(atoms) ?? Bitmap.full(count);
  const members = new Map<string, number[]>();
  for (const message of traffic.members()) {
    const { sender, listId } = mail.message(message);
    const kept = keptIn(message);
    const key = `${alike.groupOf(message)} ${listId ?? sender} ${kept?.weight ?? ''} ${kept?.folder ?? ''}`;
    const group = members.get(key);
    if (group) group.push(message);
    else members.set(key, [message]);
  }
  const weights = new Map<number, number>();
  const wanted = new Set(always);
  for (const group of members.values()) {
    const chosen = new Set(evenly(group, MOST_OF_GROUP));
    for (const message of group) if (wanted.has(message)) chosen.add(message);
    for (const message of chosen) weights.set(message, group.length / chosen.size);
  }
  const messages = [...weights.keys()].sort((a, b) => a - b);
  return { messages, weights: messages.map((message) => weights.get(message) ?? 1) };
}

/** The last of some messages, and others spread over them. */
function evenly(group: readonly number[], most: number): number[] {
  if (group.length <= most) return [...group];
  return Array.from({ length: most }, (_, at) =>
    elementAt(group, group.length - 1 - Math.floor((at * group.length) / most)),
  );
}

/** Bitmaps over a sample. */
export function projected(atoms: AtomBitmaps, { messages }: Sample): AtomBitmaps {
  return new Map(
    Array.from(atoms, ([key, bitmap]) => {
      const small = new Bitmap(messages.length);
      messages.forEach((message, index) => {
        if (bitmap.has(message)) small.add(index);
      });
      return [key, small];
    }),
  );
}
