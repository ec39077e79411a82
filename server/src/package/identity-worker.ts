/** Opening uploaded certificates with their keys, run in the worker pool for what comes from outside. */
import { readFileSync } from 'node:fs';
import type { Fault } from '@vatline/core/result';
import { InputError } from '@vatline/files/input-error';
import { readIdentity } from '@vatline/files/signing-identity';

export interface IdentityTask {
  readonly path: string;
  readonly password: string;
}

/** A key with its certificates, the one of the key first, as PEM. */
export interface IdentityText {
  readonly key: string;
  readonly chain: readonly string[];
}

export function readUploadedIdentity({ path, password }: IdentityTask): IdentityText | Fault[] {
  try {
    const { key, certificate, chain } = readIdentity('', readFileSync(path), password);
    return {
      key: key.export({ type: 'pkcs8', format: 'pem' }).toString(),
      chain: [certificate, ...chain].map(String),
    };
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return error.faults.map(({ message }) => ({
      path: message.includes('password') ? 'password' : 'file',
      message,
    }));
  }
}
