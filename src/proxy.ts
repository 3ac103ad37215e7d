import { type NextRequest, NextResponse } from 'next/server';
import { isAllowedHost } from './server/http/addresses';
import { maybeStanding, standingPage } from './server/lifecycle/trouble';

/**
 * Pages: only under a name of this machine, and with a policy that runs no script but our own. While the database cannot be
 * worked with, each of them says why.
 */
export function proxy(request: NextRequest): NextResponse {
  if (!isAllowedHost(request.headers.get('host') ?? '')) {
    return new NextResponse('This server does not answer under that name.', { status: 403 });
  }
  const nonce = btoa(crypto.randomUUID());
  const developing = process.env.NODE_ENV === 'development';
  const policy = [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'${developing ? " 'unsafe-eval'" : ''}`,
    `style-src-elem 'self' ${developing ? "'unsafe-inline'" : `'nonce-${nonce}'`}`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' data: blob:",
    "font-src 'self'",
    `connect-src 'self'${developing ? ' ws:' : ''}`,
    "worker-src 'self' blob:",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const standing = maybeStanding();
  const response = standing
    ? new NextResponse(standingPage(standing, nonce), {
        status: 503,
        headers: { 'content-type': 'text/html; charset=utf-8', 'cache-control': 'no-store', 'retry-after': '5' },
      })
    : NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('referrer-policy', 'same-origin');
  return response;
}

export const config = { matcher: '/((?!api|_next/static|_next/image|favicon.ico).*)' };
