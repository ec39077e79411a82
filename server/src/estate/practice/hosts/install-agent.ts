/** What agents of practice hosts do with installations: they look at their host, run the installer, and report. */
import { type HostFacts, evaluate } from '@vatline/core/installed/evaluate';
import { fillCommand } from '@vatline/core/installed/command';
import type { Installation } from '@vatline/core/installed/installation';
import { evaluateRemoval } from '@vatline/core/installed/removal';
import { hash32 } from '@vatline/core/random';
import { must } from '@vatline/core/result';
import { type Instant, MINUTE } from '@vatline/core/time/instant';
import { EstateError, type Operation } from '../../driver/operations.ts';
import type { AgentInstallReport, HostInstaller, InstallOrder, RemovalOrder } from '../../driver/hosts.ts';
import type { EstateDb } from '../estate-database.ts';
import type { Guests } from '../hypervisor/guests.ts';
import type { ImportedImages } from '../hypervisor/imported-images.ts';
import {
  diskBytesOf,
  guestInventory,
  withApplication,
  type Guest,
  type Traits,
} from '../hypervisor/guest.ts';
import { nextCheckOf, PATIENCE_MS } from './agents.ts';
import type { PracticeOperations } from '../operations.ts';

/** Of a hundred runs of an installer so many end with this code, for reasons of their own. */
const FAILING = 3;
const FATAL_ERROR = 1603;
const RESTART_REQUIRED = 3010;
/** A practice host has a disk of this size, and so much memory for each processor. */
const DISK_BYTES = 64e9;
const MEMORY_A_CORE = 4e9;

interface RunArgument {
  readonly host: string;
  readonly installation: Installation;
  readonly minutes: number;
}

interface RemoveArgument extends RunArgument {
  readonly dependants: readonly Installation[];
}

export class PracticeInstaller implements HostInstaller {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly imported: ImportedImages,
    private readonly guests: Guests,
    private readonly traits: () => Promise<ReadonlyMap<string, Traits>>,
  ) {
    operations.effect('install on host', (argument: RunArgument) => this.run(argument));
    operations.effect('uninstall on host', (argument: RemoveArgument) => this.remove(argument));
  }

  /** Hosts of one image are alike, so what is on them is worked out once for each kind. */
  async facts(hosts: readonly string[]): Promise<Map<string, HostFacts>> {
    const traits = await this.traits();
    const byGuest = new Map<string, Pick<HostFacts, 'system' | 'freeDiskBytes' | 'entries'>>();
    const facts = new Map<string, HostFacts>();
    for (let i = 0; i < hosts.length; i += 500) {
      const machines = await this.db
        .selectFrom('machine')
        .select(['name', 'cores', 'guest'])
        .where('name', 'in', hosts.slice(i, i + 500))
        .execute();
      for (const { name, cores, guest } of machines) {
        const known = byGuest.get(guest) ?? (await this.guestFacts(await this.guests.of({ guest }), traits));
        byGuest.set(guest, known);
        facts.set(name, {
          ...known,
          name,
          architecture: 'x64',
          memoryBytes: cores * MEMORY_A_CORE,
          runScript,
        });
      }
    }
    return facts;
  }

  private async guestFacts(
    guest: Guest,
    traits: ReadonlyMap<string, Traits>,
  ): Promise<Pick<HostFacts, 'system' | 'freeDiskBytes' | 'entries'>> {
    const entries = guestInventory(guest, traits, await this.imported.entriesOf(guest));
    return {
      system: `${guest.system} ${guest.edition}`.trim(),
      freeDiskBytes: Math.max(0, DISK_BYTES - diskBytesOf(guest, entries)),
      entries,
    };
  }

  install(key: string, host: string, order: InstallOrder): Promise<Operation> {
    return this.begin(key, host, order, 'install on host', {});
  }

  uninstall(key: string, host: string, { dependants, ...order }: RemovalOrder): Promise<Operation> {
    return this.begin(key, host, order, 'uninstall on host', { dependants });
  }

  private async begin(
    key: string,
    host: string,
    { installation, notBefore }: InstallOrder,
    call: 'install on host' | 'uninstall on host',
    more: object,
  ): Promise<Operation> {
    const now = this.operations.now();
    const silent = await this.db
      .selectFrom('fault')
      .select('id')
      .where('kind', '=', 'agent silent')
      .where('target', '=', host)
      .executeTakeFirst();
    const fails = silent
      ? { kind: 'timeout' as const, message: `the agent on ${host} has been silent for 15 minutes` }
      : undefined;
    const minutes = 2 + (hash32(`${host} ${installation.name}`) % 60) / 10;
    const begins: Instant = nextCheckOf(host, Math.max(now, notBefore));
    const worked = Math.min(minutes, installation.timeLimitMinutes);
    return this.operations.begin({
      key,
      call,
      subject: host,
      readyAt: silent ? begins + PATIENCE_MS : begins + worked * MINUTE,
      effect: call,
      argument: { host, installation, minutes, ...more },
      fails,
    });
  }

  private async run({ host, installation, minutes }: RunArgument): Promise<string> {
    const verdict = evaluate(installation, await this.factsOf(host));
    if (verdict.state !== 'to install') {
      const why = verdict.state === 'detected already' ? verdict.by : verdict.why;
      return report({ state: verdict.state, code: null, why: why.join('; '), command: '' });
    }
    const command = commandOn(host, installation, installation.installCommand);
    const code = await this.exitCode(host, installation);
    const failed = failedRun(installation, minutes, command, code);
    if (failed) return failed;
    await this.change(host, (guest) => withApplication(without(guest, verdict.replaces), installation));
    return report({ state: 'ran', code, why: '', command });
  }

  private async remove({ host, installation, minutes, dependants }: RemoveArgument): Promise<string> {
    const verdict = evaluateRemoval(installation, await this.factsOf(host), dependants);
    if (verdict.state !== 'to remove') {
      const why = verdict.state === 'needed' ? `${verdict.by.join(' and ')} needs it` : '';
      return report({ state: verdict.state, code: null, why, command: '' });
    }
    const command = commandOn(host, installation, installation.uninstallCommand);
    const code = await this.exitCode(`${host} remove`, installation);
    const failed = failedRun(installation, minutes, command, code);
    if (failed) return failed;
    await this.change(host, (guest) => without(guest, [installation.name]));
    return report({ state: 'ran', code, why: '', command });
  }

  private async factsOf(host: string): Promise<HostFacts> {
    const facts = (await this.facts([host])).get(host);
    if (!facts) throw new EstateError('not found', `there is no host ${host}`);
    return facts;
  }

  private async exitCode(run: string, { name, version }: Installation): Promise<number> {
    if (hash32(`${run} ${name} ${version}`) % 100 < FAILING) return FATAL_ERROR;
    return (await this.traits()).get(name)?.needsRestart || (await this.traits()).get(name)?.driver
      ? RESTART_REQUIRED
      : 0;
  }

  private async change(host: string, change: (guest: Guest) => Guest): Promise<void> {
    const row = await this.db
      .selectFrom('machine')
      .select(['id', 'guest'])
      .where('name', '=', host)
      .executeTakeFirstOrThrow();
    await this.db
      .updateTable('machine')
      .set({ guest: await this.guests.keep(change(await this.guests.of(row))) })
      .where('id', '=', row.id)
      .execute();
  }
}

function without(guest: Guest, names: readonly string[]): Guest {
  return { ...guest, applications: guest.applications.filter((one) => !names.includes(one.name)) };
}

/** What is reported when the command took too long, or gave up. */
function failedRun(
  { timeLimitMinutes }: Installation,
  minutes: number,
  command: string,
  code: number,
): string | undefined {
  if (minutes > timeLimitMinutes)
    return report({
      command,
      state: 'failed',
      code: null,
      why: `it was stopped after ${timeLimitMinutes} min, its limit`,
    });
  if (code !== FATAL_ERROR) return undefined;
  return report({ state: 'ran', code, why: 'the installer gave up and took back what it had done', command });
}

/** As the agent runs it; a practice host has nothing that could run it, and does what it would do. */
function commandOn(host: string, { name, version }: Installation, command: string): string {
  const folder = `System/Agent/${name} ${version}`;
  return must(fillCommand(command, { folder, log: `${folder}.log`, name, version, host }));
}

function report(part: AgentInstallReport): string {
  return JSON.stringify(part);
}

/** A practice host runs no language; it knows the one script that says its own exit code. */
function runScript(text: string): number | undefined {
  const code = /^\s*exit\s+(\d{1,5})\s*$/.exec(text)?.[1];
  return code === undefined ? undefined : Number(code);
}
