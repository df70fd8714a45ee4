import path from 'node:path';
import * as z from 'zod';
import { OrvidError } from '@/core/errors';

/** What can be set from outside, with its defaults. */
const schema = z.object({
  ORVID_DATA_DIR: z.string().default('.orvid'),
  ORVID_DATABASE_URL: z.string().optional(),
  ORVID_DATABASE_TOKEN: z.string().optional(),
  /** Largest recording that may be uploaded, MiB. */
  ORVID_MAX_UPLOAD_MIB: z.coerce.number().positive().default(2048),
  /** Largest packed song that may be opened, MiB. */
  ORVID_MAX_BUNDLE_MIB: z.coerce.number().positive().default(65536),
  /** Longest recording, hours. */
  ORVID_MAX_HOURS: z.coerce.number().positive().max(10).default(4),
  /** Largest request with a JSON body, KiB. */
  ORVID_MAX_JSON_KIB: z.coerce.number().positive().default(2048),
  /** Host names under which the application may be reached, separated by commas; ports do not matter. */
  ORVID_HOSTS: z.string().default('localhost,127.0.0.1,[::1]'),
  /** The song that the first page opens, when there is one. */
  ORVID_START_SONG: z.string().optional(),
  /** Folder of the bundled worker threads. */
  ORVID_BUILD_DIR: z.string().default('build'),
});

function read() {
  const parsed = schema.safeParse(process.env);
  if (!parsed.success) {
    const [
      {
        path: [name],
        message,
      },
    ] = parsed.error.issues;
    throw new OrvidError('invalid-input', `${String(name)}=${process.env[String(name)]}: ${message}.`);
  }
  const env = parsed.data;
  const dataDir = path.resolve(env.ORVID_DATA_DIR);
  return {
    dataDir,
    databaseUrl: env.ORVID_DATABASE_URL ?? `file:${path.join(dataDir, 'orvid.db')}`,
    databaseToken: env.ORVID_DATABASE_TOKEN,
    maxUploadBytes: env.ORVID_MAX_UPLOAD_MIB * 1024 * 1024,
    maxBundleBytes: env.ORVID_MAX_BUNDLE_MIB * 1024 * 1024,
    maxHours: env.ORVID_MAX_HOURS,
    maxJsonBytes: env.ORVID_MAX_JSON_KIB * 1024,
    hosts: env.ORVID_HOSTS.split(',').map((host) => host.trim().toLowerCase()),
    startSong: env.ORVID_START_SONG,
    buildDir: path.resolve(env.ORVID_BUILD_DIR),
  };
}

let settings: ReturnType<typeof read> | undefined;

/** The settings of this process, read once. */
export function config() {
  return (settings ??= read());
}
