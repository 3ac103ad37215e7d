'use client';

import { useEffect, useRef, useState } from 'react';
import type { Chain } from '../../core/rules/rule';
import type { ReaderQuestion, Reading } from './reader.worker';

export interface ReadingState {
  /** The newest reading there is; null before the first. */
  readonly reading: Reading | null;
  /** Whether the text has changed since. */
  readonly behind: boolean;
  /** Why nothing can be read, where that is so. */
  readonly failure: string | null;
}

/** Milliseconds of rest before a changed text is read again. */
const REST = 120;

/** What a text makes of a part of a chain, read anew whenever the text rests. */
export function useReading(chain: Chain, ids: readonly string[] | null, text: string): ReadingState {
  const worker = useRef<Worker | null>(null);
  const asked = useRef(0);
  const [reading, setReading] = useState<Reading | null>(null);
  const [failure, setFailure] = useState<string | null>(null);
  const [behind, setBehind] = useState(true);
  useEffect(() => {
    const reader = new Worker(new URL('./reader.worker.ts', import.meta.url), { type: 'module' });
    const begin: ReaderQuestion = { kind: 'begin', chain, ids };
    reader.postMessage(begin);
    reader.onmessage = ({ data }: MessageEvent<Reading>) => {
      if (data.number !== asked.current) return;
      setReading(data);
      setBehind(false);
    };
    reader.onerror = ({ message }) => setFailure(message || 'the reader did not start');
    worker.current = reader;
    return () => reader.terminate();
  }, [chain, ids]);
  useEffect(() => {
    setBehind(true);
    const timer = setTimeout(() => {
      const question: ReaderQuestion = { kind: 'read', number: ++asked.current, text };
      worker.current?.postMessage(question);
    }, REST);
    return () => clearTimeout(timer);
  }, [text]);
  return { reading, behind, failure };
}
