export { startWorker } from '../jobs/worker.ts';
export { log } from '../log.ts';
