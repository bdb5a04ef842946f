import { existsSync } from 'node:fs';
import { installPackages } from './cluster.mjs';

/** Debian's package of Chromium without windows, which takes a fifth less time than the whole browser. */
const chromiumPackage = 'chromium-headless-shell';

const programs = [`/usr/bin/${chromiumPackage}`, '/usr/bin/chromium'];

/** The browser that is run, the first of those there are; empty where none is. */
const chromiumProgram = () => programs.find((program) => existsSync(program)) ?? '';

/** Installs the quicker one where it is missing; ends this program where there is none then. */
export function installChromium() {
  if (chromiumProgram().includes(chromiumPackage)) return;
  console.log('Installing Chromium …');
  const byHand = installPackages([chromiumPackage]);
  if (!byHand || chromiumProgram()) return;
  console.error(`Chromium is missing. Install it with: ${byHand}`);
  process.exit(1);
}

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
