/** Packages as a packager goes through them: from an installer to a container that is known to work. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { describe, expect, it } from 'vitest';
import type { Page } from '@vatline/contract/page';
import type { Capture } from '@vatline/contract/capture';
import type { InstallationRow } from '@vatline/contract/installation';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Rollout } from '@vatline/contract/rollout';
import type { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';
import { beginJourney } from './journey.ts';
import { packagesOf, personLike } from '../server/test/usual-requests.ts';

let app: RunningApp;
let visitor: Visitor;
const { open, speed, toNextWindow, skipUntil } = beginJourney((started) => ({ app, visitor } = started));

const version141 = async () => {
  const versions = (await packagesOf((path) => app.api(path))).flatMap((row) => row.versions);
  const found = versions.find((row) => row.version === '141.0');
  if (!found) throw new Error('141.0 is not packaged');
  return found;
};

/** Clicks a row of the difference. */
async function chooseRow(text: string): Promise<void> {
  const row = await visitor.page.waitForFunction(
    (wanted) =>
      [...document.querySelectorAll<HTMLElement>('.tree-row')].find((own) =>
        own.textContent?.includes(wanted),
      ),
    {},
    text,
  );
  await row.asElement()?.evaluate((element) => (element as HTMLElement).click());
}

/** An account whose groups, directly or by nesting, hold this one. */
async function someoneOf(group: string): Promise<string> {
  const { rows: people } = await app.api<Page<{ account: string }>>('/estate/users?limit=200');
  for (const { account } of people) {
    const { groups } = await app.api<{ groups: string[] }>(`/see-as?user=${account}`);
    if (groups.includes(group)) return account;
  }
  throw new Error(`nobody among the first is in ${group}`);
}

describe('Zinnet Browser 141, by what the screens say', () => {
  it('is captured and judged', async () => {
    await open('/packages');
    await visitor.answer('Zinnet Browser 141.0 waits to be packaged');
    await speed(600);
    await visitor.clickText('Capture 141.0');
    await visitor.answer(
      'Zinnet Browser 141.0 suits a container with care: its updater has to be switched off.',
    );
    await speed(0);
    await visitor.sees('leave Program files/Zinnet Browser/updater/zinnet-update.exe out of the container');
    await visitor.sees('set service ZinnetUpdate to disabled');
    await visitor.clickText('dropped 43');
    await visitor.sees(/System \d+ entries/);
  });

  it('what every machine writes is made a rule of, and the capture judged by it', async () => {
    await visitor.clickText('kept 479');
    await visitor.type('Filter the difference', 'cache.idx');
    await visitor.sees('1 entry, 25 B'); // the list as filtered: choosing before would be undone by it
    await chooseRow('cache.idx');
    await visitor.sees('looked at again');
    await visitor.click('Drop it by a rule');
    await visitor.sees('It takes nothing else in this capture.');
    await visitor.type('Reason', 'made anew by every machine');
    await visitor.click('Keep the rule');
    await visitor.sees('kept 478');
    await visitor.sees('dropped 44');
    await open('/packages/rules');
    await visitor.answer('House rules: 3 rules, which judged 1 capture.');
    await visitor.sees('Nothing about the 1 capture so far.');
    await visitor.toEndOfText();
    // The editor keeps the indentation of the line before.
    await visitor.page.keyboard.press('Home');
    await visitor.page.keyboard.type("  - id: no tables\nglob: '**/*.csv'\n");
    await visitor.sees(/line 18, column 5: rules\.3\.action must be drop or keep/);
    await visitor.page.keyboard.type('action: drop\nreason: a try\n');
    await visitor.sees(/They would have changed 1 of 1 earlier capture/);
    expect(await visitor.violations()).toEqual([]);
  });

  it('its updater is switched off with one click, and the verdict follows', async () => {
    const [capture] = (await packagesOf((path) => app.api(path))).flatMap((row) => row.captures);
    await open(`/packages/capture/${capture?.id}`);
    await visitor.answer('its updater has to be switched off');
    await visitor.click('Switch it off in the package');
    await visitor.answer('Zinnet Browser 141.0 suits a container.');
  });

  it('the manifest is guessed, says from where, and can be confirmed', async () => {
    await visitor.click('Fill in the manifest');
    await visitor.sees('guessed from the uninstall entry');
    expect(await visitor.violations()).toEqual([]);
    await visitor.click('Confirm Name');
    await visitor.sees('and confirm 8 guesses');
    await visitor.type('Description', 'The browser of the branches');
    await visitor.sees('and confirm 7 guesses');
    await visitor.sees(/in 460 files; hosts set 6 values when they attach it/);
  });

  it('is built three times, and the containers stand side by side', async () => {
    await visitor.click('Build 3 containers');
    await visitor.answer('Zinnet Browser 141.0 is in its container; no host trusts it yet.');
    await visitor.page.waitForFunction(
      () => document.querySelectorAll('.container-sizes tbody tr').length === 3,
    );
    const { containers, digest } = await version141();
    expect(containers.map((one) => one.format)).toEqual(['squashfs', 'oci', 'vhdx']);
    const folder = mkdtempSync(join(tmpdir(), 'vatline-journey-'));
    const path = (of: string) => join(app.folder, 'containers', of);
    execFileSync('unsquashfs', ['-q', '-n', '-d', join(folder, 'x'), path(digest)]);
    const disk = containers.find((one) => one.format === 'vhdx')?.digest ?? '';
    expect(execFileSync('qemu-img', ['check', path(disk)]).toString()).toContain('No errors');
    const files = execFileSync('find', [join(folder, 'x'), '-type', 'f'])
      .toString()
      .trim()
      .split('\n');
    expect(files).toHaveLength(460);
  });

  it('is refused unsigned, verified signed, and offered', async () => {
    await visitor.click('Verify');
    await visitor.sees('signature: there is none beside the container');
    await visitor.click('Sign');
    await visitor.sees('by Wrenfield Packaging 2026');
    await visitor.click('Verify');
    await visitor.answer('Zinnet Browser 141.0 is verified, and can be offered to hosts.');
    await visitor.sees('chain: trusted by the hosts of contact-centre, desk-staff');
    await visitor.click('Offer to hosts');
    await visitor.answer('Zinnet Browser 141.0 is offered to hosts.');
  });

  it('is tried on a host for nobody, and what that took is told', async () => {
    await visitor.sees('Not tried on a host yet; what it takes is guessed from its size.');
    await speed(60);
    await visitor.click('Try it on this host');
    await visitor.sees(
      /[\d,]+ reads on the share, [\d,]+ ms to mount, 35 ms to register; measured on WCL-PB-01/,
    );
    await speed(0);
  });

  it('against the version that hosts have, it says what an update costs', async () => {
    const { packageId, version } = await version141();
    await open(`/packages/${packageId}/compare`);
    await visitor.sees('Only files that are new');
    await visitor.sees(/1[0-9]{2} hosts would read that in full/);
    expect(version).toBe('141.0');
    expect(await visitor.violations()).toEqual([]);
    await open(`/packages/${packageId}/keep`);
    await visitor.sees('contact-centre attaches it on 22 hosts');
    expect(await visitor.violations()).toEqual([]);
    await open(`/packages/capture/${(await version141()).captureId}`);
  });

  it('shows what is inside, and gives a file out of it', async () => {
    await visitor.click('Look inside');
    await visitor.type('Filter what is inside', 'templates/template-');
    await visitor.sees(/\d+ files and links, read from the container/);
    const path = await visitor.page.$eval('.contents .tree-name', (element) => element.textContent ?? '');
    const saved = await visitor.saves(`Take out ${path}`);
    const { captureId } = await version141();
    const original = readFileSync(join(app.folder, 'captures', captureId ?? '', 'payload', path));
    expect(readFileSync(saved).equals(original)).toBe(true);
  });

  it('is rolled out to the pilot, and a person of the pilot gets it and another does not', async () => {
    const pilot = (await app.api<PoolSummary[]>('/pools')).find((row) => row.name === 'pilot-bench');
    await open(`/rollouts/new?pool=${pilot?.id}`);
    await visitor.click('Packages attached');
    await visitor.page.keyboard.type('Zinnet Browser 141');
    await visitor.page.keyboard.press('Enter');
    await visitor.page.keyboard.press('Escape');
    await visitor.answer(/Done by .* \(9 in 10\)/);
    await visitor.click('Roll out 6 hosts');
    await visitor.answer(/6 hosts left/);
    const rollout = visitor.page.url().split('/').pop() ?? '';
    await toNextWindow(rollout);
    await skipUntil(async () => (await app.api<Rollout>(`/rollouts/${rollout}`)).endedAt !== null);
    await visitor.answer('6 of 6 hosts done');
    expect((await version141()).usedBy).toEqual(['pilot-bench']);
    expect(await app.api(`/rollouts/${rollout}`)).toMatchObject({ failed: 0 });
    await open(`/pools/${pilot?.id}?host=WCL-PB-01`);
    await visitor.sees('7 containers mounted, all that its blend says.');
    await visitor.sees(/Zinnet Browser 141\.0 Zinnet Browser containers\//);
    await visitor.click('Check now');
    await visitor.sees(/Its agent looks again/);
    await open(`/access?user=${await someoneOf('Pilot group')}`);
    await visitor.sees('Zinnet Browser 141.0 is live and attached to pilot-bench');
    const agent = await personLike((path) => app.api(path), 'contact-centre agent');
    await open(`/access?user=${agent}`);
    await visitor.sees('Zinnet Browser 139.0 is live and attached to contact-centre');
    expect(await visitor.page.$eval('main', (main) => main.textContent)).not.toContain(
      'Zinnet Browser 141.0',
    );
  });
});

describe('each application of the demo gets its verdict, with the evidence', () => {
  const captured = async (installer: string) => {
    const { captureId } = await app.api<{ captureId: string }>('/captures', { installers: [installer] });
    await speed(600);
    await open(`/packages/capture/${captureId}`);
    for (let state = 'capturing'; state === 'capturing';)
      ({ state } = await app.api<Capture>(`/captures/${captureId}`));
    await speed(0);
  };
  it.each([
    [
      'a driver',
      'dockray-3.4',
      'Dockray Scan 3.4 does not suit a container: a driver cannot be attached.',
      ['It brings a kernel driver', 'System/Drivers/dockray.sys'],
    ],
    [
      'for one user',
      'ostrand-3.1',
      'Ostrand Forms 3.1 suits a container with care: it has to be made to install for everybody',
      ['It installs for one user only', 'Users/packager/Local/Ostrand Forms/ostrand.exe'],
    ],
    [
      'a dependency',
      'corvane-11.2',
      'Corvane Stats 11.2 suits a container with care: what it needs must be attached too',
      ['It needs another application', 'points into Program files/Quaybolt Runtime'],
    ],
    [
      'a conflict',
      'hesperling-6.2',
      'Hesperling Labels 6.2 suits a container with care: it clashes with a package that hosts have.',
      ['Hesperling Labels 6.2 and Pellam Reader 9.0 clash', 'file: Common files/Page/page.dll'],
    ],
    [
      'a service',
      'tillbeck-5.1',
      'Tillbeck Cash 5.1 suits a container with care: its service is started at each attach.',
      ['It runs a service', 'service TillbeckCash'],
    ],
  ])('%s', async (_what, installer, answer, evidence) => {
    await captured(installer);
    await visitor.answer(answer);
    for (const text of evidence) await visitor.sees(text, '.evidence');
  });
  it('costs follow their assumptions, and the nearest flip is named', async () => {
    await visitor.sees(/would cost the same at/);
    const cost = () =>
      visitor.page.$$eval('.deliveries .cost', (cells) => cells.map((cell) => cell.textContent));
    const before = await cost();
    await visitor.page.evaluate(() => {
      const buttons = [...document.querySelectorAll<HTMLButtonElement>('.evidence .how')];
      buttons.at(-1)?.click();
    });
    const field = await visitor.page.waitForSelector('.placement-inputs label:first-of-type input');
    await field?.click({ count: 3 });
    await visitor.page.keyboard.type('50\t');
    await visitor.page.waitForFunction(
      (old) => document.querySelector('.deliveries .cost')?.textContent !== old,
      {},
      before[0],
    );
    expect(await cost()).not.toEqual(before);
  });
});

describe('file shares', () => {
  it('say whether they carry it, and who may read too much; the rights are set with one click', async () => {
    await open('/packages/shares');
    await visitor.answer('The share containers carries it with 30 % to spare.');
    await visitor.sees(/reads a second in the busiest minute of 0[5-9]:00/);
    await visitor.sees('people may read it, though only hosts have to');
    await visitor.click('Set the rights');
    await visitor.page.waitForFunction(() => !document.body.innerText.includes('people may read it'));
    expect(await visitor.violations()).toEqual([]);
  });
  it('a steady load that is too much takes another share, and the answer says so', async () => {
    const field = await visitor.page.waitForSelector('.placement-inputs label:nth-of-type(4) input');
    await field?.click({ count: 3 });
    await visitor.page.keyboard.type('1200\t');
    await visitor.answer(
      'The share containers-fast carries it with 30 % to spare; containers would do if all packages were attached ahead.',
    );
    await visitor.sees('no: it serves 1400 operations a second with 30 % to spare');
  });
});

describe('installed by agents', () => {
  const command = '"{folder}\\setup.exe" /quiet /log "{log}"';
  const isIdle = async () =>
    (await app.api<InstallationRow[]>('/installations')).every((row) => row.activeJob === null);
  it('what hosts would make of it follows every field', async () => {
    await open('/packages/installed');
    await visitor.answer('Lanrick Ledger 4.0 would be installed on 22 of 22 hosts.');
    await visitor.sees('In this order: Quaybolt Runtime 5.2, then Lanrick Ledger 4.0.');
    await visitor.type('System at least', '25');
    await visitor.answer('Lanrick Ledger 4.0 would be installed on 0 of 22 hosts.');
    await visitor.sees('it needs system 25, the host has Desktop OS');
    await visitor.type('System at least', '24');
    await visitor.answer('22 of 22 hosts');
    await visitor.type('Install command', 'setup.exe');
    await visitor.sees('has no silent switch such as /quiet; it would wait for a click that nobody makes');
    await visitor.type('Install command', command);
    expect(await visitor.violations()).toEqual([]);
  });
  it('agents install it after the quiet hours, what it needs first, and report', async () => {
    await visitor.click('Give it to the agents');
    await visitor.sees(/waiting (until|or at work)/);
    await skipUntil(isIdle);
    await visitor.answer(/Lanrick Ledger 4.0: (\d+ failed, )?\d+ installed/);
    await visitor.sees(/ran "System\/Agent\/Lanrick Ledger 4.0/);
    await open('/packages/installed');
    await visitor.clickText('Quaybolt Runtime 5.2');
    await visitor.answer(/Quaybolt Runtime 5.2: .*\d+ installed/);
  });
  it('is taken away again, but not where something needs it', async () => {
    await visitor.sees(/It is on \d+ of 46 hosts. On \d+ it stays, since Lanrick Ledger 4.0 needs it./);
    await visitor.clickText('Lanrick Ledger 4.0');
    await visitor.sees(/It is on \d+ of 22 hosts\./);
    await visitor.clickText('Remove it from');
    await visitor.sees('Remove Lanrick Ledger 4.0 from');
    await skipUntil(isIdle);
    await visitor.answer(/Lanrick Ledger 4.0: .*\d+ removed/);
    await visitor.sees(/It is on \d of 22 hosts\.|It is on none of 22 hosts\./);
  });
});

describe('many at once', () => {
  it('a list is checked as it is written, and each row has its own result', async () => {
    await open('/packages/bulk');
    await visitor.answer('What is to be done with many packages?');
    const list = await visitor.page.waitForSelector('textarea[aria-label="List"]');
    const write = async (text: string) => {
      await list?.click({ count: 3 });
      await visitor.page.keyboard.down('Control');
      await visitor.page.keyboard.press('a');
      await visitor.page.keyboard.up('Control');
      await visitor.page.keyboard.type(text);
    };
    await write('name,version\nSnaithby Timer,\n');
    await visitor.sees('line 2 has no version');
    await write('name,version\nDockray Scan,3.4\nPennisk Viewer,4.4\n');
    await speed(600);
    await visitor.click('Make 2 rows');
    await visitor.answer('Make drafts: 0 of 2 rows done, 2 refused.');
    await speed(0);
    await visitor.sees('It does not suit a container: a driver cannot be attached; its capture is kept');
    await visitor.sees('It is packaged already');
    expect(await visitor.violations()).toEqual([]);
    await visitor.clickText('Convert');
    await visitor.click('All of them');
    await visitor.sees(/Convert 2\d versions/);
    await visitor.click('None of them');
    await visitor.clickText('Pellam Reader 9.0');
    await visitor.click('Convert 1 version');
    await visitor.answer('Convert: 1 of 1 row done, 0 refused.');
    await visitor.sees(/Disk, expandable of [\d.]+ MB built beside it/);
    expect(await visitor.violations()).toEqual([]);
  });
});

describe('clashes', () => {
  it('say where the packages meet, and what one pool has alone', async () => {
    await open('/packages/clashes');
    await visitor.answer(/\d+ clash(es)? between packages\./);
    await visitor.sees('Pellam Reader 9.0 and Hesperling Labels 6.2 clash');
    await visitor.sees('Attached together on pilot-bench.');
    await visitor.choose('Attached together', 'desk-staff, now');
    await visitor.answer('Nothing clashes on desk-staff.');
    const pilot = (await app.api<PoolSummary[]>('/pools')).find((row) => row.name === 'pilot-bench');
    await open(`/rollouts/new?pool=${pilot?.id}`);
    await visitor.sees('Pellam Reader 9.0 and Hesperling Labels 6.2 clash: file Common files/Page/page.dll');
  });
});

describe('option sheets', () => {
  it('are taken by a step of a recipe, which knows what they render to', async () => {
    const lines = await app.api<{ id: string; name: string }[]>('/lines');
    await open(`/images/${lines.find((line) => line.name.startsWith('Staff'))?.id}`);
    await visitor.choose('Add a step', 'application by option sheet');
    await visitor.sees(/no option sheet is chosen/, '.evidence');
    await visitor.choose('Filled option sheet', 'Branch desks');
    await visitor.sees(/Brackenote Office 24\.2 by Brackenote; renders to [0-9a-f]{12}/);
    await visitor.sees('Brackenote Office is installed twice', '.evidence');
    await visitor.answer(/The next build takes \d+ min, not 1 h \d+ min\./);
  });
  it('become an answer file as they are filled in, keep to the rules, and are compared', async () => {
    await open('/packages/options');
    await visitor.answer('Branch desks: Brackenote Office as it will be installed.');
    await visitor.sees('<suite edition="Complete" channel="Steady"');
    await visitor.sees('5 options of 8 differ.');
    await visitor.choose('Update channel', 'Preview');
    await visitor.answer('Branch desks has 1 fault.');
    await visitor.sees('the preview channel has no licence for shared machines');
    await visitor.click('Licence for shared machines');
    await visitor.sees('setup.exe /quiet /answers answers.xml /accept-preview');
    expect(await visitor.violations()).toEqual([]);
    await visitor.click('Keep Branch desks');
    await visitor.page.waitForFunction(() => !document.body.innerText.includes('Drop the changes'));
    await visitor.clickText('Options and templates');
    await visitor.answer('Brackenote Office 24.2: 8 options, 3 rules, 2 templates.');
    await visitor.sees('All of its 2 sheets fit.');
    expect(await visitor.violations()).toEqual([]);
  });
});

describe('certificates', () => {
  it('tell how long they last and who trusts them; a wrong file and a wrong password are answered at their fields', async () => {
    await open('/packages/certificates');
    await visitor.answer('2 of 3 certificates can sign for hosts; Wrenfield Packaging 2025 runs out in');
    await visitor.sees('no pool: its hosts would refuse what it signs');
    const folder = mkdtempSync(join(tmpdir(), 'vatline-journey-'));
    const openssl = (line: string) =>
      execFileSync('openssl', line.split(' '), { cwd: folder, stdio: 'ignore' });
    openssl('req -x509 -newkey rsa:2048 -nodes -keyout k.pem -out c.pem -subj /CN=Own -days 90');
    openssl('pkcs12 -export -inkey k.pem -in c.pem -out own.p12 -passout pass:open');
    await visitor.type('Name', 'Own');
    const input = await visitor.page.waitForSelector('input[type="file"]');
    await (input as unknown as { uploadFile(path: string): Promise<void> }).uploadFile(
      join(folder, 'own.p12'),
    );
    await visitor.type('Password', 'shut');
    await visitor.click('Bring it in');
    await visitor.sees('is not opened by this password');
    await visitor.type('Password', 'open');
    await visitor.click('Bring it in');
    await visitor.sees('CN=Own');
  });
  it.each(['/packages/certificates', '/packages/clashes'])(
    '%s has no violation that axe knows',
    async (path) => {
      await open(path);
      expect(await visitor.violations()).toEqual([]);
    },
  );
});
