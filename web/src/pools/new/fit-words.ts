import type { FitRowShown } from '@vatline/contract/pool/preview';

/** What people call the things that hosts take. */
export const fitWords: Record<FitRowShown['what'], string> = {
  cores: 'Cores',
  memory: 'Memory',
  addresses: 'Addresses',
  datastore: 'Storage',
  streams: 'Streams',
  licences: 'Activations',
  names: 'Names',
  graphics: 'Graphics',
  operations: 'Operations/s',
};

const oneThing: readonly FitRowShown['what'][] = ['memory', 'datastore'];

/** Such as "cores give out first". */
export function givesOutFirst(what: FitRowShown['what']): string {
  return `${fitWords[what].toLowerCase()} ${oneThing.includes(what) ? 'gives' : 'give'} out first`;
}
