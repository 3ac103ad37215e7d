'use client';

import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import type { z } from 'zod';
import { call, tell } from './api';
import { jobEnded } from './jobs';

/** Responses of the server, cached while they are shown, and checked by the server's shapes. */
export interface Answer<T> {
  /** Undefined until it has arrived. */
  readonly answer: T | undefined;
  /** The server's one sentence, if it refused. */
  readonly failure: string | null;
}

/** The response at a path; refetched whenever `of`, the object it is about, changes identity. */
export function useAnswer<T>(shape: z.ZodType<T>, path: string | null, of?: object): Answer<T> {
  return useAsked(path === null ? null : [path, numberOf(of)], async (signal) =>
    shape.parse(await call(path ?? '', 'GET', undefined, signal)),
  );
}

/**
 * The response to a query under a key; nothing is fetched while the key is null. `keeps`: the previous response is
 * shown meanwhile.
 */
export function useAsked<T>(
  key: readonly unknown[] | null,
  ask: (signal: AbortSignal) => Promise<T>,
  { keeps = false } = {},
): Answer<T> & { readonly isCurrent: boolean } {
  const { data, error, isPlaceholderData } = useQuery({
    queryKey: key ?? ['nothing'],
    queryFn: ({ signal }) => ask(signal),
    enabled: key !== null,
    ...(keeps ? { placeholderData: keepPreviousData } : {}),
  });
  return {
    answer: key === null ? undefined : data,
    failure: key === null ? null : (error?.message ?? null),
    isCurrent: !isPlaceholderData && (data !== undefined || error !== null),
  };
}

/**
 * The same for a query about an object: refetched when its identity changes, with the previous response shown
 * meanwhile.
 */
export const useAnswerTo = <T>(key: readonly unknown[], of: object, ask: (signal: AbortSignal) => Promise<T>) =>
  useAsked([...key, numberOf(of)], ask, { keeps: true });

const numbers = new WeakMap<object, number>();
let next = 1;

/** A number for the identity of an object. */
export function numberOf(object: object | undefined): number {
  if (!object) return 0;
  const number = numbers.get(object) ?? next++;
  numbers.set(object, number);
  return number;
}

interface Work<T> {
  readonly ask: () => Promise<T>;
  /** The job that computes the response, if it is not known yet. */
  readonly jobOf: (answer: T) => string | null;
  /** What the job computes, as the beginning of a sentence. */
  readonly what: string;
  readonly signal: AbortSignal;
  /** Receives incomplete responses. */
  readonly meanwhile?: (answer: T) => void;
  /** Whether to cancel the job when nobody waits for it here any more. */
  readonly cancels: boolean;
}

/** Fetches until the response is complete, waiting for its job. */
export async function workedOut<T>({ ask, jobOf, what, signal, meanwhile, cancels }: Work<T>): Promise<T> {
  for (;;) {
    const answer = await ask();
    const job = jobOf(answer);
    if (job === null) return answer;
    meanwhile?.(answer);
    const cancel = () => void call(`/api/jobs/${job}`, 'DELETE').catch(() => {});
    if (cancels) signal.addEventListener('abort', cancel, { once: true });
    if (cancels && signal.aborted) cancel();
    await jobEnded(job, () => !signal.aborted, what);
    signal.removeEventListener('abort', cancel);
    signal.throwIfAborted();
  }
}

/** Whether a text has been unchanged for some milliseconds; the first one must wait too. */
export function useRested(text: string, milliseconds: number): boolean {
  const [rested, setRested] = useState<string | null>(null);
  useEffect(() => {
    const clock = setTimeout(() => setRested(text), milliseconds);
    return () => clearTimeout(clock);
  }, [text, milliseconds]);
  return rested === text;
}

/**
 * Runs actions on the server one at a time: the page refreshes after success, and a refusal is shown. Resolves to
 * whether it succeeded.
 */
export function useAct(): {
  readonly act: (request: () => Promise<unknown>) => Promise<boolean>;
  readonly busy: boolean;
} {
  const router = useRouter();
  const { mutateAsync, isPending } = useMutation({
    mutationFn: (request: () => Promise<unknown>) => request(),
    onSuccess: () => router.refresh(),
    onError: tell,
  });
  const act = (request: () => Promise<unknown>) =>
    mutateAsync(request).then(
      () => true,
      () => false,
    );
  return { act, busy: isPending };
}
