// Mails and what checks say are written as this installation writes numbers.
import '../number-style.ts';

export { startWorker } from '../jobs/worker.ts';
export { log } from '../log.ts';
