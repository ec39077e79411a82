/**
 * Set-up and running, without dependencies: `npm start`, `npm test` and the rest come here. Each
 * installs and builds only what is missing or stale.
 */
import { spawn, spawnSync } from 'node:child_process';
import {
  existsSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = join(dirname(fileURLToPath(import.meta.url)), '..');
const CHROMIUM = '/usr/bin/chromium';
const compiled = ['core', 'contract', 'files', 'demo', 'server', 'cli'];

function say(text) {
  process.stderr.write(`${text}\n`);
}

function die(text) {
  say(text);
  process.exit(1);
}

/** Runs a command to its end; its output goes to standard error so that results stay clean. */
function run(command, args, options = {}) {
  const { status, error } = spawnSync(command, args, { cwd: root, stdio: ['ignore', 2, 2], ...options });
  if (error) die(`${command} cannot be run: ${error.message}`);
  return status ?? 1;
}

function need(what, command, args, options) {
  if (run(command, args, options) !== 0) die(`${what} failed; see above`);
}

const bin = (name) => join(root, 'node_modules', '.bin', name);
const modified = (path) => statSync(join(root, path), { throwIfNoEntry: false })?.mtimeMs ?? 0;

function newest(folder) {
  let latest = 0;
  for (const child of readdirSync(join(root, folder), { withFileTypes: true })) {
    const path = `${folder}/${child.name}`;
    latest = Math.max(latest, child.isDirectory() ? newest(path) : modified(path));
  }
  return latest;
}

function install() {
  const mark = 'node_modules/.package-lock.json';
  if (existsSync(join(root, mark)) && modified(mark) >= modified('package-lock.json')) return;
  say('Installing packages');
  // The database driver is built from its source: nothing may fetch a binary.
  const env = { ...process.env, npm_config_build_from_source: 'true' };
  // Not `npm ci`: it insists on the bindings of every platform, which not every registry mirror has.
  // `npm install` keeps to the versions of the lock file all the same.
  need('Installing packages', 'npm', ['install', '--no-audit', '--no-fund', '--loglevel=error'], { env });
  const now = new Date();
  utimesSync(join(root, mark), now, now);
}

/** What a build made is marked by a file that is as new as the build. */
function stale(mark, ...sources) {
  const made = modified(mark);
  return (
    made === 0 ||
    sources.some(
      (source) => (statSync(join(root, source)).isDirectory() ? newest(source) : modified(source)) > made,
    )
  );
}

function touch(mark) {
  mkdirSync(dirname(join(root, mark)), { recursive: true });
  writeFileSync(join(root, mark), new Date().toISOString());
}

function build() {
  install();
  const sources = compiled.map((name) => `${name}/src`);
  if (stale('.cache/compiled', ...sources, 'tsconfig.base.json', 'package-lock.json')) {
    say('Compiling');
    need('Compiling', bin('tsc'), ['-b']);
    touch('.cache/compiled');
  }
}

function buildWeb() {
  if (
    !stale(
      '.cache/web',
      'web/src',
      'web/index.html',
      'web/vite.config.ts',
      'web/compress-assets.ts',
      'core/src',
      'contract/src',
      'package-lock.json',
    )
  )
    return;
  say('Building the interface');
  need('Building the interface', bin('vite'), ['build', '--logLevel', 'warn'], { cwd: join(root, 'web') });
  touch('.cache/web');
}

/** Runs a program in our place: signals reach it, its exit code is ours. */
function become(command, args, env = process.env) {
  const child = spawn(command, args, { cwd: root, stdio: 'inherit', env });
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => child.kill(signal));
  child.on('exit', (code, signal) => process.exit(code ?? (signal ? 1 : 0)));
}

/** Debian programs that the tests drive: a browser, and as oracles the general tools for each open format. */
function systemPrograms() {
  const wanted = [
    [CHROMIUM, 'chromium'],
    ['/usr/bin/umoci', 'umoci'],
    ['/usr/bin/skopeo', 'skopeo'],
    ['/usr/bin/unsquashfs', 'squashfs-tools'],
    ['/usr/bin/qemu-img', 'qemu-utils'],
    ['/usr/bin/mcopy', 'mtools'],
    ['/usr/sbin/mkfs.fat', 'dosfstools'],
    ['/usr/sbin/sgdisk', 'gdisk'],
    ['/usr/bin/openssl', 'openssl'],
    ['/usr/bin/pigz', 'pigz'],
    ['/usr/bin/wrestool', 'icoutils'],
    ['/usr/bin/setfattr', 'attr'],
    ['/usr/bin/zstd', 'zstd'],
    ['/usr/sbin/slapadd', 'slapd'],
    ['/usr/lib/python3/dist-packages/icalendar/__init__.py', 'python3-icalendar'],
  ].filter(([path]) => !existsSync(path));
  if (wanted.length === 0) return;
  const names = wanted.map(([, name]) => name);
  const refuse = (why) =>
    die(`The tests need ${names.join(' and ')}, and ${why}. On Debian: apt-get install ${names.join(' ')}`);
  if (!existsSync('/usr/bin/apt-get')) refuse('there is no apt-get here to install with');
  if (process.getuid?.() !== 0) refuse('only root may install');
  say(`Installing ${names.join(' and ')}`);
  // The directory server is there for its tools; with this file in place it never starts.
  if (names.includes('slapd')) {
    mkdirSync('/etc/ldap', { recursive: true });
    writeFileSync('/etc/ldap/noslapd', '');
  }
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  run('apt-get', ['update', '-qq'], { env });
  if (
    run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...names, 'fonts-liberation'], {
      env,
    }) !== 0
  )
    refuse('installing failed');
}

/** Two lanes, since two checks at once take little longer than one. */
const checks = [
  [
    ['types', 'typecheck'],
    ['format', 'format:check'],
    ['layers', 'layers'],
    ['dead code', 'deadcode'],
  ],
  [['lint', 'lint']],
];

/** Runs a check to its end, and gives its name if it failed; what it says stands together. */
function check([name, script]) {
  return new Promise((done) => {
    const child = spawn('npm', ['run', '--silent', script], { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
    const said = [];
    for (const stream of [child.stdout, child.stderr]) stream.on('data', (piece) => said.push(piece));
    child.on('close', (code) => {
      say(`Checked ${name}`);
      process.stderr.write(Buffer.concat(said));
      done(code === 0 ? undefined : name);
    });
  });
}

async function runChecks() {
  const lanes = checks.map(async (lane) => {
    const results = [];
    for (const one of lane) results.push(await check(one));
    return results;
  });
  return (await Promise.all(lanes)).flat();
}

async function test() {
  build();
  buildWeb();
  systemPrograms();
  const checked = await runChecks();
  const refused = checked.filter((name) => name !== undefined);
  let passed = checked.length - refused.length;
  let failed = refused.length;
  const report = join(root, '.cache/tests.json');
  mkdirSync(dirname(report), { recursive: true });
  writeFileSync(report, '');
  const status = run(bin('vitest'), [
    'run',
    '--reporter=dot',
    '--reporter=json',
    `--outputFile.json=${report}`,
  ]);
  const counts = readReport(report);
  passed += counts.passed;
  failed += counts.failed;
  if (status !== 0 && counts.failed === 0) failed++;
  // Here and not only where it was checked: that is thousands of lines up by now.
  for (const name of refused) say(`${name}: FAILED`);
  process.stdout.write(`${passed} passed, ${failed} failed\n`);
  process.exit(failed === 0 ? 0 : 1);
}

function readReport(path) {
  try {
    const text = readFileSync(path, 'utf8');
    const { numPassedTests, numFailedTests, testResults } = JSON.parse(text);
    // A file that could not even be loaded has no failed test, but it has failed.
    const broken = testResults.filter(
      (file) => file.status === 'failed' && file.assertionResults.length === 0,
    ).length;
    return { passed: numPassedTests, failed: numFailedTests + broken };
  } catch {
    return { passed: 0, failed: 1 };
  }
}

const [verb = 'start', ...rest] = process.argv.slice(2);
switch (verb) {
  case 'start':
    build();
    buildWeb();
    become(process.execPath, ['server/dist/main.js', ...rest]);
    break;
  case 'dev': {
    build();
    say('The interface with reload is at http://127.0.0.1:4781');
    const server = spawn(
      process.execPath,
      [
        '--watch-path=server/src',
        '--watch-path=core/src',
        '--conditions=source',
        '--import',
        'tsx',
        'server/src/main.ts',
        ...rest,
      ],
      { cwd: root, stdio: 'inherit' },
    );
    process.on('exit', () => server.kill());
    become(bin('vite'), ['web']);
    break;
  }
  case 'build':
    build();
    buildWeb();
    break;
  case 'test':
    await test();
    break;
  case 'bench':
    build();
    buildWeb();
    systemPrograms();
    become(process.execPath, ['--conditions=source', '--import', 'tsx', 'bench/bench.ts', ...rest]);
    break;
  case 'chaos':
    build();
    become(process.execPath, [
      '--conditions=source',
      '--import',
      'tsx',
      ...(rest[0] === 'table' || rest[0] === 'month'
        ? [{ table: 'bench/kill-table.ts', month: 'bench/month.ts' }[rest[0]], ...rest.slice(1)]
        : ['bench/chaos.ts', ...rest]),
    ]);
    break;
  case 'promises':
    build();
    become(process.execPath, ['--conditions=source', '--import', 'tsx', 'bench/promises.ts', ...rest]);
    break;
  case 'odd':
    build();
    become(process.execPath, ['--conditions=source', '--import', 'tsx', 'bench/odd-requests.ts', ...rest]);
    break;
  case 'shots':
    build();
    buildWeb();
    systemPrograms();
    become(process.execPath, ['--conditions=source', '--import', 'tsx', 'e2e/shots.ts', ...rest]);
    break;
  case 'vatline':
    build();
    become(process.execPath, ['cli/dist/main.js', ...rest]);
    break;
  default:
    die(`unknown verb ${verb}`);
}
