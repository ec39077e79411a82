/** What there is to build machines from. */
import type { BuildSources } from '@vatline/core/image/sources';

/** What there is to build machines from: media, the update feed, agents. */
export interface Sources {
  current(): Promise<BuildSources>;
}
