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
    throw new Error('The Ysomeris server does not answer. Check that it is still running, then try again.');
  });
  return readAnswer(response);
}

/** Sends a file, its name percent-encoded in a header; throws like `call`. */
export async function sendTo(path: string, file: File): Promise<unknown> {
  const headers = { 'x-file-name': encodeURIComponent(file.name), 'content-type': 'application/octet-stream' };
  const response = await fetch(path, { method: 'POST', headers, body: file }).catch(() => {
    throw new Error('The Ysomeris server does not answer. Check that it is still running, then try again.');
  });
  return readAnswer(response);
}

export async function readAnswer(response: Response): Promise<unknown> {
  const answer: unknown = await response.json().catch(() => null);
  if (response.ok) return answer;
  const told = failure.safeParse(answer);
  throw new Error(
    told.success
      ? told.data.error
      : `The server answered with status ${response.status}. Nothing was changed; try again.`,
  );
}

export function tell(error: unknown): void {
  notifications.show({
    message: error instanceof Error ? error.message : String(error),
    color: 'madder',
    autoClose: 8000,
  });
}

const brought = z.object({ statement: z.string() });

export interface Said {
  readonly text: string;
  readonly failed: boolean;
}

/** Uploads a file to an audit; returns the server's message. */
export async function sendFile(auditId: string, file: File): Promise<Said> {
  try {
    return { text: brought.parse(await sendTo(`/api/audits/${auditId}/files`, file)).statement, failed: false };
  } catch (error) {
    return { text: error instanceof Error ? error.message : String(error), failed: true };
  }
}

/** Lets the server import a file or folder of its own machine; returns its message. */
export async function sendPath(auditId: string, path: string): Promise<Said> {
  try {
    const answer = await call(`/api/audits/${auditId}/paths`, 'POST', { path });
    return { text: brought.parse(answer).statement, failed: false };
  } catch (error) {
    return { text: error instanceof Error ? error.message : String(error), failed: true };
  }
}

/** Downloads a file by a POST request, and lets the browser save it. Throws the server's one clear sentence. */
export async function saveFile(path: string, name: string): Promise<void> {
  const response = await fetch(path, { method: 'POST' }).catch(() => {
    throw new Error('The Ysomeris server does not answer. Check that it is still running, then try again.');
  });
  if (!response.ok) await readAnswer(response);
  const address = URL.createObjectURL(await response.blob());
  const link = document.createElement('a');
  link.href = address;
  link.download = name;
  link.click();
  URL.revokeObjectURL(address);
}
