/* Runs the demo's services until it is told to stop, or its parent is gone. */
import { untilStopped } from './until-stopped.mjs';

const { startServices } = await import(new URL('../build/server/services.js', import.meta.url).href);
const { stop } = await startServices(process.env.SLATE_EVENTS ?? '');
process.send?.({ ready: true });
untilStopped(stop);
