import pino from 'pino';

/** A line of JSON for each thing that is worth one. Never a credential, a token, or what an address asks for. */
export const log = pino({ level: process.env.SLATE_LOG ?? 'warn', base: { pid: process.pid } });
