/** How far a capture is on its way to hosts; each stage that is reached can be looked at. */
import { Link } from 'react-router';
import type { Capture } from '@vatline/contract/capture';
import type { PackageVersion } from '@vatline/contract/package';

export const captureViews = ['capture', 'difference', 'manifest', 'container'] as const;
export type CaptureView = (typeof captureViews)[number];

/** Each stage, and the view that shows it. */
const stages: readonly (readonly [string, CaptureView])[] = [
  ['Capture', 'capture'],
  ['Difference', 'difference'],
  ['Manifest', 'manifest'],
  ['Container', 'container'],
  ['Trust', 'container'],
  ['Live', 'container'],
];

/** How many stages lie behind a version in each state. */
const behind: Record<PackageVersion['state'], number> = {
  draft: 4,
  verified: 5,
  live: 6,
  held: 6,
  withdrawn: 6,
};

interface Props {
  readonly capture: Capture;
  readonly version: PackageVersion | undefined;
  readonly view: CaptureView;
}

export function CaptureStages({ capture, version, view }: Props) {
  const reached =
    version && capture.state === 'packaged'
      ? behind[version.state]
      : { capturing: 0, failed: 0, ready: 2, packaged: 3 }[capture.state];
  return (
    <ol className="stages" aria-label="How far it is">
      {stages.map(([stage, of], i) => {
        const canBeSeen = of === 'container' ? version !== undefined : i <= reached && reached > 0;
        const isFirst = stages.findIndex((one) => one[1] === of) === i;
        return (
          <li key={stage} className={i < reached ? 'past' : i === reached ? 'here' : ''}>
            {canBeSeen && isFirst ? (
              <Link
                to={`/packages/capture/${capture.id}/${of}`}
                aria-current={view === of ? 'page' : undefined}
              >
                {stage}
              </Link>
            ) : (
              stage
            )}
          </li>
        );
      })}
    </ol>
  );
}
