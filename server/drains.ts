import type { EventEmitter } from 'node:events';
import type { NextFunction, Request, Response } from 'express';

type Listener = (...args: unknown[]) => void;

/**
 * Whoever waits for an answer that is packed to have room again is heard by what packs it; there they are let go of too, lest one more of them
 * stay with every wait. Stands behind the compression, which sees to the first half alone.
 */
export function letGoOfDrains(_: Request, response: Response, next: NextFunction): void {
  const heardBy = response.on.bind(response) as (event: string, listener: Listener) => EventEmitter;
  const letGo = response.removeListener.bind(response) as (event: string, listener: Listener) => Response;
  let place: EventEmitter = response;
  const on = (event: string, listener: Listener): Response => {
    const heard = heardBy(event, listener);
    if (event === 'drain') place = heard;
    return response;
  };
  const off = (event: string, listener: Listener): Response => {
    if (event === 'drain' && place !== response) place.removeListener(event, listener);
    return letGo(event, listener);
  };
  Object.assign(response, { on, addListener: on, off, removeListener: off });
  next();
}
