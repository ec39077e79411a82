/** Containers of this project's own installed packages, against the general tools for each format. */
import { execFileSync, spawnSync } from 'node:child_process';
import { cpSync, lstatSync, rmSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';

const cli = resolve(import.meta.dirname, '../cli/dist/main.js');
const peak = resolve(import.meta.dirname, 'peak-memory.cjs');
const tree = resolve(import.meta.dirname, '../node_modules');

interface Cost {
  readonly seconds: number;
  readonly bytes: number;
}

/** Prints time, size and memory of each format against its peers; the work folder is left clean. */
export function benchContainers(work: string, rounds: number): void {
  const plain = join(work, 'without-links');
  cpSync(tree, plain, { recursive: true, filter: (path) => !lstatSync(path).isSymbolicLink() });
  const best = (run: () => number) => bestOf(rounds, run);
  const ours = (format: string, from: string) => {
    const out = join(work, `ours.${format}`);
    let memory = '?';
    const cost = best(() => {
      rmSync(out, { recursive: true, force: true });
      const args = [
        '-r',
        peak,
        cli,
        'pack',
        from,
        '--name',
        'Bench',
        '--version',
        '1',
        '--format',
        format,
        '--out',
        out,
      ];
      const { stdout, stderr } = spawnSync(process.execPath, args, { encoding: 'utf8' });
      memory = /peak (\d+) MB/.exec(stderr)?.[1] ?? '?';
      return (JSON.parse(stdout) as { bytesOut: number }).bytesOut;
    });
    rmSync(out, { recursive: true, force: true });
    return { ...cost, memory };
  };
  const peer = (command: string, out: string) => {
    const path = join(work, out);
    const cost = best(() => {
      rmSync(path, { force: true });
      execFileSync('sh', ['-c', command], { cwd: work, stdio: ['ignore', 'ignore', 'inherit'] });
      return statSync(path).size;
    });
    rmSync(path, { force: true });
    return cost;
  };

  const squashfs = ours('squashfs', tree);
  const mksquashfs = peer(
    `mksquashfs ${tree} peer.sqfs -comp gzip -noappend -quiet -no-progress`,
    'peer.sqfs',
  );
  print('SquashFS', squashfs, 'mksquashfs -comp gzip', mksquashfs, 'at most 0.6, size 1.02');

  const oci = ours('oci', tree);
  print('OCI', oci, 'tar czf', peer(`tar czf peer.tgz -C ${tree} .`, 'peer.tgz'), 'at most 0.5, size 1.02');
  print('OCI', oci, 'tar | pigz', peer(`tar cf - -C ${tree} . | pigz > peer.tgz`, 'peer.tgz'), 'at most 1.1');

  const disk = ours('vhdx', plain);
  const general = peer(
    `rm -f peer.raw && truncate -s 600M peer.raw && mkfs.fat -F 32 peer.raw && mcopy -s -Q -o -i peer.raw ${plain}/* ::/ && qemu-img convert -O vhdx peer.raw peer.vhdx`,
    'peer.vhdx',
  );
  print('VHDX', disk, 'mkfs.fat, mcopy, qemu-img convert', general, 'at most 1.5, size 1.02');
  for (const name of ['peer.raw', 'without-links']) rmSync(join(work, name), { recursive: true });
}

function bestOf(rounds: number, run: () => number): Cost {
  let seconds = Infinity;
  let bytes = 0;
  for (let i = 0; i < rounds; i++) {
    const started = performance.now();
    bytes = run();
    seconds = Math.min(seconds, (performance.now() - started) / 1000);
  }
  return { seconds, bytes };
}

function print(
  what: string,
  ours: Cost & { memory: string },
  peer: string,
  theirs: Cost,
  wanted: string,
): void {
  const time = `${ours.seconds.toFixed(2)} s to ${theirs.seconds.toFixed(2)} s, ratio ${(ours.seconds / theirs.seconds).toFixed(2)}`;
  const size = `${(ours.bytes / 1e6).toFixed(1)} MB to ${(theirs.bytes / 1e6).toFixed(1)} MB, ratio ${(ours.bytes / theirs.bytes).toFixed(3)}`;
  console.log(
    `pack as ${what} against ${peer}: ${time}; ${size}; peak ${ours.memory} MB (wanted: ${wanted}, 300 MB)`,
  );
}
