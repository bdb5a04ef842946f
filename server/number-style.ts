import { AsyncLocalStorage } from 'node:async_hooks';
import type { NextFunction, Request, Response } from 'express';
import { type NumberStyle, writeNumbersIn } from '#core/value/number-style.ts';
import { readLook } from './cookies.ts';
import { settings } from './settings.ts';

/* Numbers are written as whoever asked wants to read them, however many are answered at once. */

const ofRequest = new AsyncLocalStorage<NumberStyle>();

writeNumbersIn(() => ofRequest.getStore() ?? settings().SLATE_NUMBERS);

/** Answers a request in the style of its browser. */
export function inNumberStyle(request: Request, _: Response, next: NextFunction): void {
  readLook(request.get('cookie') ?? null).then(({ numbers }) => ofRequest.run(numbers, next), next);
}
