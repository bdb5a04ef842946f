import type { FoundTable } from '#core/dataset/found.ts';
import { shapeCertificates } from './shaped/certificates.ts';
import { shapeOperations } from './shaped/operations.ts';
import { shapeServices } from './shaped/services.ts';
import { Shelf } from './shaped/shelf.ts';

/**
 * Data sets that steps make fit to be read, once the ones they are made of are there: what is dirty in the demo's records is
 * mended here, where it can be seen.
 */
export async function addShaped(operations: string, tables: readonly FoundTable[], now: Date): Promise<void> {
  const shelf = await Shelf.open();
  await shapeOperations(shelf, operations, tables);
  // Their data sets are there only where the services run.
  if (!shelf.has('Gate scans')) return;
  await shapeServices(shelf);
  await shapeCertificates(shelf, now);
}
