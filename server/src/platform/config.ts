/** What the environment decides, read once. */
import { resolve } from 'node:path';

export interface Config {
  readonly port: number;
  readonly host: string;
  /** Names besides loopback and its address by which people reach it. */
  readonly hosts: readonly string[];
  readonly dataFolder: string;
  /** Folder of the built interface. */
  readonly webFolder: string;
  readonly logLevel: string;
}

/** Reads `PORT`, `HOST`, `VATLINE_HOSTS`, `VATLINE_DATA`, `LOG_LEVEL`. Throws with a sentence for a person. */
export function readConfig(env: NodeJS.ProcessEnv, root: string): Config {
  const port = env['PORT'] === undefined || env['PORT'] === '' ? 4780 : Number(env['PORT']);
  if (!Number.isInteger(port) || port < 0 || port > 65_535) {
    throw new Error(`PORT is "${env['PORT']}"; it must be a whole number from 0 to 65535`);
  }
  return {
    port,
    host: env['HOST'] || '127.0.0.1',
    hosts: (env['VATLINE_HOSTS'] ?? '').split(',').flatMap((name) => name.trim() || []),
    dataFolder: resolve(root, env['VATLINE_DATA'] || 'data'),
    webFolder: resolve(root, 'web/dist'),
    logLevel: env['LOG_LEVEL'] || 'info',
  };
}
