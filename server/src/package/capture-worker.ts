/** Comparing and judging captures, run in the worker pool. */
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { estimateContainers, treeOfPaths } from '@vatline/core/container/estimate';
import { fat32Faults } from '@vatline/core/container/fat32/plan';
import { lossesOf, type Loss } from '@vatline/core/container/losses';
import type { ContainerFormat } from '@vatline/core/container/formats';
import { entryName, type FileEntry } from '@vatline/core/inventory/entry';
import type { CaptureFacts } from '@vatline/core/package/capture-facts';
import { cleanChecks } from '@vatline/core/package/clean-machine';
import { bytesOf, findingsOf, keptEntries } from '@vatline/core/package/findings';
import { guessManifest, type KnownPackage, type SaidOfCapture } from '@vatline/core/package/guess-manifest';
import {
  countChanges,
  differenceOf,
  dropNoise,
  type CaptureComparison,
  type ChangeCounts,
  type NoiseRule,
} from '@vatline/core/package/noise';
import { ownersOfChanges } from '@vatline/core/package/owners';
import { packageContents } from '@vatline/core/package/package-contents';
import { ruleEffect } from '@vatline/core/package/rule-effect';
import { must, type Fault } from '@vatline/core/result';
import { folderTree } from '@vatline/files/folder-tree';
import { compareInventoryFiles, openInventory } from '@vatline/files/inventory-file';
import { readFacts } from '@vatline/files/read-facts';
import { sampleRatios } from '@vatline/files/sample-ratios';
import { forgetUnchanged } from '@vatline/files/small-texts';
import { captureFiles } from './capture-files.ts';
import { readJudged, writeJudged } from './judged.ts';

interface Judging {
  /** The capture's folder. */
  readonly folder: string;
  readonly rules: readonly NoiseRule[];
  readonly said: SaidOfCapture;
  readonly library: readonly KnownPackage[];
}

export interface CompareTask extends Judging {
  /** Names of the installers, in the order of their inventories. */
  readonly installers: readonly string[];
}

/** Compares the inventories of a capture, drops the noise, looks into its files, and writes all that down. */
export async function compareCapture(task: CompareTask): Promise<ChangeCounts> {
  const files = captureFiles(task.folder);
  const difference = compareInventoryFiles(files.before, files.after);
  const comparison = must(dropNoise(difference, task.rules));
  const changedTexts = [...difference.changed.map((row) => row.after), ...difference.removed];
  forgetUnchanged(files.textsBefore, new Set(changedTexts.map(entryName)));
  const facts: CaptureFacts = {
    ...(await readFacts(files.payload, keptEntries(differenceAsKept(comparison)))),
    clean: cleanChecks(openInventory(files.before).entries()),
    owners: task.installers.length > 1 ? ownersOf(task) : [],
  };
  return keepJudged(task, comparison, facts);
}

/** Everything, so that facts are there for what other rules may keep. */
function differenceAsKept(comparison: CaptureComparison): CaptureComparison {
  return { ...differenceOf(comparison), dropped: [] };
}

function ownersOf({ folder, installers }: CompareTask): CaptureFacts['owners'] {
  const files = captureFiles(folder);
  return ownersOfChanges(
    installers.map((name, i) => ({
      name,
      difference: compareInventoryFiles(i === 0 ? files.before : files.between(i), files.between(i + 1)),
    })),
  );
}

/** Judges a capture by other rules; the inventories and files need not be read again. */
export function judgeCapture(task: Judging): ChangeCounts {
  const comparison = must(dropNoise(differenceOf(readComparison(task.folder)), task.rules));
  return keepJudged(task, comparison, readJudged(task.folder).facts);
}

function keepJudged(task: Judging, comparison: CaptureComparison, facts: CaptureFacts): ChangeCounts {
  const findings = findingsOf(comparison, facts);
  writeFileSync(captureFiles(task.folder).comparison, JSON.stringify(comparison));
  writeJudged(task.folder, {
    findings,
    facts,
    guess: guessManifest(comparison, facts, findings, task.said, task.library),
    bytes: bytesOf(keptEntries(comparison)),
  });
  return countChanges(comparison);
}

export interface TryTask {
  readonly rules: readonly NoiseRule[];
  readonly folders: readonly string[];
}

export interface Tried {
  readonly dropped: number;
  readonly kept: number;
  readonly examples: readonly string[];
}

const EXAMPLES = 3;

/** What rules would have changed about each capture; nothing for one that has not been compared. */
export function tryRules({ rules, folders }: TryTask): (Tried | undefined)[] {
  return folders.map((folder) => {
    if (!existsSync(captureFiles(folder).comparison)) return undefined;
    const { dropped, kept } = must(ruleEffect(readComparison(folder), rules));
    const examples = [...dropped.slice(0, EXAMPLES), ...kept.slice(0, EXAMPLES)].map(entryName);
    return { dropped: dropped.length, kept: kept.length, examples };
  });
}

export interface MissingTask {
  readonly folder: string;
  readonly updatersOff: boolean;
  readonly paths: readonly string[];
}

/** Those of the paths that the package would not hold. */
export function missingPaths({ folder, updatersOff, paths }: MissingTask): string[] {
  const there = new Set(packageContents(readComparison(folder), { updatersOff }).paths);
  return paths.filter((path) => !there.has(path));
}

export interface EstimateTask {
  readonly folder: string;
  readonly updatersOff: boolean;
}

export interface Estimated {
  readonly files: number;
  readonly bytes: number;
  readonly settings: number;
  /** Bytes of each container; none where the format cannot hold the files. */
  readonly sizes: Partial<Record<ContainerFormat, number>>;
  /** Why no disk can hold them, the first few. */
  readonly obstacles: readonly Fault[];
  /** What of the files each format cannot keep. */
  readonly losses: Readonly<Record<ContainerFormat, readonly Loss[]>>;
}

const OBSTACLES = 5;

/** What a package of this capture would hold, and how large its containers would be. */
export function estimatePackage({ folder, updatersOff }: EstimateTask): Estimated {
  const comparison = readComparison(folder);
  const { paths, settings } = packageContents(comparison, { updatersOff });
  const wanted = new Set(paths);
  const held = keptEntries(comparison).filter((entry) => 'path' in entry && wanted.has(entry.path));
  const files = held.filter((entry): entry is FileEntry => entry.kind === 'file');
  const entries = treeOfPaths(
    held.flatMap((entry) =>
      entry.kind === 'file' || entry.kind === 'link'
        ? [{ path: entry.path, size: entry.kind === 'file' ? entry.size : 0, isLink: entry.kind === 'link' }]
        : [],
    ),
  );
  const { payload } = captureFiles(folder);
  const packed = folderTree(payload, wanted).entries;
  return {
    files: files.length,
    bytes: bytesOf(files),
    settings: settings.length,
    sizes: estimateContainers(files, entries, sampleRatios(payload, files)),
    losses: {
      squashfs: lossesOf('squashfs', packed),
      vhdx: lossesOf('vhdx', packed),
      'vhdx-fixed': lossesOf('vhdx-fixed', packed),
      oci: lossesOf('oci', packed),
    },
    obstacles: fat32Faults(entries).slice(0, OBSTACLES),
  };
}

function readComparison(folder: string): CaptureComparison {
  return JSON.parse(readFileSync(captureFiles(folder).comparison, 'utf8')) as CaptureComparison;
}
