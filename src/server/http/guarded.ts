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
 * Wraps every route handler: serves only this machine's names (or those in YSOMERIS_HOSTS), so that no page elsewhere
 * can reach the server under a name of its own, and lets only pages of this server change anything. Errors become one
 * clear sentence.
 */
export function guarded<C>(handler: Handler<C>): Handler<C> {
  return async (request, context) => {
    const host = request.headers.get('host') ?? '';
    if (!isAllowedHost(host))
      return sentence('This server does not answer under this host name. Open it as 127.0.0.1 or localhost.', 403);
    if (request.method !== 'GET' && !isOwnOrigin(request, host)) {
      return sentence('Only pages of Ysomeris may send this request.', 403);
    }
    const standing = maybeStanding();
    if (standing) return sentence(`${standing.what} ${standing.remedy}`, 503);
    try {
      return await handler(request, context);
    } catch (error) {
      if (error instanceof Refusal) return sentence(error.message, error.status);
      if (error instanceof z.ZodError) return sentence(`The request is invalid: ${z.prettifyError(error)}`, 400);
      const trouble = maybeTrouble(error, databaseFile());
      if (trouble?.isOfDatabase) {
        // A full or read-only database can still be read.
        const readable = trouble.kind === 'full' || trouble.kind === 'read-only';
        if (!readable) loseDatabase(trouble);
        return sentence(`${trouble.message} ${trouble.remedy}`, trouble.kind === 'full' ? 507 : 503);
      }
      console.error(error);
      return sentence('Something went wrong on the server. The cause is in its log.', 500);
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

/** The name of the file in the body of a request, from a percent-encoded header. */
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

/** A stream as a download. */
export function download(stream: Readable, name: string): Response {
  // As in `bodyOf`.
  return new Response(Readable.toWeb(stream) as unknown as ReadableStream<Uint8Array>, {
    headers: {
      'content-type': 'application/octet-stream',
      'content-disposition': `attachment; filename="${name}"`,
    },
  });
}

/** The body of a request as a stream; null if it has none. */
export function bodyOf({ body, signal }: Request): Readable | null {
  // The DOM and Node declare the same streams differently.
  return body && Readable.fromWeb(body as WebStream<Uint8Array>, { signal });
}

/** Most octets of a request that is read whole. */
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

/** Most levels of JSON: trees of 64 levels take two each, inside some more. */
const DEEPEST = 200;

/** Rejects what no valid request contains and much code cannot handle: NUL, lone surrogates, extreme nesting. */
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
  if (text.includes('\0')) throw new Refusal('A text in the request contains a NUL character.');
  if (/\p{Surrogate}/u.test(text)) throw new Refusal('A text in the request contains half of a character.');
}

/** The checked JSON body of a request; throws what `guarded` turns into a sentence. */
export async function readJson<T>(request: Request, shape: z.ZodType<T>): Promise<T> {
  const text = await readText(request);
  let body: unknown;
  try {
    body = JSON.parse(text);
  } catch {
    throw new Refusal('The request contains no JSON.');
  }
  refuseOdd(body);
  return shape.parse(body);
}
