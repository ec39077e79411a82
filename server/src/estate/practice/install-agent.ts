/** What agents of practice hosts do with installations: they look at their host, run the installer, and report. */
import type { HostFacts } from '@vatline/core/installed/evaluate';
import { fillCommand } from '@vatline/core/installed/command';
import { evaluate } from '@vatline/core/installed/evaluate';
import type { Installation } from '@vatline/core/installed/installation';
import { hash32 } from '@vatline/core/random';
import { must } from '@vatline/core/result';
import type { Instant } from '@vatline/core/time/instant';
import { MINUTE } from '@vatline/core/time/instant';
import {
  EstateError,
  type AgentInstallReport,
  type HostInstaller,
  type InstallOrder,
  type Operation,
} from '../driver.ts';
import type { EstateDb } from './estate-database.ts';
import { diskBytesOf, guestInventory, withApplication, type Guest, type Traits } from './guest.ts';
import { nextCheckOf, PATIENCE_MS } from './hosts.ts';
import type { PracticeOperations } from './operations.ts';

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

export class PracticeInstaller implements HostInstaller {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly traits: () => Promise<ReadonlyMap<string, Traits>>,
  ) {
    operations.effect('install on host', (argument: RunArgument) => this.run(argument));
  }

  /** Hosts of one image are alike, so what is on them is worked out once for each kind. */
  async facts(hosts: readonly string[]): Promise<Map<string, HostFacts>> {
    const traits = await this.traits();
    const byGuest = new Map<string, Pick<HostFacts, 'system' | 'freeDiskBytes' | 'entries'>>();
    const facts = new Map<string, HostFacts>();
    for (let i = 0; i < hosts.length; i += 500) {
      const machines = await this.db
        .selectFrom('machine')
        .select(['name', 'cores', 'guest_json'])
        .where('name', 'in', hosts.slice(i, i + 500))
        .execute();
      for (const { name, cores, guest_json } of machines) {
        const known = byGuest.get(guest_json) ?? guestFacts(guest_json, traits);
        byGuest.set(guest_json, known);
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

  async install(key: string, host: string, { installation, notBefore }: InstallOrder): Promise<Operation> {
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
      call: 'install on host',
      subject: host,
      readyAt: silent ? begins + PATIENCE_MS : begins + worked * MINUTE,
      effect: 'install on host',
      argument: { host, installation, minutes } satisfies RunArgument,
      fails,
    });
  }

  private async run({ host, installation, minutes }: RunArgument): Promise<string> {
    const facts = (await this.facts([host])).get(host);
    if (!facts) throw new EstateError('not found', `there is no host ${host}`);
    const verdict = evaluate(installation, facts);
    if (verdict.state !== 'to install') {
      const why = verdict.state === 'detected already' ? verdict.by : verdict.why;
      return report({ state: verdict.state, code: null, why: why.join('; '), command: '' });
    }
    const command = commandOn(host, installation);
    if (minutes > installation.timeLimitMinutes)
      return report({
        command,
        state: 'failed',
        code: null,
        why: `it was stopped after ${installation.timeLimitMinutes} minutes, its limit`,
      });
    const code = await this.exitCode(host, installation);
    if (code === FATAL_ERROR)
      return report({
        state: 'ran',
        code,
        why: 'the installer gave up and took back what it had done',
        command,
      });
    await this.put(host, installation, verdict.replaces);
    return report({ state: 'ran', code, why: '', command });
  }

  private async exitCode(
    host: string,
    { name, publisher: _publisher, version }: Installation,
  ): Promise<number> {
    if (hash32(`${host} ${name} ${version}`) % 100 < FAILING) return FATAL_ERROR;
    return (await this.traits()).get(name)?.needsRestart || (await this.traits()).get(name)?.driver
      ? RESTART_REQUIRED
      : 0;
  }

  private async put(host: string, installation: Installation, replaces: readonly string[]): Promise<void> {
    const row = await this.db
      .selectFrom('machine')
      .select(['id', 'guest_json'])
      .where('name', '=', host)
      .executeTakeFirstOrThrow();
    const guest = JSON.parse(row.guest_json) as Guest;
    const without = {
      ...guest,
      applications: guest.applications.filter((one) => !replaces.includes(one.name)),
    };
    await this.db
      .updateTable('machine')
      .set({ guest_json: JSON.stringify(withApplication(without, installation)) })
      .where('id', '=', row.id)
      .execute();
  }
}

/** As the agent runs it; a practice host has nothing that could run it, and does what it would do. */
function commandOn(host: string, { name, version, installCommand }: Installation): string {
  const folder = `System/Agent/${name} ${version}`;
  return must(fillCommand(installCommand, { folder, log: `${folder}.log`, name, version, host }));
}

function report(part: AgentInstallReport): string {
  return JSON.stringify(part);
}

function guestFacts(
  guestJson: string,
  traits: ReadonlyMap<string, Traits>,
): Pick<HostFacts, 'system' | 'freeDiskBytes' | 'entries'> {
  const guest = JSON.parse(guestJson) as Guest;
  const entries = guestInventory(guest, traits);
  return {
    system: `${guest.system} ${guest.edition}`.trim(),
    freeDiskBytes: Math.max(0, DISK_BYTES - diskBytesOf(guest, entries)),
    entries,
  };
}

/** A practice host runs no language; it knows the one script that says its own exit code. */
function runScript(text: string): number | undefined {
  const code = /^\s*exit\s+(\d{1,5})\s*$/.exec(text)?.[1];
  return code === undefined ? undefined : Number(code);
}
