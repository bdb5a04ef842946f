import { gzipSync } from 'node:zlib';
import type { RequestHandler } from 'express';

/** What a service can be told to do wrong, one call after the other. */
export type Trick =
  | { readonly kind: 'slow'; readonly ms: number }
  | { readonly kind: 'status'; readonly status: number; readonly after?: string }
  | { readonly kind: 'page' }
  | { readonly kind: 'cut' }
  | { readonly kind: 'text'; readonly text: string; readonly type?: string }
  | { readonly kind: 'bomb' }
  | { readonly kind: 'drop' }
  /** Does what was asked and then says nothing. */
  | { readonly kind: 'drop after' }
  | { readonly kind: 'redirect'; readonly to: string }
  /** As if nothing had been asked of it. */
  | { readonly kind: 'good' };

/** Tricks that are waiting, by service; a call takes the first. */
export class Mischief {
  private readonly waiting = new Map<string, Trick[]>();

  tell(service: string, ...tricks: Trick[]): void {
    this.waiting.set(service, [...(this.waiting.get(service) ?? []), ...tricks]);
  }

  clear(): void {
    this.waiting.clear();
  }

  /** The trick of the next call of a service that does not speak HTTP. */
  next(service: string): Trick | undefined {
    return this.waiting.get(service)?.shift();
  }

  handler(service: string): RequestHandler {
    return (request, response, next) => {
      const trick = this.next(service);
      switch (trick?.kind) {
        case undefined:
        case 'good':
          next();
          return;
        case 'slow':
          setTimeout(next, trick.ms);
          return;
        case 'status':
          if (trick.after) response.set('Retry-After', trick.after);
          response.status(trick.status).json({ error: `told to answer ${trick.status}` });
          return;
        case 'page':
          response.type('text/html').send('<!doctype html><title>Sign in</title><p>Who are you?</p>');
          return;
        case 'cut':
          response.type('application/json').send('{"data":{"items":[{"id":1,"name":"Skerry');
          return;
        case 'text':
          response.type(trick.type ?? 'application/json').send(trick.text);
          return;
        case 'bomb':
          response
            .set({ 'Content-Type': 'application/json', 'Content-Encoding': 'gzip' })
            .end(gzipSync(Buffer.alloc(120_000_000, 0x20)));
          return;
        case 'drop':
          request.socket.destroy();
          return;
        case 'drop after':
          response.end = () => {
            request.socket.destroy();
            return response;
          };
          next();
          return;
        case 'redirect':
          response.redirect(302, trick.to);
          return;
      }
    };
  }
}
