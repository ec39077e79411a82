/** What needs a person, over all stations, the worst first. */
import type { Need, Waiting } from '@vatline/contract/home';
import type { LineSummary } from '@vatline/contract/image';
import type { PackageSummary } from '@vatline/contract/package';
import type { StagedSummary } from '@vatline/contract/rings/staged';
import type { Rollout } from '@vatline/contract/rollout';
import { attachRefusal } from '@vatline/core/package/attachable';
import { DAY } from '@vatline/core/time/instant';
import { lineSummaries } from '../image/present.ts';
import { subjectAddress } from '../platform/jobs/subject-address.ts';
import type { Parts } from '../platform/parts.ts';
import type { Stores } from './stores.ts';

export async function waitingByStation(parts: Parts, stores: Stores): Promise<Waiting> {
  const lines = await lineSummaries(parts, stores.images);
  const open = (await stores.rollouts.list()).filter((rollout) => rollout.endedAt === null);
  return countedByStation(await needsOf(parts, stores, lines, open));
}

export async function needsOf(
  parts: Parts,
  stores: Stores,
  lines: readonly LineSummary[],
  open: readonly Rollout[],
): Promise<Need[]> {
  const packages = await stores.packages.library.all();
  const groups = await Promise.all([
    failedHosts(open),
    failedJobs(parts),
    driftedHosts(parts),
    shortRollouts(open),
    gates(await stores.stagedPresenter.list()),
    refusedRecurring(parts),
    hostNotes(parts),
    versionsInTest(lines),
    packagesWaiting(packages),
    certificatesEnding(packages, parts.estate.clock.now()),
    sealingKey(stores.certificates.keyFault),
  ]);
  return groups.flat().sort((a, b) => rank(a.tone) - rank(b.tone));
}

function rank(tone: Need['tone']): number {
  return { trouble: 0, attention: 1, calm: 2 }[tone];
}

function failedHosts(open: readonly Rollout[]): Need[] {
  return open
    .filter((rollout) => rollout.failed > 0)
    .map((rollout) => ({
      id: `failed-${rollout.id}`,
      tone: 'trouble',
      title: `${rollout.failed} ${rollout.failed === 1 ? 'host' : 'hosts'} of ${rollout.pool} failed`,
      detail: 'out of service until tried again or set aside',
      action: 'Decide',
      to: `/rollouts/${rollout.id}`,
    }));
}

/** By pool, since those of one pool are mended together. */
async function driftedHosts({ db }: Parts): Promise<Need[]> {
  const rows = await db
    .selectFrom('host_drift')
    .innerJoin('host', 'host.id', 'host_drift.host_id')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .select(({ fn }) => ['pool.id', 'pool.name', fn.min('host.name').as('first')])
    .select(({ fn }) => [fn.count<number>('host.id').distinct().as('hosts')])
    // Of a failed host somebody is told already.
    .where('work', '!=', 'failed')
    .groupBy(['pool.id', 'pool.name'])
    .execute();
  return rows.map(({ id, name, first, hosts }) => ({
    id: `drift-${id}`,
    tone: 'attention',
    title:
      hosts === 1
        ? `${first} is not what its blend says`
        : `${hosts} hosts of ${name} are not what their blends say`,
    detail: 'somebody changed them, or something they had is gone',
    action: 'See what',
    to: `/rollouts/drift?pool=${id}`,
  }));
}

/** The newest job of a subject failed, so nobody has gone on with it. */
async function failedJobs(parts: Parts): Promise<Need[]> {
  const rows = await parts.jobs.store.list(undefined, 100);
  const seen = new Set<string>();
  return rows.flatMap((row): Need[] => {
    if (seen.has(row.subject)) return [];
    seen.add(row.subject);
    if (row.state !== 'failed') return [];
    return [
      {
        id: `job-${row.id}`,
        tone: 'trouble',
        title: `${row.title}: failed`,
        detail: row.error ?? '',
        action: 'See why',
        to: subjectAddress(row.subject),
      },
    ];
  });
}

/** Rollouts that came again, and were refused. */
async function refusedRecurring({ db }: Parts): Promise<Need[]> {
  const rows = await db
    .selectFrom('recurring_rollout')
    .innerJoin('pool', 'pool.id', 'pool_id')
    .select(['pool.id', 'pool.name', 'last_outcome'])
    .where('last_refused', '=', 1)
    .execute();
  return rows.map(({ id, name, last_outcome }) => ({
    id: `recurring-${id}`,
    tone: 'attention',
    title: `The rollout of ${name} that comes again did not begin`,
    detail: last_outcome,
    action: 'Look',
    to: `/rollouts/new?pool=${id}`,
  }));
}

/** Rollouts that are paused or, as it looks now, never end. */
function shortRollouts(open: readonly Rollout[]): Need[] {
  return open.flatMap((rollout): Need[] => {
    if (rollout.state === 'stopped' || rollout.hosts === rollout.done + rollout.failed + rollout.setAside)
      return [];
    if (rollout.pausedAt !== null) return [pausedNeed(rollout)];
    if (rollout.expectedAt !== null) return [];
    return [
      {
        id: `never-${rollout.id}`,
        tone: 'attention',
        title: `${rollout.pool} will not be finished`,
        detail: `no window of ${rollout.plan.window.start} to ${rollout.plan.window.end} lets another host start`,
        action: 'Look at the rollout',
        to: `/rollouts/${rollout.id}`,
      },
    ];
  });
}

function pausedNeed({ id, pool, hosts, done, setAside }: Rollout): Need {
  const left = hosts - done - setAside;
  return {
    id: `paused-${id}`,
    tone: 'attention',
    title: `The rollout of ${pool} is paused`,
    detail: `${left} ${left === 1 ? 'host waits' : 'hosts wait'} until somebody lets it go on`,
    action: 'Look at the rollout',
    to: `/rollouts/${id}`,
  };
}

/** Rollouts through rings that go on when somebody says so, and not before. */
function gates(staged: readonly StagedSummary[]): Need[] {
  return staged.flatMap(({ id, title, state, heldWhy, asksSince, begun, rings }): Need[] => {
    const need = { id: `gate-${id}`, to: `/rollouts/staged/${id}` };
    if (state === 'held')
      return [
        { ...need, tone: 'trouble', title: `${title} is held at a gate`, detail: heldWhy, action: 'Decide' },
      ];
    if (asksSince === null) return [];
    return [
      {
        ...need,
        tone: 'attention',
        title: `${title} waits for an approval`,
        detail: `${begun} of ${rings} rings are through; an approver lets the next one begin`,
        action: 'Decide',
      },
    ];
  });
}

async function hostNotes(parts: Parts): Promise<Need[]> {
  const rows = await parts.db
    .selectFrom('host')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .select(['host.id', 'host.name', 'host.note', 'pool.id as poolId'])
    .where('host.note', '!=', '')
    .where('host.next_blend_id', 'is', null)
    .orderBy('host.name')
    .limit(3)
    .execute();
  return rows.map((row) => ({
    id: `note-${row.id}`,
    tone: 'attention',
    title: row.name,
    detail: row.note,
    action: 'See the host',
    to: `/pools/${row.poolId}?host=${row.name}`,
  }));
}

function versionsInTest(lines: readonly LineSummary[]): Need[] {
  return lines.flatMap((line) =>
    line.versions
      .filter((version, i) => version.state === 'in test' || (version.state === 'draft' && i === 0))
      .map((version): Need => {
        const where = version.usedBy.map((use) => `${use.hosts} hosts of ${use.pool}`).join(', ');
        const detail = [version.note, where ? `runs on ${where}` : 'runs nowhere yet']
          .filter(Boolean)
          .join('; ');
        return {
          id: `version-${version.id}`,
          tone: 'calm',
          title: `${line.name} ${version.number} is ${version.state}`,
          detail,
          action: 'Decide',
          to: `/images/${line.id}/versions`,
        };
      }),
  );
}

/** Days before its end at which a certificate that signed something in use is waited for. */
const CERTIFICATE_DAYS = 30;

function certificatesEnding(packages: readonly PackageSummary[], now: number): Need[] {
  return packages
    .flatMap((row) => row.versions)
    .flatMap((version): Need[] => {
      const { signed, usedBy, state } = version;
      if (!signed || usedBy.length === 0 || state !== 'live') return [];
      const days = Math.floor((signed.validTo - now) / DAY);
      // What is said here about hosts is what the rule says that they ask.
      const later = Math.max(now, signed.validTo + 1);
      const signature = { validFrom: -Infinity, validTo: signed.validTo, isTrusted: true };
      if (days > CERTIFICATE_DAYS || attachRefusal({ state, signature }, later) === undefined) return [];
      const when = days < 0 ? 'has run out' : `runs out in ${days} ${days === 1 ? 'day' : 'days'}`;
      return [
        {
          id: `certificate-${version.id}`,
          tone: days < 0 ? 'trouble' : 'attention',
          title: `${version.name} ${version.version}: its certificate ${when}`,
          detail: `${days < 0 ? '' : 'after that, '}hosts of ${usedBy.join(', ')} refuse to attach it; sign it again`,
          action: 'Sign it again',
          to: `/packages/${version.packageId}`,
        },
      ];
    });
}

function sealingKey(fault: string): Need[] {
  if (fault === '') return [];
  return [
    {
      id: 'sealing-key',
      tone: 'trouble',
      title: 'No certificate can sign',
      detail: `${fault}; put it back and start again, or bring the certificates in anew`,
      action: 'See the certificates',
      to: '/packages/certificates',
    },
  ];
}

function packagesWaiting(packages: readonly PackageSummary[]): Need[] {
  return packages
    .filter(
      (row) =>
        row.waiting !== null && row.captures.every((capture) => capture.proposal.version !== row.waiting),
    )
    .map((row) => ({
      id: `package-${row.id}`,
      tone: 'calm',
      title: `${row.name} ${row.waiting ?? ''} is out`,
      detail: `packaged so far: ${row.versions[0]?.version ?? 'none'}`,
      action: 'Package it',
      to: `/packages/${row.id}`,
    }));
}

function countedByStation(needs: readonly Need[]): Waiting {
  const waiting: Waiting = {};
  for (const need of needs) {
    const station = need.to.split('/')[1]?.split('?')[0] ?? '';
    waiting[station] = (waiting[station] ?? 0) + 1;
  }
  return waiting;
}
