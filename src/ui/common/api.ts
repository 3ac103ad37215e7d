import { notifications } from '@mantine/notifications';
import { z } from 'zod';

const failure = z.object({ error: z.string() });

/** Calls a route handler; throws an error whose message is the server's one clear sentence. */
export async function call(
  path: string,
  method: 'GET' | 'POST' | 'PUT' | 'DELETE',
  body?: unknown,
  signal?: AbortSignal,
): Promise<unknown> {
  const response = await fetch(path, {
    method,
    ...(signal ? { signal } : {}),
    ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
  }).catch(() => {
    signal?.throwIfAborted();
    throw new Error('The server does not answer.');
  });
  return readAnswer(response);
}

/** Sends a file, its name percent-encoded in a header; throws like `call`. */
export async function sendTo(path: string, file: File): Promise<unknown> {
  const headers = { 'x-file-name': encodeURIComponent(file.name), 'content-type': 'application/octet-stream' };
  const response = await fetch(path, { method: 'POST', headers, body: file }).catch(() => {
    throw new Error('The server does not answer.');
  });
  return readAnswer(response);
}

export async function readAnswer(response: Response): Promise<unknown> {
  const answer: unknown = await response.json().catch(() => null);
  if (response.ok) return answer;
  const told = failure.safeParse(answer);
  throw new Error(told.success ? told.data.error : `The server answered with ${response.status}.`);
}

export function tell(error: unknown): void {
  notifications.show({
    message: error instanceof Error ? error.message : String(error),
    color: 'madder',
    autoClose: 8000,
  });
}
