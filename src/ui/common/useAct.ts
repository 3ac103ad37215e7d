'use client';

import { useMutation } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { tell } from './api';

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
