/** The recipe that first desktops begin with: the usual one, with the system that was chosen. */
import type { FirstDraft } from '@vatline/contract/first-desktops';
import { usualRecipe } from '@vatline/core/image/new-step';
import type { Step } from '@vatline/core/image/recipe';
import type { BuildSources } from '@vatline/core/image/sources';
import type { Fault } from '@vatline/core/result';

export function recipeOf(draft: FirstDraft, sources: BuildSources): Step[] {
  const media = sources.media.find((one) => one.system === draft.system);
  return usualRecipe(sources).flatMap((step): Step[] => {
    if (step.kind === 'updates' && !draft.withUpdates) return [];
    if (step.kind === 'guest tools' && !draft.withTools) return [];
    if (step.kind !== 'operating system' || !media) return [step];
    return [{ ...step, system: media.system, edition: draft.edition, mediaDigest: media.digest }];
  });
}

/** What is wrong with the choice of a system. */
export function systemFaults({ system, edition }: FirstDraft, { media }: BuildSources): Fault[] {
  const found = media.find((one) => one.system === system);
  if (!found)
    return [{ path: 'system', message: system ? `there are no media of ${system}` : 'choose a system' }];
  return found.editions.includes(edition)
    ? []
    : [{ path: 'edition', message: `${system} comes as ${found.editions.join(', ')}` }];
}
