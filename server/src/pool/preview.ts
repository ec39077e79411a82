/** What a new pool would be, and everything that stands in its way, before anything is made. */
import { newPoolSchema, type PoolDraft } from '@vatline/contract/pool/kinds';
import type { PoolPreview } from '@vatline/contract/pool/endpoints';
import { canBeRolledOut } from '@vatline/core/image/version-state';
import { makingMinutes, usualPace, usualStorage } from '@vatline/core/pool/assumptions';
import { fitHosts } from '@vatline/core/pool/fit';
import { planNames } from '@vatline/core/pool/names';
import type { Fault } from '@vatline/core/result';
import type { SiteReport } from '../estate/driver/hypervisor.ts';
import type { Parts } from '../platform/parts.ts';
import { faultsOf } from '../platform/problem.ts';
import { allReserved, type Reserved } from './reservations.ts';

/** Works with whatever fields are there; each missing or wrong one is a fault. */
export async function previewPool(parts: Parts, request: PoolDraft): Promise<PoolPreview> {
  // Without a kind the others are judged all the same.
  const parsed = newPoolSchema.safeParse({ ...request, kind: request.kind ?? 'pooled' });
  const faults = parsed.success ? [] : faultsOf(parsed.error);
  if (request.kind === undefined) faults.push({ path: 'kind', message: '' });
  const { hypervisor, directory } = parts.estate;
  const reserved = await allReserved(parts.db);
  const machines = await hypervisor.machineNames();
  const taken = [...machines, ...(await directory.computerNames()), ...reserved.map((one) => one.name)];
  const names = namesOf(request, taken, faults);
  const sites = withReserved(await hypervisor.sites(), reserved, new Set(machines));
  const fit = await fitOf(parts, request, sites, faults);
  if (
    request.name &&
    (await parts.db.selectFrom('pool').select('id').where('name', '=', request.name).executeTakeFirst())
  ) {
    faults.push({ path: 'name', message: `there is a pool named ${request.name} already` });
  }
  if (request.ou && !(await directory.units()).some((unit) => unit.dn === request.ou)) {
    faults.push({ path: 'ou', message: `the directory has no unit ${request.ou}` });
  }
  const pace = usualPace(request.clone ?? 'linked');
  return {
    names: names.names.slice(0, 10_000),
    clashes: names.clashes,
    fit,
    minutes: makingMinutes(request.count ?? 0, pace),
    assumed: { ...usualStorage, ...pace },
    faults: onePerField(faults).map((fault) => presented(request, fault)),
  };
}

/** Sites as full as they will be once everything is made that was accepted; what is made counts already. */
function withReserved(
  sites: readonly SiteReport[],
  reserved: readonly Reserved[],
  made: ReadonlySet<string>,
): SiteReport[] {
  const ahead = reserved.filter((one) => !made.has(one.name));
  return sites.map((site) => {
    const here = ahead.filter((one) => one.site === site.name);
    return {
      ...site,
      coresUsed: site.coresUsed + here.reduce((sum, one) => sum + one.cores, 0),
      datastores: site.datastores.map((store) => ({
        ...store,
        usedBytes:
          store.usedBytes +
          here.reduce((sum, one) => sum + (one.datastore === store.name ? one.bytes : 0), 0),
      })),
    };
  });
}

/** Where nothing was given, what the schema says of it helps nobody. */
function presented(request: PoolDraft, fault: Fault): PoolPreview['faults'][number] {
  const given = request[fault.path as keyof PoolDraft];
  const isMissing = given === undefined || given === '';
  return {
    path: fault.path,
    message: given === undefined ? 'is not chosen yet' : fault.message,
    isMissing,
  };
}

function onePerField(faults: readonly Fault[]): Fault[] {
  const seen = new Set<string>();
  return faults.filter((fault) => !seen.has(fault.path) && seen.add(fault.path));
}

function namesOf(
  request: PoolDraft,
  taken: readonly string[],
  faults: Fault[],
): { names: string[]; clashes: string[] } {
  if (!request.pattern || !request.count || request.start === undefined || request.count > 10_000)
    return { names: [], clashes: [] };
  const plan = planNames({ pattern: request.pattern, start: request.start, count: request.count, taken });
  if (!plan.ok) {
    faults.push(...plan.error);
    return { names: [], clashes: [] };
  }
  if (plan.value.clash !== undefined) {
    const others = plan.value.clashes.length - 1;
    faults.push({
      path: 'pattern',
      message: `${plan.value.clash}${others > 0 ? ` and ${others} more are` : ' is'} taken; begin after the last one or change the pattern`,
    });
  }
  if (plan.value.overflow) faults.push({ path: 'pattern', message: 'has too few # for the last number' });
  return { names: [...plan.value.names], clashes: [...plan.value.clashes] };
}

async function fitOf(
  parts: Parts,
  request: PoolDraft,
  sites: readonly SiteReport[],
  faults: Fault[],
): Promise<PoolPreview['fit']> {
  const site = sites.find((row) => row.name === request.site);
  if (request.site && !site) faults.push({ path: 'site', message: `there is no site ${request.site}` });
  const datastore = site?.datastores.find((row) => row.name === request.datastore);
  if (site && request.datastore && !datastore)
    faults.push({ path: 'datastore', message: `${site.name} has no datastore ${request.datastore}` });
  const version = request.imageVersionId
    ? await parts.db
        .selectFrom('image_version')
        .selectAll()
        .where('id', '=', request.imageVersionId)
        .executeTakeFirst()
    : undefined;
  if (request.imageVersionId && !version)
    faults.push({ path: 'imageVersionId', message: 'there is no such image version' });
  if (version && version.gone_ms !== null)
    faults.push({ path: 'imageVersionId', message: `version ${version.number} was deleted` });
  if (version && !canBeRolledOut(version.state))
    faults.push({ path: 'imageVersionId', message: `version ${version.number} is retired` });
  const { count, processors, clone } = request;
  if (!site || !datastore || !version || !count || !processors || !clone) return null;
  const room = {
    coresFree: site.coresTotal - site.coresUsed,
    datastoreFreeBytes: datastore.capacityBytes - datastore.usedBytes,
  };
  const storage = {
    imageBytes: version.size_bytes,
    ...usualStorage,
    replicas: 1,
  };
  const fit = fitHosts({ count, processorsPerHost: processors, clone, storage }, room);
  if (!fit.fits) {
    const why =
      fit.binding === 'cores'
        ? `${site.name} has ${room.coresFree} cores free and ${fit.coresNeeded} are needed`
        : `the datastore ${datastore.name} is too full`;
    faults.push({ path: 'count', message: `${why}; the largest batch that fits is ${fit.largest}` });
  }
  return { ...fit, coresFree: room.coresFree, bytesFree: room.datastoreFreeBytes };
}
