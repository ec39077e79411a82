/** Whether a container is whole: its structure, every file, the names that hosts must keep, its bill of materials. */
import { existsSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { filesOfBom } from '@vatline/core/container/bill-of-materials';
import { hostNameFault } from '@vatline/core/container/host-names';
import { limitsFor } from '@vatline/core/container/limits';
import { overlappingRanges } from '@vatline/core/container/overlaps';
import { digestOfBytes, digestOfFile } from './digest-of-file.ts';
import { InputError } from './input-error.ts';
import { failed, held, type Finding } from './finding.ts';
import { layoutFindings, openLayout } from './oci-layout.ts';
import { asInputError, openContainer, type OpenContainer } from './open-container.ts';

export interface Verified {
  readonly findings: readonly Finding[];
  /** Digest of the container, or of an image layout's manifest; empty when it could not be opened. */
  readonly sha256: string;
}

/** Never throws for what a container holds: whatever is wrong with it is a finding. */
export async function verifyContainer(path: string): Promise<Verified> {
  let container: OpenContainer;
  try {
    container = await openContainer(path);
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    const structure = error.faults.map((fault) => failed(`structure: ${fault.message}`));
    return { findings: [...structure, ...(await blobsOfBroken(path))], sha256: '' };
  }
  try {
    const { layout, tree } = container;
    const sha256 = layout ? layout.manifestDigest.replace('sha256:', '') : await digestOfFile(path);
    const findings = [held(`structure: ${container.format}, ${tree.entries.length} entries`)];
    if (layout) {
      const bytes = layout.manifest.layers.reduce((sum, layer) => sum + layer.size, 0);
      findings.push(...(await layoutFindings(layout, limitsFor(bytes).bytes)));
    } else findings.push(held(`digest: sha256:${sha256}`));
    findings.push(rangeFinding(container), nameFinding(container));
    findings.push(...(await contentFindings(path, container)));
    return { findings: findings.filter((finding) => finding.what !== ''), sha256 };
  } finally {
    container.close();
  }
}

/** A layout whose layers cannot be laid out may still tell which of its blobs is broken. */
async function blobsOfBroken(path: string): Promise<Finding[]> {
  if (!existsSync(join(path, 'oci-layout'))) return [];
  try {
    return await layoutFindings(openLayout(path), limitsFor(0).bytes);
  } catch (error) {
    if (error instanceof InputError) return [];
    throw error;
  }
}

function rangeFinding(container: OpenContainer): Finding {
  if (!container.storedRanges) return held('');
  const overlap = overlappingRanges(container.storedRanges());
  return overlap
    ? failed(`blocks: those at ${overlap[0]} and ${overlap[1]} lie over each other`)
    : held('blocks: none lies over another');
}

function nameFinding({ tree }: OpenContainer): Finding {
  for (const { path } of tree.entries) {
    const fault = hostNameFault(path);
    if (fault) return failed(`names: ${JSON.stringify(path)} ${fault}, which no host can keep`, 'names');
  }
  return held('names: every host can keep them', 'names');
}

/** Reads every file, and compares with the bill of materials beside the container where there is one. */
async function contentFindings(path: string, container: OpenContainer): Promise<Finding[]> {
  const digests = new Map<string, string>();
  try {
    for await (const { entry, bytes } of container.contents())
      digests.set(entry.path, await digestOfBytes(bytes));
  } catch (error) {
    const known = asInputError(path, error);
    if (!(known instanceof Error)) throw error;
    return [failed(`content: ${known.message}`)];
  }
  return [held(`content: all ${digests.size} files can be read`), ...bomFinding(path, digests)];
}

function bomFinding(path: string, digests: ReadonlyMap<string, string>): Finding[] {
  const beside = `${path}.cdx.json`;
  if (!existsSync(beside)) return [];
  const listed = new Map(filesOfBom(readFileSync(beside, 'utf8')).map((file) => [file.path, file.sha256]));
  if (listed.size === 0 && digests.size > 0) return [failed('bill of materials: lists no file')];
  for (const [file, digest] of digests)
    if (listed.get(file) !== digest) return [failed(`bill of materials: ${file} is not as it is listed`)];
  return listed.size === digests.size
    ? [held('bill of materials: every file is as it is listed')]
    : [failed(`bill of materials: lists ${listed.size} files, the container has ${digests.size}`)];
}
