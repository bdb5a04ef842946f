/** How Debian's Chromium is started here. As root it cannot have its sandbox. */
export const chromiumLaunch = {
  executablePath: process.env.SLATE_CHROMIUM ?? '/usr/bin/chromium',
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
