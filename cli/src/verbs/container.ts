/** `pack`, `inspect`, `unpack`, `verify`. */
import { existsSync } from 'node:fs';
import type { Command } from 'commander';
import { hostNameFault } from '@vatline/core/container/host-names';
import { containerFormats, type ContainerFormat } from '@vatline/core/container/formats';
import { lossText, type Loss } from '@vatline/core/container/losses';
import type { Finding } from '@vatline/files/finding';
import { folderTree, type FolderTree } from '@vatline/files/folder-tree';
import { inspectContainer } from '@vatline/files/inspect-container';
import { packContainer, type PackRequest } from '@vatline/files/pack-container';
import { checkMaySign, signaturePath, signatureFindings, signContainer } from '@vatline/files/sign-container';
import { readCertificates, readIdentity, type SigningIdentity } from '@vatline/files/signing-identity';
import { unpackContainer } from '@vatline/files/unpack-container';
import { verifyContainer } from '@vatline/files/verify-container';
import { InputError } from '@vatline/files/input-error';
import {
  EXIT_NO,
  EXIT_SKIPPED,
  print,
  printJson,
  readBytes,
  readInput,
  UseError,
  wholeNumber,
  withProgress,
} from '../outcome.ts';

interface PackOptions {
  readonly name: string;
  readonly version: string;
  readonly publisher?: string;
  readonly format: string;
  readonly out: string;
  readonly only?: string;
  readonly epoch?: string;
  readonly sign?: string;
  readonly passwordEnv?: string;
  readonly json?: boolean;
}

export function addContainerVerbs(program: Command): void {
  program
    .command('pack')
    .description('build a container from a folder tree')
    .argument('<dir>')
    .requiredOption('--name <name>')
    .requiredOption('--version <version>')
    .option('--publisher <publisher>')
    .requiredOption('--format <format>', containerFormats.join(', '))
    .requiredOption('--out <path>')
    .option('--only <list>', 'a compare result or a list of paths; nothing else is packed')
    .option('--epoch <seconds>', 'date of every entry, in seconds since 1970')
    .option('--sign <key.p12>', 'signs with the key in PKCS #12 or PEM: a .p7s beside the container')
    .option('--password-env <variable>', "the environment's variable that has the key's password")
    .option('--json', 'accepted; the answer is always JSON')
    .action(pack);
  program
    .command('inspect')
    .description('format, label, manifest and entries of a container')
    .argument('<path>')
    .option('--json')
    .action(inspect);
  program
    .command('unpack')
    .description('write the tree of a container to a new folder')
    .argument('<path>')
    .requiredOption('--out <dir>')
    .option('--json')
    .action(async (path: string, options: { out: string; json?: boolean }) => {
      const done = await withProgress('unpacking', options.json === true, () =>
        unpackContainer(path, options.out),
      );
      tellLosses(done.notKept);
      if (options.json) printJson(done);
      else
        process.stderr.write(
          `${done.files} files, ${done.bytes.toLocaleString('en-GB')} bytes to ${options.out}\n`,
        );
    });
  program
    .command('verify')
    .description('check structure, digests and signature of a container')
    .argument('<path>')
    .option('--trust <ca.pem>', 'certificates that are trusted; the signature must lead to one of them')
    .option('--json')
    .action(verify);
}

async function verify(path: string, options: { trust?: string; json?: boolean }): Promise<void> {
  const trusted = options.trust ? readCertificates(options.trust, readInput(options.trust)) : undefined;
  if (!existsSync(path)) throw InputError.of(path, 'is not there');
  const { findings: inside, sha256 } = await withProgress('verifying', options.json === true, () =>
    verifyContainer(path),
  );
  const isSigned = existsSync(signaturePath(path));
  const signature = trusted || isSigned ? signatureFindings(path, sha256, trusted ?? [], Date.now()) : [];
  // Without a trust store there is nothing that a chain could lead to.
  const findings = [...inside, ...signature.filter((finding) => trusted || finding.kind !== 'chain')];
  // Names that only some hosts cannot keep are warned of: `pack` writes them, and warns of them as well.
  const isWarning = (finding: Finding) => !finding.holds && finding.kind === 'names';
  const holds = findings.every((finding) => finding.holds || isWarning(finding));
  if (options.json) printJson({ holds, findings });
  else
    for (const finding of findings)
      print(`${finding.holds ? 'holds' : isWarning(finding) ? 'warns' : 'FAILS'} ${finding.what}`);
  if (isSigned && !trusted)
    process.stderr.write('the chain of certificates was not checked: name those trusted with --trust\n');
  if (!holds) process.exitCode = EXIT_NO;
}

/** The key to sign with, checked before anything is built. */
function identityFor(options: PackOptions, signedAt: number): SigningIdentity | undefined {
  if (!options.sign) return undefined;
  const variable = options.passwordEnv;
  const password = variable ? process.env[variable] : '';
  if (password === undefined) throw new UseError(`--password-env: there is no variable ${variable ?? ''}`);
  const identity = readIdentity(options.sign, readBytes(options.sign), password);
  checkMaySign(identity, signedAt);
  return identity;
}

async function pack(dir: string, options: PackOptions): Promise<void> {
  const format = formatNamed(options.format);
  const epoch = options.epoch ? wholeNumber('--epoch', options.epoch) : undefined;
  const signedAt = epoch === undefined ? Date.now() : epoch * 1000;
  const identity = identityFor(options, signedAt);
  const started = performance.now();
  const tree = folderTree(dir, options.only ? readOnly(options.only) : undefined);
  const request: PackRequest = {
    tree,
    format,
    out: options.out,
    manifest: {
      name: options.name,
      version: options.version,
      publisher: options.publisher ?? '',
      entryPoints: [],
    },
    ...(epoch === undefined ? {} : { epoch }),
  };
  const packed = await withProgress('packing', options.json === true, () => packContainer(request));
  const strange = tree.entries.find((entry) => hostNameFault(entry.path) !== undefined);
  if (strange)
    process.stderr.write(
      `warning: ${JSON.stringify(strange.path)} ${hostNameFault(strange.path) ?? ''}, which no desktop host can keep\n`,
    );
  tellLosses(packed.lost);
  tellLeftOut(tree.leftOut);
  if (identity) signContainer(options.out, packed.sha256, identity, signedAt);
  printJson({ ...packed, seconds: Math.round(performance.now() - started) / 1000 });
}

/** Each kind on a line of standard error; done, but not with all that was there. */
function tellLosses(losses: readonly Loss[]): void {
  for (const loss of losses) process.stderr.write(`not kept: ${lossText(loss)}\n`);
  if (losses.length > 0) process.exitCode = EXIT_SKIPPED;
}

function tellLeftOut(leftOut: FolderTree['leftOut']): void {
  for (const { path, reason } of leftOut) process.stderr.write(`not packed: ${path}: ${reason}\n`);
  if (leftOut.length > 0) process.exitCode = EXIT_SKIPPED;
}

function formatNamed(name: string): ContainerFormat {
  const format = containerFormats.find((known) => known === name);
  if (!format) throw new UseError(`--format: "${name}" cannot be built; ${containerFormats.join(', ')} can`);
  return format;
}

/** The paths of a compare result (what was added, changed, or moved to), or one path a line. */
function readOnly(file: string): Set<string> {
  const text = readInput(file);
  if (!text.trimStart().startsWith('{')) return new Set(text.split(/\r?\n/).filter((line) => line !== ''));
  let value: CompareResult;
  try {
    value = JSON.parse(text) as CompareResult;
  } catch {
    throw InputError.of(file, 'is neither a compare result in JSON nor a list of paths');
  }
  if (!Array.isArray(value.added) || !Array.isArray(value.changed))
    throw InputError.of(file, 'is not a compare result');
  const entries = [...value.added, ...value.changed.map((row) => row.after)];
  const paths = entries.filter((e) => ['file', 'link', 'folder'].includes(e.kind)).map((e) => e.path);
  return new Set([...paths, ...(value.moved ?? []).map((move) => move.to)]);
}

interface CompareResult {
  readonly added?: { kind: string; path: string }[];
  readonly changed?: { after: { kind: string; path: string } }[];
  readonly moved?: { to: string }[];
}

async function inspect(path: string, options: { json?: boolean }): Promise<void> {
  const found = await inspectContainer(path);
  if (options.json) return printJson(found);
  print(
    `format ${found.format}\nlabel ${found.label}\nname ${found.manifest.name}\nversion ${found.manifest.version}`,
  );
  if (found.manifest.publisher) print(`publisher ${found.manifest.publisher}`);
  for (const entry of found.entries) {
    print(
      `${entry.kind.padEnd(6)} ${String(entry.size).padStart(12)} ${entry.digest.padEnd(64)} ${entry.path}`,
    );
  }
}
