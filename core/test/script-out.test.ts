import { execFileSync, spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { chmodSync, existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { everyKind } from '../../contract/test/every-kind.ts';
import type { Step } from '../src/image/recipe.ts';
import { quotePowershell, quoteShell } from '../src/image/script-out/quote.ts';
import { writeScript } from '../src/image/script-out/write-script.ts';

let folder: string;
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'vatline-script-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const written = everyKind.filter((step) => step.kind !== 'fragment');
const nasty = `it's "$(touch ${'{'}HOME}/x)" \`id\`; rm -rf / # ’`;

/** Runs a shell script as a person would, with restarts only told. */
function runShell(steps: readonly Step[], input = '') {
  const path = join(folder, 'build.sh');
  writeFileSync(path, writeScript('Recipe 3 of Reader', steps, 'shell').text);
  chmodSync(path, 0o755);
  return spawnSync('sh', [path], {
    encoding: 'utf8',
    input,
    env: { ...process.env, RESTART: 'echo restarted', STATE: join(folder, 'state') },
  });
}

describe('a recipe as a shell script', () => {
  it('is a script that a shell can read, whatever the kinds of step', () => {
    const { text, byHand } = writeScript('Recipe 3 of Reader', written, 'shell');
    writeFileSync(join(folder, 'x.sh'), text);
    execFileSync('sh', ['-n', join(folder, 'x.sh')]);
    expect(text).toMatch(/^#!\/bin\/sh\n# Recipe 3 of Reader\n/);
    expect(byHand.map((row) => row.title)).toContain('The system');
  });

  it('does the steps, keeps count, restarts, goes on after the restart, and ends', () => {
    const digest = createHash('sha256').update('welcome').digest('hex');
    writeFileSync(join(folder, 'w.txt'), 'welcome');
    const target = join(folder, 'made/welcome.txt');
    const steps: Step[] = [
      {
        id: 'a',
        kind: 'file copy',
        source: 'w.txt',
        target,
        digest,
        success: { kind: 'file', path: target, sha256: digest },
      },
      { id: 'b', kind: 'restart' },
      {
        id: 'c',
        kind: 'script',
        title: 'Note',
        language: 'shell',
        text: `echo "$0 ran" >> '${folder}/ran'\n`,
      },
      {
        id: 'd',
        kind: 'application',
        name: 'X',
        publisher: 'X',
        version: '1',
        command: `echo app >> ${folder}/ran; exit 3`,
        exitCodes: [0, 3],
      },
    ];
    const first = runShell(steps);
    expect([first.status, first.stdout]).toEqual([
      0,
      expect.stringContaining('Restarting; run this script again afterwards.\nrestarted'),
    ]);
    expect(readFileSync(target, 'utf8')).toBe('welcome');
    expect(existsSync(join(folder, 'ran'))).toBe(false);
    const second = runShell(steps);
    expect([second.status, second.stderr]).toEqual([0, '']);
    expect(readFileSync(join(folder, 'ran'), 'utf8').split('\n')).toEqual([
      expect.stringContaining('ran'),
      'app',
      '',
    ]);
    expect(second.stdout).toContain('vatline scan / --out inventory.jsonl');
    runShell(steps);
    expect(readFileSync(join(folder, 'ran'), 'utf8').split('\n')).toHaveLength(3);
  });

  it('stops at the command that fails, tries again as often as it says, and starts there next time', () => {
    const target = join(folder, 'f');
    writeFileSync(join(folder, 'w.txt'), 'other');
    const wrong = runShell([
      { id: 'a', kind: 'file copy', source: 'w.txt', target, digest: 'ab'.repeat(32), retries: 2 },
      { id: 'b', kind: 'script', title: 'After', language: 'shell', text: `touch '${folder}/after'` },
    ]);
    expect(wrong.status).toBe(1);
    expect(wrong.stderr.match(/trying again/g)).toHaveLength(2);
    expect(wrong.stderr).toContain('step 1 failed');
    expect(existsSync(join(folder, 'after'))).toBe(false);
    expect(existsSync(join(folder, 'state'))).toBe(false);
  });

  it('asks for what it cannot do, and takes no other answer than done', () => {
    const join_: Step = { id: 'j', kind: 'join directory', ou: 'OU=Build,DC=wrenfield,DC=example' };
    expect(runShell([join_], 'no\n').status).toBe(1);
    expect(runShell([join_], 'done\n')).toMatchObject({
      status: 0,
      stdout: expect.stringContaining('OU=Build') as string,
    });
  });

  it('runs nothing that stands in names, notes and values', () => {
    const evil = `x\ntouch '${folder}/evil'\n`;
    const script = runShell([
      {
        id: 'a',
        kind: 'script',
        title: evil,
        note: evil,
        label: evil,
        section: evil,
        language: 'shell',
        text: 'true',
      },
      {
        id: 'b',
        kind: 'application',
        name: evil,
        publisher: evil,
        version: evil,
        command: `printf %s ${quoteShell(nasty)}`,
        exitCodes: [0],
      },
    ]);
    expect([script.status, script.stderr]).toEqual([0, '']);
    expect(script.stdout).toContain(nasty);
    expect(existsSync(join(folder, 'evil'))).toBe(false);
  });
});

describe('a recipe in PowerShell', () => {
  const text = writeScript(
    'Recipe 3\nof Reader',
    [...written, { id: 's', kind: 'script', title: 'Odd', language: 'powershell', text: "'@\n}\n" }],
    'powershell',
  ).text;

  it('has a block a step, in order, each closed', () => {
    const steps = [...text.matchAll(/^Step (\d+) .* \{\n(?: {2}.*\n)*\}$/gm)].map((match) =>
      Number(match[1]),
    );
    const run = written.filter((step) => !step.disabled).length + 1;
    expect(steps).toEqual(Array.from({ length: run }, (_, i) => i + 1));
    expect(text).toContain('# Recipe 3 of Reader\n');
  });

  it('carries scripts as data that no line of theirs can end', () => {
    const base64 = [...text.matchAll(/FromBase64String\('([^']+)'\)/g)].at(-1)?.[1] ?? '';
    expect(Buffer.from(base64, 'base64').toString()).toBe("'@\r\n}\r\n");
  });

  it('sets registry values by their type, below the right hive', () => {
    const setting: Step = {
      id: 'r',
      kind: 'registry setting',
      key: 'Machine\\Kiosk',
      name: 'Seats',
      type: 'REG_DWORD',
      value: '3',
    };
    expect(writeScript('x', [setting], 'powershell').text).toContain(
      "New-ItemProperty -LiteralPath 'HKLM:\\Kiosk' -Name 'Seats' -PropertyType DWord -Value ([uint64] '3') -Force",
    );
  });

  it('joins the domain of the unit', () => {
    const unit: Step = { id: 'j', kind: 'join directory', ou: 'OU=Build,DC=wrenfield,DC=example' };
    expect(writeScript('x', [unit], 'powershell').text).toContain(
      "Add-Computer -DomainName 'wrenfield.example' -OUPath 'OU=Build,DC=wrenfield,DC=example'",
    );
  });
});

describe('quoting', () => {
  it('is read back by a shell as it was', () => {
    expect(execFileSync('sh', ['-c', `printf %s ${quoteShell(nasty)}`], { encoding: 'utf8' })).toBe(nasty);
  });

  it('doubles every kind of single quote that PowerShell knows', () => {
    expect(quotePowershell("a'b’c‘d‚e‛")).toBe("'a''b’’c‘‘d‚‚e‛‛'");
  });
});
