import { readFile } from 'node:fs/promises';
import { StandInAccess } from '#demo/stand-in-access.ts';
import { settings } from '../settings.ts';

/** Where the demo's services are; null where there are none. */
export async function standInAccess(): Promise<StandInAccess | null> {
  const { SLATE_STAND_INS } = settings();
  return SLATE_STAND_INS ? StandInAccess.parse(JSON.parse(await readFile(SLATE_STAND_INS, 'utf8'))) : null;
}
