/* Asks for records for the processes that serve pages, on the socket that is named, until it is told to stop or its parent is gone. */
import { untilStopped } from './until-stopped.mjs';

const { startRecords } = await import(new URL('../build/server/records.js', import.meta.url).href);
const { stop } = await startRecords(process.argv[2]);
untilStopped(stop);
