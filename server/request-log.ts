import { randomUUID } from 'node:crypto';
import type { NextFunction, Request, Response } from 'express';
import { countAnswer } from './health.ts';
import { log } from './log.ts';

/** What a proxy may call a request. */
const givenId = /^[\w.:-]{1,100}$/;

/**
 * Gives each request an id, which its answer says, and logs how it was answered. The path is logged without its query, in which records can
 * be named, and without what makes a link of it that nobody else should have.
 */
export function logRequests(request: Request, response: Response, next: NextFunction): void {
  const given = request.get('x-request-id') ?? '';
  const id = givenId.test(given) ? given : randomUUID();
  const begun = process.hrtime.bigint();
  response.set('X-Request-Id', id);
  response.locals.requestId = id;
  response.once('close', () => {
    const seconds = Number(process.hrtime.bigint() - begun) / 1e9;
    const { statusCode: status } = response;
    countAnswer(request.method, status, seconds);
    const line = {
      id,
      method: request.method,
      path: pathWords(request.originalUrl),
      status,
      ms: Math.round(seconds * 1000),
      isWhole: response.writableFinished,
    };
    if (status >= 500) log.error(line, 'failed');
    else log.info(line, 'answered');
  });
  next();
}

/** A path as it may stand in a log. */
export const pathWords = (url: string): string =>
  (url.split('?')[0] ?? '').replace(/^\/(join|open)\/.*/, '/$1/…').slice(0, 500);
