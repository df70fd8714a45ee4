import http, { type IncomingMessage, type ServerResponse } from 'node:http';

/** Requests that the framework would answer with an error of its own: methods that nothing here has, and addresses that are no text. */
const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS'];

export function refusalOf({
  method = '',
  url = '',
}: Pick<IncomingMessage, 'method' | 'url'>): { status: number; text: string } | null {
  if (!METHODS.includes(method)) return { status: 405, text: `The method ${method} is not known here.` };
  try {
    decodeURIComponent(url.split('?')[0]);
  } catch {
    return { status: 400, text: 'The address is not UTF-8 in percent encoding.' };
  }
  return null;
}

/** Refuses such requests before the framework sees them. It makes its server itself, so they are caught where every server hands them on. */
export function guardRequests(): void {
  const { emit } = http.Server.prototype;
  http.Server.prototype.emit = function (this: http.Server, ...args: [event: string, ...rest: unknown[]]): boolean {
    const [event, request, response] = args as [string, IncomingMessage, ServerResponse];
    // An upload may take as long as it makes progress: who reads it looks after that.
    if (event === 'connection') this.requestTimeout = 0;
    const refusal = event === 'request' ? refusalOf(request) : null;
    if (!refusal) return emit.apply(this, args as Parameters<typeof emit>);
    response.writeHead(refusal.status, { 'content-type': 'text/plain; charset=utf-8', allow: METHODS.join(', ') });
    response.end(refusal.text);
    return true;
  };
}
