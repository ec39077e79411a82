/** What is another in one blend than in another: the image, the packages, when they are attached, the settings. */
import type { AttachTiming } from '../../container/manifest.ts';
import { compareVersionText } from '../../version/text.ts';
import { needBetween, type HostNeed } from './need.ts';

export interface BlendImage {
  readonly id: string;
  readonly line: string;
  readonly number: number;
}

export interface BlendPackage {
  /** Of the version. */
  readonly id: string;
  readonly packageId: string;
  readonly name: string;
  readonly version: string;
  readonly timing: AttachTiming;
}

export interface ComparedBlend {
  readonly image: BlendImage;
  readonly packages: readonly BlendPackage[];
  readonly baselineRevisionId: string | null;
}

export const packageChanges = ['added', 'removed', 'newer', 'older'] as const;

export interface PackageChange {
  readonly change: (typeof packageChanges)[number];
  readonly name: string;
  /** Null for one that is added. */
  readonly from: BlendPackage | null;
  /** Null for one that is removed. */
  readonly to: BlendPackage | null;
}

export interface BlendComparison {
  /** Null where both have the same. */
  readonly image: { readonly from: BlendImage; readonly to: BlendImage } | null;
  /** In the order of their names. */
  readonly packages: readonly PackageChange[];
  readonly need: HostNeed;
  /** `Staff 14 to 15, 1 package newer, 1 removed`; what is the same is not said. */
  readonly headline: string;
}

export function compareBlends(from: ComparedBlend, to: ComparedBlend): BlendComparison {
  const image = from.image.id === to.image.id ? null : { from: from.image, to: to.image };
  const packages = comparePackages(from.packages, to.packages);
  const need = needBetween(contentsOf(from), contentsOf(to));
  return {
    image,
    packages,
    need,
    headline: headline(image, packages, need),
  };
}

function contentsOf({ image, packages, baselineRevisionId }: ComparedBlend) {
  return {
    imageVersionId: image.id,
    packageVersionIds: packages.map(({ id }) => id),
    baselineRevisionId,
  };
}

/** Versions that both have are left out; of each package the others are paired as they are numbered. */
function comparePackages(from: readonly BlendPackage[], to: readonly BlendPackage[]): PackageChange[] {
  const onlyIn = (these: readonly BlendPackage[], those: readonly BlendPackage[]) => {
    const there = new Set(those.map(({ id }) => id));
    return these.filter(({ id }) => !there.has(id)).sort((a, b) => compareVersionText(a.version, b.version));
  };
  const gone = onlyIn(from, to);
  const come = onlyIn(to, from);
  const ids = new Set([...gone, ...come].map(({ packageId }) => packageId));
  return [...ids]
    .flatMap((id) =>
      pairs(
        gone.filter((one) => one.packageId === id),
        come.filter((one) => one.packageId === id),
      ),
    )
    .sort((a, b) => a.name.localeCompare(b.name, 'en'));
}

function pairs(gone: readonly BlendPackage[], come: readonly BlendPackage[]): PackageChange[] {
  return Array.from({ length: Math.max(gone.length, come.length) }, (_, i) => {
    const [from = null, to = null] = [gone[i], come[i]];
    const name = (to ?? from)?.name ?? '';
    if (!from) return { change: 'added', name, from, to };
    if (!to) return { change: 'removed', name, from, to };
    const isNewer = compareVersionText(to.version, from.version) >= 0;
    return { change: isNewer ? 'newer' : 'older', name, from, to };
  });
}

function headline(
  image: BlendComparison['image'],
  packages: readonly PackageChange[],
  need: HostNeed,
): string {
  const counts = packageChanges
    .map((change) => ({ change, n: packages.filter((row) => row.change === change).length }))
    .filter(({ n }) => n > 0)
    .map(({ change, n }, i) =>
      i === 0 ? `${n} ${n === 1 ? 'package' : 'packages'} ${change}` : `${n} ${change}`,
    );
  const parts = [...(image ? [imageInWords(image)] : []), ...counts];
  if (parts.length > 0) return parts.join(', ');
  return need === 'settings only' ? 'other settings' : 'exactly the same';
}

function imageInWords({ from, to }: NonNullable<BlendComparison['image']>): string {
  const after = from.line === to.line ? `${to.number}` : `${to.line} ${to.number}`;
  return `${from.line} ${from.number} to ${after}`;
}
