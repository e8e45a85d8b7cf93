/**
 * Only pages of this server, opened on this machine, may talk to it: the Host must be a loopback name and a request that
 * changes something must come from the same origin. Returns a reason to refuse, or null.
 */
export function refuse(request: { method: string; headers: Headers }, allowedHosts: string[]): string | null {
  const host = request.headers.get('host') ?? '';
  const name = host.replace(/:\d+$/, '').toLowerCase();
  if (!['127.0.0.1', 'localhost', '[::1]', ...allowedHosts].includes(name)) return 'this host name is not served';
  if (request.method === 'GET' || request.method === 'HEAD') return null;
  const origin = request.headers.get('origin');
  if (origin !== null) {
    try {
      if (new URL(origin).host !== host) return 'requests from other pages are not taken';
    } catch {
      return 'requests from other pages are not taken';
    }
  }
  const site = request.headers.get('sec-fetch-site');
  if (site !== null && site !== 'same-origin' && site !== 'none') return 'requests from other pages are not taken';
  return null;
}
