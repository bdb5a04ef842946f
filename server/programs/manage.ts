/* What is done to an installation from the command line. */

export { backUp, leastPassphrase, restore } from '../backup/backup.ts';
export { rotateKey } from '../backup/rekey.ts';
export { checkDefinitions, pullDefinitions, pushDefinitions } from '../definitions/from-command-line.ts';
export { settingsProblems } from '../settings.ts';
export { migrateDatabase } from '../store/database.ts';
export { endAll } from './end.ts';
