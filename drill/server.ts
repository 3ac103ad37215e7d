import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { createServer } from 'node:net';

/** The built application with a database and port of its own. */
export class Served {
  private constructor(
    readonly child: ChildProcess,
    readonly origin: string,
  ) {}

  static async start(database: string, env: Record<string, string> = {}): Promise<Served> {
    const port = await freePort();
    const args = ['node_modules/next/dist/bin/next', 'start', '-H', '127.0.0.1', '-p', String(port)];
    const child = spawn(process.execPath, args, {
      env: { ...process.env, YSOMERIS_DATABASE: database, ...env },
      stdio: ['ignore', 'ignore', 'pipe'],
    });
    child.stderr?.resume();
    const served = new Served(child, `http://127.0.0.1:${port}`);
    for (let tries = 0; tries < 200; tries++) {
      if (child.exitCode !== null) throw new Error(`the server ended with ${child.exitCode}`);
      const answer = await fetch(`${served.origin}/api/audits/none/history`).catch(() => null);
      if (answer) return served;
      await pause(100);
    }
    throw new Error('the server does not answer');
  }

  /** Ends it like a power cut. */
  async kill(): Promise<void> {
    if (this.child.exitCode !== null) return;
    this.child.kill('SIGKILL');
    await once(this.child, 'exit');
  }

  async json(method: string, path: string, body?: unknown): Promise<{ status: number; data: unknown }> {
    const answer = await fetch(`${this.origin}${path}`, {
      method,
      ...(body === undefined ? {} : { body: JSON.stringify(body), headers: { 'content-type': 'application/json' } }),
    });
    return { status: answer.status, data: await answer.json().catch(() => null) };
  }

  async begin(name: string): Promise<string> {
    const { data } = await this.json('POST', '/api/audits', { name });
    return (data as { id: string }).id;
  }

  async send(id: string, name: string, text: string | Blob): Promise<number> {
    const headers = { 'x-file-name': encodeURIComponent(name), 'content-type': 'application/octet-stream' };
    const answer = await fetch(`${this.origin}/api/audits/${id}/files`, { method: 'POST', headers, body: text });
    await answer.arrayBuffer();
    return answer.status;
  }
}

export const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const address = server.address();
  server.close();
  await once(server, 'close');
  if (typeof address !== 'object' || !address) throw new Error('no port is free');
  return address.port;
}

/** Waits until no job of an audit is running. */
export async function idle(server: Served, id: string): Promise<void> {
  for (let tries = 0; tries < 1200; tries++) {
    const jobs = await jobsOf(server, id);
    if (!jobs.some(({ state }) => state === 'running' || state === 'waiting')) return;
    await pause(100);
  }
  throw new Error('a job does not end');
}

/** The first server-sent event about jobs. */
async function jobsOf(server: Served, id: string): Promise<readonly { readonly state: string }[]> {
  const stop = new AbortController();
  const answer = await fetch(`${server.origin}/api/audits/${id}/events`, { signal: stop.signal });
  let text = '';
  for await (const chunk of answer.body as unknown as AsyncIterable<Uint8Array>) {
    text += Buffer.from(chunk).toString();
    if (text.includes('\n\n')) break;
  }
  stop.abort();
  // Several may have arrived together.
  const [event = ''] = text.split('\n\n');
  const told: unknown = JSON.parse(event.replace(/^data: /, ''));
  if (!Array.isArray(told)) throw new Error(`the server answers with ${answer.status}: ${event.slice(0, 100)}`);
  return told as { state: string }[];
}
