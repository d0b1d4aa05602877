import { NextResponse, type NextRequest } from 'next/server';

/**
 * With BOUGH_KEY set, every request must carry it (HTTP Basic, any name). Without it the server listens on
 * loopback only and answers only to loopback names, so that a page elsewhere cannot reach it under a name of
 * its own.
 */
export function proxy(request: NextRequest) {
  const key = process.env.BOUGH_KEY;
  if (!key) {
    const host = (request.headers.get('host') ?? '').replace(/:\d+$/, '');
    if (!/^(localhost|127(\.\d+){3}|\[::1\])$/.test(host))
      return new NextResponse('This house answers on loopback only.', { status: 403 });
    return NextResponse.next();
  }
  const given = /^Basic (.+)$/.exec(request.headers.get('authorization') ?? '')?.[1] ?? '';
  let password = '';
  try {
    password = atob(given).replace(/^[^:]*:/, '');
  } catch {
    /* not base64 */
  }
  if (!same(password, key))
    return new NextResponse('An access key is needed.', {
      status: 401,
      headers: { 'www-authenticate': 'Basic realm="Young Bough"' },
    });
  return NextResponse.next();
}

/** Compares without telling by its time where the difference is. */
function same(a: string, b: string): boolean {
  let d = a.length ^ b.length;
  for (let i = 0; i < b.length; i++) d |= b.charCodeAt(i) ^ (a.charCodeAt(i) || 0);
  return d === 0;
}

export const config = { matcher: '/((?!_next/static).*)' };
