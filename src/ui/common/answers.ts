'use client';

import { keepPreviousData, useMutation, useQuery } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useEffect, useState } from 'react';
import type { z } from 'zod';
import { call, tell } from './api';
import { jobEnded } from './jobs';

/** Answers of the server, kept while what shows them is there, and checked by the shapes that the server states. */
export interface Answer<T> {
  /** Undefined until it has come. */
  readonly answer: T | undefined;
  /** The server's one sentence, where it refused. */
  readonly failure: string | null;
}

/** What is at a path; asked for anew whenever `of`, which it is an answer about, is another object. */
export function useAnswer<T>(shape: z.ZodType<T>, path: string | null, of?: object): Answer<T> {
  return useAsked(path === null ? null : [path, numberOf(of)], async (signal) =>
    shape.parse(await call(path ?? '', 'GET', undefined, signal)),
  );
}

/** What a question under a key is answered with; nothing is asked while the key is null. `keeps`: the answer before stands meanwhile. */
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

/** The same for a question that is about an object: asked anew when that is another one, while the answer before stands. */
export const useAnswerTo = <T>(key: readonly unknown[], of: object, ask: (signal: AbortSignal) => Promise<T>) =>
  useAsked([...key, numberOf(of)], ask, { keeps: true });

const numbers = new WeakMap<object, number>();
let next = 1;

/** The same number for the same object. */
function numberOf(object: object | undefined): number {
  if (!object) return 0;
  const number = numbers.get(object) ?? next++;
  numbers.set(object, number);
  return number;
}

interface Work<T> {
  readonly ask: () => Promise<T>;
  /** The job that works the answer out, where it is not known yet. */
  readonly jobOf: (answer: T) => string | null;
  /** What it works out, as a sentence begins. */
  readonly what: string;
  readonly signal: AbortSignal;
  /** Told of answers that are not whole yet. */
  readonly meanwhile?: (answer: T) => void;
  /** Whether the job serves nobody else once this is no longer wanted. */
  readonly cancels: boolean;
}

/** Asks until the answer is known, and waits for what has to be worked out first. */
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

/** Whether a text has not changed for so many milliseconds; a first one has to rest too. */
export function useRested(text: string, milliseconds: number): boolean {
  const [rested, setRested] = useState<string | null>(null);
  useEffect(() => {
    const clock = setTimeout(() => setRested(text), milliseconds);
    return () => clearTimeout(clock);
  }, [text, milliseconds]);
  return rested === text;
}

/**
 * Does something on the server, one thing at a time: the page is asked for anew when it is done, and a refusal is told. What comes back says whether it was done.
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
