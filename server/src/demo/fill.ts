/** Fills an empty data folder with the demo: the library's lines, packages, pools and work under way. */
import { accountsUnit, joinAccounts, sites } from '@vatline/demo/estate';
import { planLines, type PlannedLine } from '@vatline/demo/lines';
import { assignments, plannedRollouts, pools as plannedPools, type PlannedPool } from '@vatline/demo/pools';
import { closedCalendar } from '@vatline/demo/closed-days';
import { fragmentRevisions } from '@vatline/demo/fragments';
import { brackenote, brackenoteSheets } from '@vatline/demo/option-suites';
import { houseRules } from '@vatline/demo/noise-rules';
import { checkpointKeys, stepIdentity } from '@vatline/core/image/checkpoint-plan';
import { usualMinutes } from '@vatline/core/image/describe-step';
import { planNames } from '@vatline/core/pool/names';
import { restingRules, type ReadinessRules, type RestMode } from '@vatline/core/pool/readiness';
import { must } from '@vatline/core/result';
import { seededRandom } from '@vatline/core/random';
import { DAY, HOUR, MINUTE, parseInstant } from '@vatline/core/time/instant';
import type { RolloutRequest } from '@vatline/contract/rollout';
import { allThatDiffer } from '@vatline/core/rollout/hosts-taken';
import { forecast } from '@vatline/core/rollout/forecast/forecast';
import { poolSettingsSchema, type PoolSettings } from '@vatline/contract/pool/kinds';
import type { HostSize } from '@vatline/core/pool/fit';
import type { CloneDisks } from '../estate/driver/hypervisor.ts';
import type { PracticeEstate } from '../estate/practice/practice-estate.ts';
import { addFragmentRevision } from '../image/fragment-store.ts';
import { addSuite, keepSheet } from '../option-sheet/store.ts';
import { addRuleRevision, USUAL_RULES } from '../package/rule-sets.ts';
import { whileFilling } from '../platform/data-folder.ts';
import { newId } from '../platform/ids.ts';
import { fillRingOrders } from './fill-rings.ts';
import { fillInstallations } from './fill-installations.ts';
import { DEMO_SHARE, fillPackages } from './fill-packages.ts';
import type { Made, Stores } from './made.ts';
import type { Note } from '../platform/journal.ts';
import type { Parts } from '../platform/parts.ts';
import type { BlendRow, HostRow } from '../pool/tables.ts';
import { addRevision } from '../rollout/revisions.ts';
import { planIn, promiseColumns } from '../rollout/start.ts';
import { randomBytes } from 'node:crypto';

/** What somebody did on one host of the desks to help a person, and told nobody. */
const drift = [
  { start: { service: 'System service 4', start: 'disabled' } },
  {
    put: {
      kind: 'registry',
      key: 'Machine\\Software\\Halvane\\Print',
      name: 'Duplex',
      type: 'REG_SZ',
      value: 'off',
    },
  },
] as const;

/** Does nothing when the folder holds any work already. */
export async function fillDemo(
  parts: Parts,
  estate: PracticeEstate,
  stores: Stores,
  say: (text: string) => void,
): Promise<void> {
  if (await parts.db.selectFrom('image_line').select('id').limit(1).executeTakeFirst()) return;
  say('Filling the demo: Wrenfield County Libraries');
  await whileFilling(parts.dataFolder, () => fill(parts, estate, stores, say));
}

async function fill(
  parts: Parts,
  estate: PracticeEstate,
  stores: Stores,
  say: (text: string) => void,
): Promise<void> {
  const made: Made = {
    versions: new Map(),
    lines: new Map(),
    containers: new Map(),
    packages: new Map(),
    pools: new Map(),
  };
  const start = estate.clock.now();
  for (const { daysAgo, ...fragment } of fragmentRevisions)
    await addFragmentRevision(parts.db, { ...fragment, at: start - daysAgo * DAY });
  for (const { daysAgo, ...rules } of houseRules)
    await addRuleRevision(parts.db, { ...rules, name: USUAL_RULES, at: start - daysAgo * DAY });
  for (const [i, line] of planLines().entries()) await fillLine(estate, stores, line, made, start, i);
  await fillPackages(parts, estate, stores, made, start, say);
  await fillJoinAccounts(stores, estate);
  for (const pool of plannedPools) await fillPool(parts, estate, stores, pool, made, start);
  const suiteId = await addSuite(parts, brackenote);
  for (const sheet of brackenoteSheets) await keepSheet(parts, suiteId, sheet.name, sheet.values, 0);
  await fillInstallations(parts, estate, stores.installations);
  await estate.seed.drift('WCL-DS-007', drift);
  await stores.plans.calendars.add(closedCalendar.name, closedCalendar.text);
  await fillRingOrders(stores.ringOrders, made.pools, estate.clock.zone);
  await fillAssignments(parts, made);
  const notes: Note[] = [];
  for (const rollout of plannedRollouts) await fillRollout(parts, stores, rollout, made, notes);
  await parts.journal.note(...notes.sort((a, b) => a.at - b.at));
  await pilotWarning(parts);
}

async function fillLine(
  estate: PracticeEstate,
  stores: Stores,
  line: PlannedLine,
  made: Made,
  start: number,
  place: number,
): Promise<void> {
  const first = line.versions[0];
  const id = await stores.images.lines.create({
    name: line.name,
    purpose: line.purpose,
    hardware: line.hardware,
    steps: first?.steps ?? [],
    dyeOffset: line.dyeOffset,
    at: start - (400 - place) * DAY,
  });
  made.lines.set(line.key, id);
  let revision = 1;
  for (const version of line.versions) {
    const at = start - version.daysAgo * DAY;
    if (version !== first) revision = await stores.images.recipes.add(id, version.steps, line.hardware, at);
    const { expanded } = await stores.images.recipes.get(id, revision);
    const image = await estate.seed.image(expanded, `${line.key} ${version.number}`);
    const row = await stores.images.versions.add({
      lineId: id,
      number: version.number,
      note: version.note,
      state: version.state,
      recipeRevision: revision,
      imageId: image.id,
      inventory: stores.images.versions.keepInventory(line.name, image.entries, at),
      sizeBytes: image.sizeBytes,
      at,
    });
    made.versions.set(`${line.key} ${version.number}`, { id: row.id, imageId: image.id });
  }
  await fillBuildMachine(estate, stores, line, id, start);
}

async function fillBuildMachine(
  estate: PracticeEstate,
  stores: Stores,
  line: PlannedLine,
  id: string,
  start: number,
): Promise<void> {
  const { recipe_revision, machine_name } = await stores.images.lines.get(id);
  const { expanded: steps } = await stores.images.recipes.get(id, recipe_revision);
  const machine = await estate.seed.buildMachine(machine_name, line.site, line.hardware, steps);
  const keys = checkpointKeys(line.hardware, steps);
  const random = seededRandom(`durations ${line.key}`);
  for (const [i, step] of steps.entries()) {
    const snapshotId = machine.snapshots[i] ?? '';
    await stores.images.checkpoints.save(id, {
      key: keys[i] ?? '',
      snapshotId,
      sizeBytes: await estate.hypervisor.snapshotBytes(snapshotId),
      step: i,
      at: start - 2 * DAY,
    });
    for (let past = 0; past < 3; past++) {
      const minutes = Math.round(usualMinutes[step.kind] * (0.9 + random() * 0.3) * 10) / 10;
      const at = start - (2 + past * 28) * DAY;
      await stores.images.runs.save(id, {
        identity: stepIdentity(step),
        minutes,
        at,
        build: `before the demo, ${past}`,
      });
    }
  }
  await stores.images.lines.setMachine(id, machine.id, keys.at(-1) ?? null);
}

async function fillPool(
  parts: Parts,
  estate: PracticeEstate,
  stores: Stores,
  pool: PlannedPool,
  made: Made,
  start: number,
): Promise<void> {
  const lineId = made.lines.get(pool.line) ?? '';
  const id = newId('pool');
  made.pools.set(pool.name, id);
  const { name, kind, clone, pattern } = pool;
  const size = sizeOf(pool);
  const poolRow = {
    id,
    name,
    kind,
    clone,
    line_id: lineId,
    pattern,
    ou: pool.unit,
    processors: size.processors,
    memory_bytes: size.memoryBytes,
    graphics: size.graphics,
    settings_json: JSON.stringify(settingsOfPlanned(pool)),
    session_limit: pool.sessionLimit,
    blend_id: null,
    created_ms: start - 300 * DAY,
  };
  const { site, network, datastore } = pool;
  const dataDatastore = kind === 'dedicated' ? 'fast' : null;
  await stores.pools.add(poolRow, [
    { site, network, datastore, parentDatastore: null, dataDatastore, atMost: null },
  ]);
  const packages = pool.packages.map(
    ([packageName, version]) => made.containers.get(`${packageName} ${version}`) ?? '',
  );
  const version = (number: number) => made.versions.get(`${pool.line} ${number}`) ?? { id: '', imageId: '' };
  await stores.pools.blends.add(id, version(pool.previousVersion).id, packages, start - 40 * DAY);
  const blend = await stores.pools.blends.add(id, version(pool.version).id, packages, start - 12 * DAY);
  await parts.db.updateTable('pool').set({ blend_id: blend.id }).where('id', '=', id).execute();
  const names = must(planNames({ pattern, start: 1, count: pool.hosts, taken: [] })).names;
  const rollout = plannedRollouts.find((planned) => planned.pool === name);
  const worked = rollout ? workedHosts(rollout, names.length) : [];
  const machines = await estate.seed.hosts(
    // Hosts were rolled out over some nights, at half past two; those that are done since have what is new.
    names.map((host, i) => {
      const thereSince = start - (12 - Math.floor((i * 4) / names.length)) * DAY - 330 * MINUTE;
      const done = worked[i];
      return rollout && done
        ? { name: host, imageId: version(rollout.toVersion).imageId, rebuiltAt: done.finished, thereSince }
        : { name: host, imageId: version(pool.version).imageId, rebuiltAt: thereSince };
    }),
    { name, site, network, size, disks: disksOf(pool), ou: pool.unit },
  );
  const rows = names.map((host, i) => ({
    id: newId('host'),
    pool_id: id,
    name: host,
    machine_id: machines[i] ?? '',
    service: 'in service' as const,
    work: 'none' as const,
    blend_id: blend.id,
    next_blend_id: null,
    note: '',
  }));
  await parts.db.insertInto('host').values(rows).execute();
  if (kind === 'dedicated') {
    await fillOwners(estate, names);
    await fillNights(parts, estate, { id, name, machines }, start);
  }
  const digests = await parts.db
    .selectFrom('package_version')
    .select('digest')
    .where('id', 'in', packages)
    .execute();
  const mounts = digests.map(({ digest }) => ({ digest, share: DEMO_SHARE }));
  for (const host of names) await estate.agents.seedMounts(host, mounts, start - 12 * DAY);
}

/** Dedicated hosts are map curators', all but the last one. */
async function fillOwners({ broker, directory }: PracticeEstate, names: readonly string[]): Promise<void> {
  const { people } = await directory.people('map curator', { limit: names.length - 1 });
  for (const [i, { account }] of people.entries())
    await broker.setOwner(`owner ${i}`, names[i] ?? '', account);
}

/** The dear ones have been switched off every night of the last week, and are from now on. */
async function fillNights(
  { db }: Parts,
  estate: PracticeEstate,
  pool: { readonly id: string; readonly name: string; readonly machines: readonly string[] },
  start: number,
): Promise<void> {
  const nights = [7, 6, 5, 4, 3, 2, 1].map((ago) => ({
    off: start - ago * DAY + 11 * HOUR,
    on: start - (ago - 1) * DAY - 80 * MINUTE,
  }));
  await estate.seed.nightsOff(pool.name, pool.machines, nights);
  const hosts = pool.machines.length;
  const week = restingRules(hosts).week.map((hours) => hours.map((): RestMode => 'off'));
  const rules: ReadinessRules = { ...restingRules(hosts), week };
  await db
    .insertInto('readiness')
    .values({
      pool_id: pool.id,
      rules_json: JSON.stringify(rules),
      is_kept: 1,
      revision: 1,
      kept_ms: nights[0]?.off ?? start,
    })
    .execute();
}

const DATA_GIGABYTES = 250;

function settingsOfPlanned({ kind, clone, size, signOut, joinAccount }: PlannedPool): PoolSettings {
  const given = {
    size: size || 'none',
    signOut,
    joinAccount,
    dataGigabytes: kind === 'dedicated' ? DATA_GIGABYTES : 0,
    store: clone === 'network' ? 'stream-7' : null,
    chassis: clone === 'network' ? 'rack-7' : null,
  };
  return { ...poolSettingsSchema.parse(given), size };
}

/** Machines in a chassis have the size they have. */
function sizeOf({ site, size, processors }: PlannedPool): HostSize {
  const found = sites.find((row) => row.name === site)?.sizes.find((row) => row.name === size);
  return found ?? { processors, memoryBytes: 32e9, graphics: 0 };
}

function disksOf({ kind, clone, datastore, signOut }: PlannedPool): CloneDisks {
  const data = kind === 'dedicated' ? { datastore: 'fast', bytes: DATA_GIGABYTES * 1e9 } : null;
  const common = { datastore, data, returnsToClean: signOut === 'return to clean' };
  if (clone === 'network') return { kind: clone, scratchBytes: 6e9, store: 'stream-7', ...common };
  return clone === 'full'
    ? { kind: clone, ...common }
    : { kind: clone, parentDatastore: datastore, ...common };
}

/** Accounts that hosts were joined with, whose passwords nobody ever sees. */
async function fillJoinAccounts({ joinAccounts: known }: Stores, estate: PracticeEstate): Promise<void> {
  for (const { name } of joinAccounts) {
    const password = randomBytes(18).toString('base64url');
    await estate.directory.createAccount(name, name, accountsUnit, password);
    await known.keep({ account: name, password });
  }
}

async function fillAssignments(parts: Parts, made: Made): Promise<void> {
  const rows = assignments.flatMap(({ group, pool, packages }) =>
    [null, ...packages].map((name) => ({
      id: newId('assignment'),
      group_name: group,
      pool_id: made.pools.get(pool) ?? '',
      target_kind: name === null ? ('desktop' as const) : ('package' as const),
      target_id: (name === null ? made.pools.get(pool) : made.packages.get(name)) ?? '',
    })),
  );
  await parts.db.insertInto('assignment').values(rows).execute();
}

type PlannedRollout = (typeof plannedRollouts)[number];

/** A rollout as if it had been started before the demo begins, some of its hosts done. */
async function fillRollout(
  parts: Parts,
  stores: Stores,
  planned: PlannedRollout,
  made: Made,
  notes: Note[],
): Promise<void> {
  const poolId = made.pools.get(planned.pool) ?? '';
  const pool = await stores.pools.pool(poolId);
  const startedAt = parseInstant(planned.startedAt) ?? 0;
  const current = await parts.db
    .selectFrom('blend')
    .selectAll()
    .where('id', '=', pool.blend_id ?? '')
    .executeTakeFirstOrThrow();
  const packageVersionIds = await stores.pools.blends.packageIdsOf(current.id);
  const line = plannedPools.find((row) => row.name === planned.pool)?.line ?? '';
  const imageVersionId = made.versions.get(`${line} ${planned.toVersion}`)?.id ?? '';
  const blend = await stores.pools.blends.add(poolId, imageVersionId, packageVersionIds, startedAt);
  const { window, batch, maxUnavailable, drainLimitMinutes, reserve } = planned;
  const request: RolloutRequest = {
    poolId,
    imageVersionId,
    packageVersionIds,
    window,
    zone: parts.estate.clock.zone,
    calendarIds: [],
    batch,
    maxUnavailable,
    drainLimitMinutes,
    reserve,
    stop: { failures: 3, share: null, after: 0 },
    notice: null,
    ...allThatDiffer,
  };
  const { plan, hosts } = await stores.plans.forecastable(request, {
    seed: 7,
    from: startedAt,
    runs: 400,
  });
  const answer = forecast(plan);
  const promised = promiseColumns(must(answer));
  const id = newId('rollout');
  const planId = await stores.plans.add(planIn(request));
  await parts.db
    .insertInto('rollout')
    .values({
      id,
      pool_id: poolId,
      from_blend_id: current.id,
      to_blend_id: blend.id,
      state: 'asleep',
      is_return: 0,
      plan_id: planId,
      started_ms: startedAt,
      windows_from_ms: startedAt,
      ended_ms: null,
      return_batch: null,
      ...promised,
      seed: 7,
    })
    .execute();
  await addRevision(parts, {
    rollout_id: id,
    plan_id: planId,
    at_ms: startedAt,
    says: '',
    why: '',
    expected_ms: promised.promised_ms,
  });
  const rollout = { id, poolId, blend };
  for (const [number, worked] of workedHosts(planned, hosts.length).entries()) {
    const host = hosts[number];
    if (!host) continue;
    await fillRolloutHost(parts, rollout, host, number, worked);
    if (worked)
      notes.push(noteOf(worked.finished, id, `${host.name} is back in service on blend ${blend.number}`));
  }
  notes.push(
    noteOf(startedAt, id, `${planned.pool}: ${hosts.length} hosts are to run blend ${blend.number}`),
  );
}

/** When a host was taken out of service, when its work began, and when it was back. */
interface Worked {
  readonly begun: number;
  readonly work: number;
  readonly finished: number;
}

/** For each host in its turn when it was worked on; undefined for those whose turn has not come. */
function workedHosts(planned: PlannedRollout, count: number): (Worked | undefined)[] {
  const random = seededRandom(`worked ${planned.pool}`);
  const from = parseInstant(planned.workedFrom) ?? 0;
  return Array.from({ length: count }, (_, number) => {
    const begun = from + Math.floor(number / planned.batch) * 36 * MINUTE;
    const work = begun + Math.round(random() * 12) * MINUTE;
    const finished = work + Math.round(17 + random() * 7) * MINUTE;
    return number < planned.done ? { begun, work, finished } : undefined;
  });
}

async function fillRolloutHost(
  { db }: Parts,
  { id, poolId, blend }: { readonly id: string; readonly poolId: string; readonly blend: BlendRow },
  host: HostRow,
  number: number,
  worked: Worked | undefined,
): Promise<void> {
  await db
    .insertInto('rollout_host')
    .values({
      rollout_id: id,
      host_id: host.id,
      number,
      stage: worked ? 'done' : 'waiting',
      way: worked ? 'rebuild' : null,
      attempts: worked ? 1 : 0,
      started_ms: worked?.begun ?? null,
      work_ms: worked?.work ?? null,
      finished_ms: worked?.finished ?? null,
      error: null,
    })
    .execute();
  const change = worked ? { blend_id: blend.id } : { next_blend_id: blend.id };
  await db.updateTable('host').set(change).where('id', '=', host.id).execute();
  if (!worked) return;
  const minutes = (worked.finished - worked.work) / MINUTE;
  await db
    .insertInto('pool_pace')
    .values({ pool_id: poolId, finished_ms: worked.finished, minutes })
    .execute();
}

function noteOf(at: number, rolloutId: string, text: string): Note {
  return { at, kind: 'rollout', subject: `rollout:${rolloutId}`, text, link: `/rollouts/${rolloutId}` };
}

/** The one warning of the pilot ring, which the soaking version has to answer for. */
async function pilotWarning(parts: Parts): Promise<void> {
  await parts.db
    .updateTable('host')
    .set({ note: 'Hesperling Labels 6.2 and Pellam Reader 9.0 write the same file' })
    .where('name', '=', 'WCL-PB-04')
    .execute();
}
