import { type NextRequest, NextResponse } from 'next/server';

/** Pages get a content security policy with a nonce of their own; nothing is loaded from anywhere but here. */
export function proxy(request: NextRequest): NextResponse {
  const nonce = Buffer.from(crypto.getRandomValues(new Uint8Array(16))).toString('base64');
  const policy = [
    "default-src 'self'",
    `script-src 'self' 'nonce-${nonce}' 'strict-dynamic'`,
    `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' blob: data:",
    "font-src 'self' data:",
    "worker-src 'self' blob:",
    "connect-src 'self'",
    "object-src 'none'",
    "base-uri 'none'",
    "form-action 'self'",
    "frame-ancestors 'none'",
  ].join('; ');
  const headers = new Headers(request.headers);
  headers.set('x-nonce', nonce);
  headers.set('x-path', request.nextUrl.pathname + request.nextUrl.search);
  headers.set('content-security-policy', policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set('content-security-policy', policy);
  response.headers.set('referrer-policy', 'no-referrer');
  response.headers.set('x-content-type-options', 'nosniff');
  response.headers.set('cross-origin-opener-policy', 'same-origin');
  return response;
}

export const config = {
  // Uploads and operations stay outside: this layer holds bodies in memory and cuts them at 10 MB without a word. Files
  // say their own, stricter policy.
  matcher: ['/((?!_next/|do/|ask/|sign/[^/]+/(?:do|ask|file)/|files|file/|changes|health|viewer/|favicon|icon).*)'],
};
