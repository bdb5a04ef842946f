/* Where the demo's services are and what they ask, made up once and kept in a file. Only Node's own modules. */
import { randomBytes } from 'node:crypto';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import path from 'node:path';
import { freePort } from './cluster.mjs';

/**
 * @param {string} data the data folder
 * @param {string[]} [hosts] others on this machine that the demo's sources are on, as `host:port`
 * @returns {Promise<Record<'SLATE_STAND_INS' | 'SLATE_OUTGOING' | 'SLATE_LOG_FOLDERS' | 'SLATE_MAIL', string> & Record<string, string>>} settings that lead to the services
 */
export async function standInSettings(data, hosts = []) {
  const file = path.join(data, 'stand-ins.json');
  const logs = path.join(data, 'logs');
  mkdirSync(logs, { recursive: true });
  if (!existsSync(file)) {
    const secret = () => randomBytes(18).toString('base64url');
    const access = {
      port: await freePort(),
      tideKey: secret(),
      storesPassword: secret(),
      clientSecret: secret(),
      intakeKey: secret(),
      logs,
    };
    writeFileSync(file, JSON.stringify(access), { mode: 0o600 });
  }
  const access = JSON.parse(readFileSync(file, 'utf8'));
  // A file from before there was mail, or a place where the staff sign in, gets what they need now.
  if (access.mailPort === undefined || access.identitySecret === undefined) {
    access.mailPort ??= await freePort();
    access.identitySecret ??= randomBytes(18).toString('base64url');
    writeFileSync(file, JSON.stringify(access), { mode: 0o600 });
  }
  const { port, mailPort, identitySecret } = access;
  const beside = (
    /** @type {string | undefined} */ said,
    /** @type {string} */ ours,
    /** @type {string} */ separator,
  ) => (said ? `${said}${separator}${ours}` : ours);
  return {
    SLATE_STAND_INS: file,
    SLATE_OUTGOING: beside(process.env.SLATE_OUTGOING, [`127.0.0.1:${port}`, ...hosts].join(','), ','),
    SLATE_MAIL: process.env.SLATE_MAIL ?? `smtp://127.0.0.1:${mailPort}`,
    SLATE_LOG_FOLDERS: beside(process.env.SLATE_LOG_FOLDERS, logs, ':'),
    ...(process.env.SLATE_OIDC
      ? {}
      : {
          SLATE_OIDC: `http://127.0.0.1:${port}/identity`,
          SLATE_OIDC_CLIENT: 'slate-glass',
          SLATE_OIDC_SECRET: identitySecret,
          SLATE_OIDC_NAME: 'Skerry staff',
        }),
  };
}
