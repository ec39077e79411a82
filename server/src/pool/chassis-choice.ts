/** The machines of a chassis that a draft has chosen, and everything that stands in their way. */
import { AS_FOUND, LOCAL_DISK, slotFaults } from '@vatline/core/pool/chassis';
import type { ChassisSlot } from '@vatline/contract/chassis';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import type { Fault } from '@vatline/core/result';
import type { SiteReport } from '../estate/driver/sites.ts';
import type { Parts } from '../platform/parts.ts';
import type { ChosenPlace } from './choices.ts';
import { slotsOf } from './slots.ts';

export interface MachinesChosen {
  /** In the order in which they were chosen, which is that of the hosts' names. */
  readonly machines: readonly ChassisSlot[];
  readonly places: readonly ChosenPlace[];
}

/** They are there already and take no room of their site: of what it has they need addresses only. */
const noSize = { name: AS_FOUND, processors: 0, memoryBytes: 0, graphics: 0, pricePerHour: 0 };

export async function machinesChosen(
  parts: Parts,
  draft: PoolDraft,
  sites: readonly SiteReport[],
  faults: Fault[],
): Promise<MachinesChosen> {
  const { chassis = '', slots = [], clone, places: [place] = [] } = draft;
  const at = (path: string, message: string) => void faults.push({ path, message });
  const none = { machines: [], places: [] };
  const report = (await parts.estate.chassis.all()).find((one) => one.name === chassis);
  if (!report) {
    at('chassis', `there is no chassis ${chassis}`);
    return none;
  }
  if (clone !== undefined && clone !== 'network')
    at('clone', 'machines of a chassis have no system disk; they stream their image');
  if (draft.size && draft.size !== AS_FOUND)
    at('size', `machines of a chassis are as they were found; their size is called ${AS_FOUND}`);
  const site = sites.find((one) => one.name === report.site);
  if (place?.site && place.site !== report.site)
    at('places.0.site', `${report.name} stands on ${report.site}`);
  const known = await slotsOf(parts, report.name);
  faults.push(...slotFaults(report.name, slots, draft.count, known));
  const machines = slots.flatMap((slot) => known.find((one) => one.slot === slot) ?? []);
  const network = site?.networks.find((one) => one.name === place?.network);
  if (place?.network && !network) at('places.0.network', `${report.site} has no network ${place.network}`);
  if (!site || !network) return { machines, places: [] };
  const chosen = {
    site: site.name,
    network: network.name,
    datastore: LOCAL_DISK,
    parentDatastore: null,
    dataDatastore: null,
    atMost: place?.atMost ?? null,
  };
  return { machines, places: [{ site, size: noSize, place: chosen }] };
}
