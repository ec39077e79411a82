import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import {
  linkSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  symlinkSync,
  writeFileSync,
  existsSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';

const main = resolve(import.meta.dirname, '../dist/main.js');
const work = mkdtempSync(join(tmpdir(), 'vatline-cli-'));
afterAll(() => rmSync(work, { recursive: true, force: true }));

function vatline(...args: string[]) {
  const { status, stdout, stderr } = spawnSync(process.execPath, [main, ...args], {
    cwd: work,
    encoding: 'utf8',
  });
  return { status, stdout, stderr, json: () => JSON.parse(stdout) as Record<string, never> };
}
const packAs = (format: string, folder: string, out: string) =>
  vatline('pack', folder, '--name', 'n', '--version', '1', '--format', format, '--out', out);
const plan = {
  from: '2027-03-22T08:00:00Z',
  zone: 'Europe/Dublin',
  window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
  hosts: 100,
  batch: 25,
  maxUnavailable: 25,
  work: { medianMinutes: 30, p90Minutes: 30 },
  drain: { limitMinutes: 0 },
  failure: { rate: 0, retries: 0 },
  runs: 1,
  seed: 1,
};
const planFile = (change: object) => {
  writeFileSync(join(work, 'plan.json'), JSON.stringify({ ...plan, ...change }));
  return 'plan.json';
};

describe('vatline', () => {
  it('forecasts the minimal plan as by hand', () => {
    const answer = vatline('forecast', planFile({}), '--json').json() as unknown as {
      finish: Record<string, string>;
      hosts: unknown[];
    };
    expect(answer.finish).toEqual({
      p10: '2027-03-23T03:00:00Z',
      p50: '2027-03-23T03:00:00Z',
      p90: '2027-03-23T03:00:00Z',
    });
    expect(answer.hosts[0]).toEqual({
      index: 0,
      name: 'host 1',
      start: '2027-03-23T01:00:00Z',
      finish: '2027-03-23T01:30:00Z',
    });
  });
  it('forecasts two rings with soak, a closed day and a shared limit as by hand', () => {
    const window = { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' };
    const { window: _w, hosts: _h, batch: _b, maxUnavailable: _m, ...shared } = plan;
    const gate = { finishedShare: 1, soakHours: 48, approvalHours: 0 };
    const rings = [
      { name: 'pilot', hosts: 6, batch: 3, maxUnavailable: 3, window, gate },
      { name: 'rest', hosts: 60, batch: 20, maxUnavailable: 20, window },
    ];
    const limits = [{ name: 'clones', atOnce: 12 }];
    writeFileSync(
      join(work, 'rings.json'),
      JSON.stringify({ ...shared, rings, limits, closed: ['2027-03-25'] }),
    );
    const answer = vatline('forecast', 'rings.json', '--json').json() as unknown as {
      finish: Record<string, string>;
      rings: { name: string; opens: Record<string, string>; finish: Record<string, string> }[];
      binding: unknown;
    };
    expect(answer.finish['p50']).toBe('2027-03-26T03:30:00Z');
    expect(answer.rings.map(({ name, opens, finish }) => [name, opens['p90'], finish['p90']])).toEqual([
      ['pilot', '2027-03-22T08:00:00Z', '2027-03-23T02:00:00Z'],
      ['rest', '2027-03-25T02:00:00Z', '2027-03-26T03:30:00Z'],
    ]);
    expect(answer.binding).toEqual([
      { constraint: 'shared limit', minutes: 120 },
      { constraint: 'batch', minutes: 30 },
    ]);
    expect(vatline('forecast', 'rings.json').stdout).toContain(
      'rest: opens by 2027-03-25T02:00:00Z, done by 2027-03-26T03:30:00Z',
    );
  });
  it('compares two plans: what they say differently, and what comes of it', () => {
    const file = planFile({ work: { medianMinutes: 70, p90Minutes: 70 } });
    writeFileSync(join(work, 'wider.json'), JSON.stringify({ ...plan, batch: 34, maxUnavailable: 34 }));
    const { stdout, status } = vatline('plan', 'compare', file, 'wider.json');
    expect([status, stdout.trim().split('\n')]).toEqual([
      0,
      [
        'batch: 25 → 34',
        'at most out: 25 → 34',
        'work: 70 minutes, 9 in 10 70 → 30 minutes, 9 in 10 30',
        'done (9 in 10): 2027-03-24T02:10:00Z → 2027-03-23T02:30:00Z',
        'done (median): 2027-03-24T02:10:00Z → 2027-03-23T02:30:00Z',
        'windows: 2 → 1',
        'fewest seats left: 75 → 66',
      ],
    ]);
    expect(vatline('plan', 'compare', file, file).stdout).toContain('they say the same');
    const json = vatline('plan', 'compare', file, 'wider.json', '--json').json() as unknown as {
      differences: unknown[];
      b: { windowsUsed: unknown };
    };
    expect([json.differences.length, json.b.windowsUsed]).toEqual([3, { p10: 1, p50: 1, p90: 1 }]);
  });
  it('exits 1 when a plan cannot finish', () => {
    const { status, stdout } = vatline(
      'forecast',
      planFile({ work: { medianMinutes: 300, p90Minutes: 300 } }),
    );
    expect([status, stdout.split('\n')[0]]).toEqual([1, 'does not finish in 9 of 10 runs']);
  });
  it('lists windows in UTC over the clock change', () => {
    const { stdout } = vatline(
      'windows',
      '--rule',
      'FREQ=DAILY',
      '--start',
      '01:00',
      '--end',
      '05:00',
      '--zone',
      'Europe/Dublin',
      '--from',
      '2027-03-27T08:00:00Z',
      '--count',
      '1',
    );
    expect(JSON.parse(stdout)).toEqual([
      { start: '2027-03-28T01:00:00Z', end: '2027-03-28T04:00:00Z', minutes: 180 },
    ]);
  });
  it('gives names and exits 1 on a clash', () => {
    writeFileSync(join(work, 'taken'), 'wcl-rr-002\n');
    const { status, stdout } = vatline(
      'names',
      'WCL-RR-###',
      '--start',
      '1',
      '--count',
      '2',
      '--taken',
      'taken',
    );
    expect([status, stdout]).toEqual([1, 'WCL-RR-001\nWCL-RR-002 taken\n']);
  });

  const storage = {
    hosts: 60,
    imageBytes: 18e9,
    swapBytes: 2e9,
    dataBytes: 0,
    throwawayBytes: 0,
    growth: { medianBytesPerDay: 400e6, p90BytesPerDay: 900e6 },
    days: 7,
    streaming: { stores: 1, scratchBytes: 6e9 },
    datastores: [{ name: 'fast', capacityBytes: 4e12, usedBytes: 0, overcommit: 1 }],
    runs: 2000,
    seed: 1,
  };
  const onePool = {
    count: 60,
    pattern: 'WCL-T-##',
    start: 1,
    processors: 4,
    memoryBytes: 8e9,
    site: 'yard-b',
    network: 'desk-1',
    datastore: 'standard',
    clone: 'linked',
    imageBytes: 18e9,
    swapBytes: 2e9,
    growthBytesPerDay: 400e6,
    days: 7,
  };
  const oneEstate = {
    sites: [
      {
        name: 'yard-b',
        cores: { total: 384, used: 344 },
        memoryBytes: { total: 3e12, used: 0 },
        networks: [{ name: 'desk-1', addresses: { total: 250, used: 0 } }],
        datastores: [{ name: 'standard', capacityBytes: 4e12, usedBytes: 0, overcommit: 1 }],
      },
    ],
    licences: { left: null },
    names: ['WCL-T-01', 'wcl-t-99', 'WCL-T-100'],
  };
  const written = (name: string, content: unknown) => {
    writeFileSync(join(work, name), typeof content === 'string' ? content : JSON.stringify(content));
    return name;
  };

  it('works out storage of the three kinds by hand', () => {
    const { status, stdout } = vatline('storage', written('storage.json', storage));
    const answer = JSON.parse(stdout) as Record<string, object>;
    // Of its own a host has 7 × 0.4 + 2 = 4.8 GB.
    expect([status, answer]).toEqual([
      0,
      {
        full: {
          fixedBytes: 0,
          perHostBytes: 22.8e9,
          totalBytes: 1368e9,
          hostsThatFit: 175,
          chanceOfFilling: 0,
        },
        linked: {
          fixedBytes: 18e9,
          perHostBytes: 4.8e9,
          totalBytes: 306e9,
          hostsThatFit: 829,
          chanceOfFilling: 0,
        },
        network: {
          fixedBytes: 18e9,
          perHostBytes: 6e9,
          totalBytes: 378e9,
          hostsThatFit: 663,
          chanceOfFilling: 0,
        },
      },
    ]);
    const tight = { ...storage, datastores: [{ name: 'fast', capacityBytes: 320e9, usedBytes: 0 }] };
    const twice = [1, 2].map(() => vatline('storage', written('tight.json', tight), '--json').stdout);
    expect(twice[0]).toBe(twice[1]);
    const { linked } = JSON.parse(twice[0] ?? '') as { linked: { chanceOfFilling: number } };
    expect(linked.chanceOfFilling).toBeGreaterThan(0.5);
  });

  it('says whether a pool fits, from JSON or YAML, and exits 1 where it does not', () => {
    const estate = written('estate.json', oneEstate);
    const { status, stdout } = vatline('fit', written('pool.json', onePool), '--estate', estate);
    expect([status, JSON.parse(stdout)]).toEqual([
      1,
      {
        fits: false,
        largest: 10,
        binding: 'cores',
        rows: [
          { what: 'cores', needed: 240, there: 40, after: -200 },
          { what: 'memory', needed: 480e9, there: 3e12, after: 2520e9 },
          { what: 'addresses', needed: 60, there: 250, after: 190 },
          { what: 'datastore', needed: 306e9, there: 4e12, after: 3694e9 },
          { what: 'names', needed: 60, there: 97, after: 37 },
        ],
      },
    ]);
    const yaml = Object.entries({ ...onePool, count: 10 })
      .map(([key, value]) => `${key}: ${value}`)
      .join('\n');
    const fits = vatline('fit', written('pool.yaml', yaml), '--estate', estate);
    expect([fits.status, JSON.parse(fits.stdout)]).toMatchObject([0, { fits: true, largest: 10 }]);
  });

  it.each([
    ['storage', { ...storage, days: -1 }, /^vatline: in\.json: days: must be at least 0$/],
    [
      'storage',
      { ...storage, growth: { medianBytesPerDay: 2, p90BytesPerDay: 1 } },
      /growth\.p90BytesPerDay: must be at least the median/,
    ],
    ['storage', { ...storage, hosts: 10_001 }, /hosts: must be at most 10,000/],
    ['storage', 'nothing', /in\.json: is not JSON/],
    ['fit', { ...onePool, site: 'yard-z' }, /site: the estate has no site yard-z/],
    ['fit', { ...onePool, network: 'desk-2' }, /network: yard-b has no network desk-2/],
    ['fit', { ...onePool, pattern: 'WCL' }, /pattern: has no counter/],
  ])('%s refuses what it cannot use, at its field: %j', (verb, input, why) => {
    const estate = verb === 'fit' ? ['--estate', written('estate.json', oneEstate)] : [];
    const { status, stderr } = vatline(verb, written('in.json', input), ...estate);
    expect([status, stderr.trim().split('\n').length]).toEqual([2, 1]);
    expect(stderr.trim()).toMatch(why);
  });

  it('fit refuses YAML at its line', () => {
    const { stderr } = vatline(
      'fit',
      written('bad.yaml', 'count: 2\nsighs: x\n'),
      '--estate',
      written('estate.json', oneEstate),
    );
    expect(stderr).toMatch(/bad\.yaml: line 2, sighs: is not a field of this file/);
  });

  it('scan, compare, pack, inspect, unpack: what was put in comes out', () => {
    mkdirSync(join(work, 'machine', 'Temp'), { recursive: true });
    writeFileSync(join(work, 'machine', 'system.txt'), 'system');
    vatline('scan', 'machine', '--out', 'before.jsonl');
    mkdirSync(join(work, 'machine', 'Zinnet'));
    writeFileSync(join(work, 'machine', 'Zinnet', 'zinnet.exe'), 'program');
    writeFileSync(join(work, 'machine', 'Temp', 'setup.cab'), 'noise');
    const reg = '﻿Windows Registry Editor Version 5.00\r\n\r\n[Machine\\Zinnet]\r\n"Channel"="steady"\r\n';
    writeFileSync(join(work, 'z.reg'), Buffer.from(reg, 'utf16le'));
    expect(vatline('scan', 'machine', '--registry', 'z.reg', '--out', 'after.jsonl').status).toBe(0);
    const compared = vatline('compare', 'before.jsonl', 'after.jsonl', '--json');
    const answer = compared.json() as unknown as {
      counts: object;
      added: { path?: string; name?: string }[];
      dropped: { rule: string }[];
    };
    expect(answer.counts).toMatchObject({ added: 3, removed: 0, changed: 0, moved: 0, dropped: 1 });
    expect(answer.added.map((e) => e.path ?? e.name)).toEqual(['Zinnet/zinnet.exe', 'Zinnet', 'Channel']);
    expect(answer.dropped[0]?.rule).toBe('temporary');
    writeFileSync(join(work, 'diff.json'), compared.stdout);
    const packed = vatline(
      'pack',
      'machine',
      '--name',
      'Zinnet',
      '--version',
      '141',
      '--format',
      'oci',
      '--out',
      'z.oci',
      '--only',
      'diff.json',
    ).json();
    expect(packed).toMatchObject({ format: 'oci', files: 1, bytesIn: 7 });
    expect(vatline('inspect', 'z.oci').stdout).toContain('Zinnet/zinnet.exe');
    expect(vatline('verify', 'z.oci').status).toBe(0);
    expect(vatline('unpack', 'z.oci', '--out', 'back').status).toBe(0);
    expect(readFileSync(join(work, 'back', 'Zinnet', 'zinnet.exe'), 'utf8')).toBe('program');
    expect(existsSync(join(work, 'back', 'system.txt'))).toBe(false);
  });

  it('packs as a disk and as a compressed image, signs, and verifies against those trusted', () => {
    mkdirSync(join(work, 'app'), { recursive: true });
    writeFileSync(join(work, 'app', 'zinnet.exe'), 'program');
    const openssl = (line: string) =>
      execFileSync('openssl', line.split(' '), { cwd: work, stdio: 'ignore' });
    for (const name of ['ours', 'theirs'])
      openssl(
        `req -x509 -newkey rsa:2048 -nodes -keyout ${name}.key -out ${name}.pem -subj /CN=${name} -days 90`,
      );
    openssl('pkcs12 -export -inkey ours.key -in ours.pem -out ours.p12 -passout pass:open');
    const pack = (format: string, ...more: string[]) =>
      vatline(
        'pack',
        'app',
        '--name',
        'Zinnet',
        '--version',
        '141',
        '--format',
        format,
        '--out',
        `z.${format}`,
        ...more,
      );
    for (const format of ['squashfs', 'vhdx', 'vhdx-fixed'])
      expect(pack(format).json()).toMatchObject({ format, files: 1, bytesIn: 7 });
    expect(vatline('inspect', 'z.vhdx').stdout).toContain('name Zinnet');
    process.env['KEY_PASSWORD'] = 'open';
    rmSync(join(work, 'z.squashfs'));
    expect(pack('squashfs', '--sign', 'ours.p12').stderr).toBe(
      'vatline: ours.p12: is not opened by this password\n',
    );
    expect(existsSync(join(work, 'z.squashfs'))).toBe(false);
    expect(pack('squashfs', '--sign', 'ours.p12', '--password-env', 'KEY_PASSWORD').status).toBe(0);
    expect(vatline('verify', 'z.squashfs').status).toBe(0);
    expect(vatline('verify', 'z.squashfs', '--trust', 'ours.pem').stdout).toContain(
      'holds chain: leads to CN=ours',
    );
    const strange = vatline('verify', 'z.squashfs', '--trust', 'theirs.pem');
    expect([strange.status, strange.stdout]).toEqual([
      1,
      expect.stringContaining('FAILS chain: ends at CN=ours'),
    ]);
    expect(vatline('verify', 'z.vhdx', '--trust', 'ours.pem').stdout).toContain(
      'FAILS signature: there is none',
    );
  });

  it.each(['squashfs', 'vhdx', 'oci'])(
    'leaves nothing of a container (%s) that did not fit on the disk',
    (format) => {
      const folder = join(work, `full-${format}`);
      mkdirSync(join(folder, 'tree'), { recursive: true });
      writeFileSync(join(folder, 'tree', 'noise.bin'), randomBytes(3_000_000));
      // A limit on the size of files stands in for the full disk: the write fails in the same way.
      const { status, stderr } = spawnSync(
        'bash',
        [
          '-c',
          `trap '' XFSZ; ulimit -f 200; exec "$0" "$1" pack tree --name A --version 1 --format ${format} --out full`,
          process.execPath,
          main,
        ],
        { cwd: folder, encoding: 'utf8' },
      );
      expect([status, stderr]).toEqual([2, expect.stringContaining('file too large')]);
      expect(readdirSync(folder)).toEqual(['tree']);
    },
  );

  it('names exactly the files of a Debian package that was unpacked over a tree', () => {
    const build = join(work, 'deb');
    mkdirSync(join(build, 'DEBIAN'), { recursive: true });
    writeFileSync(
      join(build, 'DEBIAN', 'control'),
      'Package: marlstone\nVersion: 1.4\nArchitecture: all\nMaintainer: Nobody <nobody@wrenfield.example>\nDescription: made up\n',
    );
    for (let i = 0; i < 120; i++) {
      const folder = join(build, 'usr', i % 2 ? 'lib/marlstone' : `share/marlstone/${i % 7}`);
      mkdirSync(folder, { recursive: true });
      writeFileSync(join(folder, `part-${i}`), `part ${i}`);
    }
    symlinkSync('../lib/marlstone/part-1', join(build, 'usr', 'share', 'start'));
    const dpkg = (...args: string[]) => execFileSync('dpkg-deb', args, { cwd: work, encoding: 'utf8' });
    dpkg('--root-owner-group', '--build', 'deb', 'marlstone.deb');
    mkdirSync(join(work, 'root', 'usr', 'lib'), { recursive: true });
    for (let i = 0; i < 50; i++) writeFileSync(join(work, 'root', 'usr', 'lib', `there-${i}`), `there ${i}`);
    vatline('scan', 'root', '--out', 'root-before.jsonl');
    dpkg('--extract', 'marlstone.deb', 'root');
    vatline('scan', 'root', '--out', 'root-after.jsonl');
    const { added, removed, changed } = vatline(
      'compare',
      'root-before.jsonl',
      'root-after.jsonl',
      '--json',
    ).json() as unknown as {
      added: { kind: string; path: string }[];
      removed: unknown[];
      changed: unknown[];
    };
    const listed = dpkg('--contents', 'marlstone.deb')
      .trim()
      .split('\n')
      .filter((line) => !line.startsWith('d'))
      .map((line) => (line.split(/\s+/)[5] ?? '').replace(/^\.\//, ''));
    expect(listed).toHaveLength(121);
    const files = added.filter((entry) => entry.kind !== 'folder').map((entry) => entry.path);
    expect([files.sort(), removed, changed]).toEqual([listed.sort(), [], []]);
  });

  it('compare takes a rule file, as the screen writes it; a fault is told with its line', () => {
    const rules = [
      'rules:',
      '  - id: setups',
      '    action: keep',
      '    expression: ^Temp/.*\\.cab$',
      '    reason: needed',
      '  - id: programs',
      '    action: drop',
      '    kinds: [file]',
      "    glob: '**/*.exe'",
      '    reason: a try',
    ];
    writeFileSync(join(work, 'rules.yaml'), rules.join('\n'));
    const compare = (file: string) =>
      vatline('compare', 'before.jsonl', 'after.jsonl', '--rules', file, '--json');
    const answer = compare('rules.yaml').json() as unknown as {
      added: { path?: string }[];
      dropped: { rule: string }[];
    };
    expect(answer.dropped.map((row) => row.rule)).toEqual(['programs']);
    expect(answer.added.some((entry) => entry.path === 'Temp/setup.cab')).toBe(true);
    writeFileSync(join(work, 'bad.yaml'), rules.slice(0, 3).join('\n'));
    const { status, stderr } = compare('bad.yaml');
    expect([status, /line 2, column 5: rules\.0\.reason has no reason/.test(stderr)]).toEqual([2, true]);
  });

  it('scan writes the header and then one entry a line', () => {
    const lines = vatline('scan', 'machine')
      .stdout.trim()
      .split('\n')
      .map((l) => JSON.parse(l) as Record<string, unknown>);
    expect(lines[0]).toMatchObject({ inventory: 1, caseSensitive: true });
    expect(lines.slice(1).map((l) => l['kind'])).toEqual(['file', 'file', 'file', 'folder', 'folder']);
  });

  it.each([
    [
      'a window of no length',
      ['forecast', 'PLAN', '--json'],
      { window: { rule: 'FREQ=DAILY', start: '01:00', end: '01:00' } },
      /window\.end/,
    ],
    ['an unknown zone', ['forecast', 'PLAN'], { zone: 'Europe/Nowhere' }, /not a known time zone/],
    ['a batch of zero', ['forecast', 'PLAN'], { batch: 0 }, /batch/],
    ['a batch over the pool', ['forecast', 'PLAN'], { batch: 101 }, /more than the 100 hosts/],
    ['a field too many', ['forecast', 'PLAN'], { speed: 9 }, /speed/],
    ['a file that is not there', ['forecast', 'missing.json'], {}, /missing\.json: is not there/],
    ['a pattern without a counter', ['names', 'WCL', '--start', '1', '--count', '1'], {}, /has no counter/],
    ['a pattern too long', ['names', 'WRENFIELD-READ-##', '--start', '1', '--count', '1'], {}, /holds 15/],
    ['a malformed inventory', ['compare', 'plan.json', 'after.jsonl'], {}, /line 1/],
    ['an unknown verb', ['frobnicate'], {}, /unknown command/],
    ['a missing option', ['pack', 'machine', '--name', 'x'], {}, /required option/],
    [
      'an unknown format',
      ['pack', 'machine', '--name', 'x', '--version', '1', '--format', 'floppy', '--out', 'f'],
      {},
      /squashfs, vhdx, vhdx-fixed, oci can/,
    ],
    ['a container that is none', ['inspect', 'machine'], {}, /not an OCI image layout/],
  ])('%s: one line and exit 2', (_what, args, change, why) => {
    planFile(change);
    const { status, stdout, stderr } = vatline(...args.map((a) => (a === 'PLAN' ? 'plan.json' : a)));
    expect([status, stdout]).toEqual([2, '']);
    expect(stderr).toMatch(why);
    expect(stderr.trim().split('\n')).toHaveLength(1);
  });
});

describe('D27: however a command is ended', () => {
  const big = join(work, 'big');
  const run = (args: string[], signal: NodeJS.Signals) =>
    new Promise<number | null>((done) => {
      const child = spawn(process.execPath, [main, ...args], { cwd: work, stdio: 'ignore' });
      const timer = setInterval(() => {
        if (!readdirSync(work).some((name) => /^big.*\.part$/.test(name) || name === 'half')) return;
        clearInterval(timer);
        child.kill(signal);
      }, 5);
      child.once('exit', (code) => {
        clearInterval(timer);
        done(code);
      });
    });

  it('Ctrl-C and SIGTERM leave neither parts nor half a tree', async () => {
    mkdirSync(big);
    for (let i = 0; i < 40; i++) writeFileSync(join(big, `file-${i}`), randomBytes(4_000_000));
    const pack = [
      'pack',
      'big',
      '--name',
      'n',
      '--version',
      '1',
      '--format',
      'squashfs',
      '--out',
      'big.squashfs',
    ];
    expect(await run(pack, 'SIGINT')).toBe(130);
    expect(readdirSync(work).filter((name) => name.includes('big.squashfs'))).toEqual([]);
    expect(vatline(...pack).status).toBe(0);
    expect(await run(['unpack', 'big.squashfs', '--out', 'half'], 'SIGTERM')).toBe(143);
    expect(readdirSync(work)).not.toContain('half');
  });

  it('a reader that has seen enough is no error', () => {
    const { stdout, stderr, status } = spawnSync(
      'bash',
      ['-c', `set -o pipefail; ${process.execPath} ${main} scan big | head -1; echo "\${PIPESTATUS[0]}"`],
      { cwd: work, encoding: 'utf8' },
    );
    expect([status, stderr, stdout.trim().split('\n').at(-1)]).toEqual([0, '', '0']);
  });

  it('says its version, one help, and exits 2 for what is not there', () => {
    expect(vatline('--version').stdout).toMatch(/^\d+\.\d+\.\d+\n$/);
    const help = vatline('help', 'scan');
    expect([help.status, help.stderr, help.stdout.match(/Usage:/g)?.length]).toEqual([0, '', 1]);
    const missing = vatline('verify', 'nowhere.squashfs');
    expect([missing.status, missing.stderr]).toEqual([2, 'vatline: nowhere.squashfs: is not there\n']);
  });

  it('takes lists of names in UTF-16, with a byte order mark and spaces', () => {
    writeFileSync(join(work, 'taken'), Buffer.from('\ufeffWCL-A-01 \r\n\r\n  wcl-a-02\r\n', 'utf16le'));
    const { clashes } = vatline(
      'names',
      'WCL-A-##',
      '--start',
      '1',
      '--count',
      '3',
      '--taken',
      'taken',
      '--json',
    ).json();
    expect(clashes).toEqual(['WCL-A-01', 'WCL-A-02']);
    writeFileSync(join(work, 'taken'), '\ufeffWCL-A-03');
    expect(vatline('names', 'WCL-A-##', '--start', '1', '--count', '3', '--taken', 'taken').stdout).toContain(
      'WCL-A-03 taken',
    );
  });

  it('D26: a device beside what is packed is no reason to refuse', () => {
    mkdirSync(join(work, 'beside'));
    execFileSync('mkfifo', [join(work, 'beside', 'pipe')]);
    writeFileSync(join(work, 'beside', 'wanted'), 'x');
    writeFileSync(join(work, 'only'), 'wanted\n');
    const pack = [
      'pack',
      'beside',
      '--name',
      'n',
      '--version',
      '1',
      '--format',
      'oci',
      '--out',
      'beside.oci',
    ];
    expect(vatline(...pack).status).toBe(2);
    expect(vatline(...pack, '--only', 'only').status).toBe(0);
  });

  it('D25: what a format cannot keep is named, with exit 3', () => {
    const tree = join(work, 'lossy');
    mkdirSync(join(tree, 'bin'), { recursive: true });
    for (const name of ['run', 'tool']) writeFileSync(join(tree, 'bin', name), name, { mode: 0o755 });
    linkSync(join(tree, 'bin/run'), join(tree, 'start'));
    const packed = (format: string) => packAs(format, 'lossy', `lossy.${format}`);
    const disk = packed('vhdx');
    expect([disk.status, disk.stderr]).toEqual([
      3,
      'not kept: permissions of "bin/run", "bin/tool", "start": a disk keeps none\n' +
        'not kept: several names of "start": a disk holds copies\n',
    ]);
    const { lost } = JSON.parse(disk.stdout) as { lost: { kind: string; entries: number }[] };
    expect(lost.map(({ kind, entries }) => [kind, entries])).toEqual([
      ['permissions', 3],
      ['several names', 1],
    ]);
    for (const format of ['squashfs', 'oci']) expect([format, packed(format).status]).toEqual([format, 0]);
    expect(vatline('unpack', 'lossy.squashfs', '--out', 'lossy.back').status).toBe(0);
  });

  it('D19, D25: names are kept as they are, those of other systems are warned of, what is no UTF-8 is listed', () => {
    const odd = join(work, 'odd');
    mkdirSync(join(odd, 'a'), { recursive: true });
    for (const name of ['a\\b', 'a/b', 'C:foo', 'con', 'trail.']) writeFileSync(join(odd, name), name);
    for (const format of ['squashfs', 'oci']) {
      const out = `odd.${format}`;
      const packed = packAs(format, 'odd', out);
      expect([packed.status, packed.stderr]).toEqual([
        0,
        expect.stringMatching(/^warning: ".*which no desktop host can keep\n$/) as string,
      ]);
      expect(vatline('verify', out).status).toBe(0);
      expect(vatline('verify', out).stdout).toContain('warns names: ');
      expect(vatline('unpack', out, '--out', `${out}.tree`).status).toBe(0);
      expect(execFileSync('diff', ['-r', 'odd', `${out}.tree`], { cwd: work, encoding: 'utf8' })).toBe('');
    }
    execFileSync('python3', ['-c', `import os; os.symlink(b'\\xff\\xfe', b'${odd}/link')`]);
    const scanned = vatline('scan', 'odd');
    expect([scanned.status, scanned.stderr]).toEqual([
      3,
      expect.stringContaining('not read: link: ') as string,
    ]);
    expect(scanned.stdout).not.toContain('\ufffd');
    const packed = packAs('oci', 'odd', 'no.oci');
    expect([packed.status, packed.stderr]).toEqual([
      3,
      expect.stringContaining('not packed: link: is a link with a target that is no UTF-8\n') as string,
    ]);
    execFileSync('python3', [
      '-c',
      `import os; open(b'${odd}/caf\\xe9', 'w').close(); os.mkdir(b'${odd}/\\xff')`,
    ]);
    const again = vatline('scan', 'odd');
    expect([again.status, again.stdout.includes('\ufffd')]).toEqual([3, false]);
    expect(again.stderr).toContain('not read: caf\\xe9: has a name that is no UTF-8\nnot read: link');
    const some = packAs('squashfs', 'odd', 'some.img');
    expect([some.status, some.stderr]).toEqual([
      3,
      expect.stringContaining('not packed: caf\\xe9: has a name that is no UTF-8\n') as string,
    ]);
    expect(vatline('verify', 'some.img').status).toBe(0);
  });
});
