/** A pool of machines of a chassis, as its bench begins. */
import type { ChassisShown } from '@vatline/contract/chassis';
import type { Site } from '@vatline/contract/estate';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import type { StreamingStore } from '@vatline/contract/pool/streaming';
import { AS_FOUND, LOCAL_DISK } from '@vatline/core/pool/chassis';
import { beginning } from '../new/pool-draft.ts';

interface Machines {
  readonly chassis: Pick<ChassisShown, 'name' | 'site'>;
  readonly slots: readonly number[];
  readonly site: Site | undefined;
  readonly store: StreamingStore | undefined;
}

export function draftOfMachines({ chassis, slots, site, store }: Machines): PoolDraft {
  return {
    ...beginning,
    clone: 'network',
    chassis: chassis.name,
    slots: [...slots],
    count: slots.length,
    size: AS_FOUND,
    store: store?.name ?? null,
    // A machine at a desk is for who sits there.
    sessionLimit: 1,
    places: [
      {
        site: chassis.site,
        datastore: LOCAL_DISK,
        ...(site?.networks[0] ? { network: site.networks[0].name } : {}),
      },
    ],
  };
}
