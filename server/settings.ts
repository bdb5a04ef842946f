import { z } from 'zod';

const Settings = z
  .object({
    /** Our own database. */
    SLATE_DATABASE: z.url(),
    /** 32 bytes in base64: what source credentials are encrypted with. Kept outside the database. */
    SLATE_KEY: z
      .base64()
      .refine((key) => key === '' || Buffer.from(key, 'base64').length === 32, 'is 32 bytes in base64')
      .default(''),
    /** A file that holds it instead, so that it can be changed while the product runs. */
    SLATE_KEY_FILE: z.string().default(''),
    PORT: z.coerce.number().int().min(0).max(65535).default(4600),
    HOST: z.string().default('127.0.0.1'),
    /** The folder that kept records are cached in as files; it can be deleted at any time. */
    SLATE_CACHE: z.string().min(1).default('.data/cache'),
    /** Hosts inside this network that sources may be on: `host` or `host:port`, with commas between. */
    SLATE_OUTGOING: z.string().default(''),
    /** The socket of the process that asks for records for the others; empty: each asks by itself. */
    SLATE_RECORDS: z.string().default(''),
    /** Folders whose log files may be read, with colons between. */
    SLATE_LOG_FOLDERS: z.string().default(''),
    /** The largest file that can be uploaded, in megabytes. */
    SLATE_UPLOAD_MB: z.coerce.number().int().min(1).default(4000),
    /** What whoever sets up an installation without people has to give; empty: nobody can. */
    SLATE_SETUP_CODE: z.string().default(''),
    /** The demo's own database server address, with a user that may create databases; empty: no demo. */
    SLATE_DEMO: z.string().default(''),
    /** A file that says where the demo's services are and what they ask; empty: no services. */
    SLATE_STAND_INS: z.string().default(''),
    /** Over plain HTTP cookies cannot be `Secure`; set to `yes` behind TLS. */
    SLATE_SECURE: z.enum(['yes', 'no']).default('no'),
  })
  .refine(({ SLATE_KEY, SLATE_KEY_FILE }) => SLATE_KEY !== '' || SLATE_KEY_FILE !== '', {
    path: ['SLATE_KEY'],
    message: 'or SLATE_KEY_FILE is needed',
  });
export type Settings = z.infer<typeof Settings>;

let known: Settings | null = null;

/** The settings of this process, from its environment; read once. Throws with the name of what is missing. */
export function settings(): Settings {
  known ??= Settings.parse(process.env);
  return known;
}

const listed = (text: string, separator: string): string[] =>
  text.split(separator).flatMap((each) => each.trim() || []);

/** Hosts inside this network that sources may be on. */
export const outgoingHosts = (): string[] => listed(settings().SLATE_OUTGOING, ',');

/** Folders of logs that may be read. */
export const logFolders = (): string[] => listed(settings().SLATE_LOG_FOLDERS, ':');
