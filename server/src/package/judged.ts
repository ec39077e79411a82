/** What was found in a capture, as it is written beside its comparison. */
import { readFileSync, writeFileSync } from 'node:fs';
import type { CaptureFacts } from '@vatline/core/package/capture-facts';
import type { Finding } from '@vatline/core/package/findings';
import type { GuessedManifest } from '@vatline/core/package/guess-manifest';
import { captureFiles } from './capture-files.ts';

export interface Judged {
  readonly findings: readonly Finding[];
  readonly facts: CaptureFacts;
  readonly guess: GuessedManifest;
  /** Of what is kept. */
  readonly bytes: number;
}

/** Throws when the capture in this folder has not been compared yet. */
export function readJudged(folder: string): Judged {
  return JSON.parse(readFileSync(captureFiles(folder).judged, 'utf8')) as Judged;
}

export function writeJudged(folder: string, judged: Judged): void {
  writeFileSync(captureFiles(folder).judged, JSON.stringify(judged));
}
