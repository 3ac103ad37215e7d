import { useRef, useState } from 'react';
import { packed } from './packed';

/** Files that were dropped and are not sent yet. */
export interface Drops {
  /** Scripts and sheets whose order is being asked for; null where it need not be. */
  readonly asked: readonly File[] | null;
  readonly drop: (files: readonly File[]) => Promise<void>;
  readonly reorder: (files: readonly File[]) => void;
  /** Sends all in the order as it stands. */
  readonly accept: () => void;
  readonly cancel: () => void;
}

/**
 * Sorts what is dropped and hands it on, one drop after the other. Several files of rules are not handed on before their order
 * was confirmed; what is dropped meanwhile comes to them.
 */
export function useDrops(send: (files: readonly File[]) => Promise<void>): Drops {
  const [asked, setAsked] = useState<readonly File[] | null>(null);
  /** As it stands between two drawings of the page. */
  const waiting = useRef<{ rules: readonly File[]; others: readonly File[] } | null>(null);
  const sending = useRef<Promise<void>>(Promise.resolve());
  const ask = (rules: readonly File[], others: readonly File[]) => {
    waiting.current = { rules, others };
    setAsked(rules);
  };
  const hand = (files: readonly File[]) => {
    sending.current = sending.current.then(() => send(files)).catch(() => {});
    return sending.current;
  };
  const end = () => {
    const { rules, others } = waiting.current ?? { rules: [], others: [] };
    waiting.current = null;
    setAsked(null);
    return [...rules, ...others];
  };
  return {
    asked,
    drop: async (files) => {
      const { rules, others } = await packed(files);
      const before = waiting.current;
      if (before || rules.length > 1) {
        ask([...(before?.rules ?? []), ...rules], [...(before?.others ?? []), ...others]);
      } else await hand([...rules, ...others]);
    },
    reorder: (rules) => ask(rules, waiting.current?.others ?? []),
    accept: () => void hand(end()),
    cancel: () => void end(),
  };
}
