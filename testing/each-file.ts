import { afterAll, vi } from 'vitest';

/*
 * Files of tests share a process, so that packages are read once. Each begins with modules of its own, as a process does that starts,
 * and leaves the settings as it found them.
 */

const before = { ...process.env };
vi.resetModules();
afterAll(() => {
  for (const name of Object.keys(process.env)) if (!(name in before)) delete process.env[name];
  Object.assign(process.env, before);
});
