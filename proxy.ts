import { NextResponse, type NextRequest } from 'next/server';
import { checkOrigin } from '@/server/http/origin';

/**
 * Every page gets a content policy with a nonce of its own: scripts, workers and styles of this application only.
 * `/api` is left out, since its handlers check by themselves and take bodies that must not be buffered here.
 */
export function proxy(request: NextRequest): NextResponse {
  const refusal = checkOrigin(request.headers, { isPage: true });
  if (refusal)
    return new NextResponse(refusal, { status: 403, headers: { 'content-type': 'text/plain; charset=utf-8' } });
  const nonce = Buffer.from(crypto.randomUUID()).toString('base64');
  const policy = [
    "default-src 'none'",
    `script-src 'self' 'nonce-${nonce}' 'wasm-unsafe-eval'${process.env.NODE_ENV === 'development' ? " 'unsafe-eval'" : ''}`,
    `style-src-elem 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "font-src 'self'",
    "img-src 'self' data: blob:",
    "connect-src 'self'",
    "worker-src 'self'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  return response;
}

export const config = { matcher: ['/((?!api/|_next/static|_next/image|audio/).*)'] };
