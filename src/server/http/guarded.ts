import { Readable } from 'node:stream';
import type { ReadableStream as WebStream } from 'node:stream/web';
import { z } from 'zod';
import { octetsOf } from '../../files/undeclared';
import { Refusal } from '../audits/audits';
import { databaseFile } from '../database/open';
import { maybeTrouble } from '../database/trouble';
import { loseDatabase } from '../lifecycle/start';
import { maybeStanding } from '../lifecycle/trouble';
import { isAllowedHost } from './addresses';

type Handler<C> = (request: Request, context: C) => Promise<Response> | Response;

/**
 * The one gate that every route handler stands behind: only names of this machine (or those in YSOMERIS_HOSTS) are
 * served, so that no page elsewhere can reach the server by a name of its own, and only pages of this server may change
 * anything. What is thrown becomes one clear sentence.
 */
export function guarded<C>(handler: Handler<C>): Handler<C> {
  return async (request, context) => {
    const host = request.headers.get('host') ?? '';
    if (!isAllowedHost(host)) return sentence('This server does not answer under that name.', 403);
    if (request.method !== 'GET' && !isOwnOrigin(request, host)) {
      return sentence('Only pages of this application may do that.', 403);
    }
    const standing = maybeStanding();
    if (standing) return sentence(`${standing.what} ${standing.remedy}`, 503);
    try {
      return await handler(request, context);
    } catch (error) {
      if (error instanceof Refusal) return sentence(error.message, error.status);
      if (error instanceof z.ZodError)
        return sentence(`The request is not well formed: ${z.prettifyError(error)}`, 400);
      const trouble = maybeTrouble(error, databaseFile());
      if (trouble?.isOfDatabase) {
        // What is full or cannot be written can still be read.
        const readable = trouble.kind === 'full' || trouble.kind === 'read-only';
        if (!readable) loseDatabase(trouble);
        return sentence(`${trouble.message} ${trouble.remedy}`, trouble.kind === 'full' ? 507 : 503);
      }
      console.error(error);
      return sentence('Something went wrong on the server. It was written to its log.', 500);
    }
  };
}

function isOwnOrigin(request: Request, host: string): boolean {
  const origin = request.headers.get('origin');
  if (origin === null) return request.headers.get('sec-fetch-site') === null;
  try {
    return new URL(origin).host === host;
  } catch {
    return false;
  }
}

function sentence(error: string, status: number): Response {
  return Response.json({ error }, { status });
}

/** The name of a file whose octets are the body of a request: it stands percent-encoded in a header. */
export function readFileName(request: Request): string {
  try {
    const name = decodeURIComponent(request.headers.get('x-file-name') ?? '').trim();
    if (name !== '' && name.length <= 300 && !hasControl(name)) return name;
  } catch {
    // falls through to the refusal
  }
  throw new Refusal('The file has no usable name.');
}

// biome-ignore lint/suspicious/noControlCharactersInRegex: they are what is looked for
const hasControl = (text: string): boolean => /[\u0000-\u001f\u007f]/.test(text) || /\p{Surrogate}/u.test(text);

/** A stream as a file to be saved. */
export function download(stream: Readable, name: string): Response {
  // As in `bodyOf`.
  return new Response(Readable.toWeb(stream) as unknown as ReadableStream<Uint8Array>, {
    headers: {
      'content-type': 'application/octet-stream',
      'content-disposition': `attachment; filename="${name}"`,
    },
  });
}

/** The body of a request as it comes; null where it has none. */
export function bodyOf({ body, signal }: Request): Readable | null {
  // The two declarations of the same streams do not know each other.
  return body && Readable.fromWeb(body as WebStream<Uint8Array>, { signal });
}

/** Octets of a request that is read whole. */
const LARGEST_REQUEST = 64 * 1024 * 1024;

async function readText(request: Request): Promise<string> {
  const parts: Uint8Array[] = [];
  let octets = 0;
  for await (const part of octetsOf(bodyOf(request) ?? Readable.from([]))) {
    octets += part.length;
    if (octets > LARGEST_REQUEST) throw new Refusal('The request is larger than 64 MB.', 413);
    parts.push(part);
  }
  return Buffer.concat(parts).toString('utf8');
}

/** Levels of a request: trees of 64 levels take two each, and stand some levels deep. */
const DEEPEST = 200;

/** What no request of ours holds, and what much that works on them is not made for: NUL, half characters, endless nesting. */
function refuseOdd(body: unknown): void {
  let level: unknown[] = [body];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > DEEPEST) throw new Refusal('The request is nested too deep.');
    const next: unknown[] = [];
    for (const value of level) {
      if (typeof value === 'string') refuseOddText(value);
      else if (typeof value === 'object' && value !== null) {
        for (const [name, inner] of Object.entries(value)) {
          if (!Array.isArray(value)) refuseOddText(name);
          next.push(inner);
        }
      }
    }
    level = next;
  }
}

function refuseOddText(text: string): void {
  if (text.includes('\0')) throw new Refusal('A text of the request holds a NUL character.');
  if (/\p{Surrogate}/u.test(text)) throw new Refusal('A text of the request holds half of a character.');
}

/** The JSON body of a request, checked; throws what `guarded` turns into a sentence. */
export async function readJson<T>(request: Request, shape: z.ZodType<T>): Promise<T> {
  const text = await readText(request);
  let body: unknown;
  try {
    body = JSON.parse(text);
  } catch {
    throw new Refusal('The request holds no JSON.');
  }
  refuseOdd(body);
  return shape.parse(body);
}
