import { z } from 'zod';
import { call, sendTo } from './api';

const brought = z.object({ statement: z.string() });

export interface Said {
  readonly text: string;
  readonly failed: boolean;
}

/** Sends one file to an audit as it is, and gives the server's words on it. */
export async function sendFile(auditId: string, file: File): Promise<Said> {
  try {
    return { text: brought.parse(await sendTo(`/api/audits/${auditId}/files`, file)).statement, failed: false };
  } catch (error) {
    return { text: error instanceof Error ? error.message : String(error), failed: true };
  }
}

/** Has the server read a file or a folder of its own machine, and gives its words on it. */
export async function sendPath(auditId: string, path: string): Promise<Said> {
  try {
    const answer = await call(`/api/audits/${auditId}/paths`, 'POST', { path });
    return { text: brought.parse(answer).statement, failed: false };
  } catch (error) {
    return { text: error instanceof Error ? error.message : String(error), failed: true };
  }
}
