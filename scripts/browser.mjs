import { existsSync } from 'node:fs';

/** Debian's package of Chromium without windows, which takes a fifth less time than the whole browser. */
export const chromiumPackage = 'chromium-headless-shell';

const programs = [`/usr/bin/${chromiumPackage}`, '/usr/bin/chromium'];

/** The browser that is run, the first of those there are; empty where none is. */
export const chromiumProgram = () => programs.find((program) => existsSync(program)) ?? '';

/** How it is started. As root it cannot have its sandbox. */
export const chromiumLaunch = {
  executablePath: chromiumProgram(),
  args: [
    ...(process.getuid?.() === 0 ? ['--no-sandbox'] : []),
    '--disable-gpu',
    '--disable-quic',
    '--no-first-run',
    '--disable-background-networking',
    '--disable-component-update',
    '--disable-sync',
  ],
};
