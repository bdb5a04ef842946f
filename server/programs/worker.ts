import pino from 'pino';

export const log = pino({ level: process.env.SLATE_LOG ?? 'info' });

export { startWorker } from '../jobs/worker.ts';
