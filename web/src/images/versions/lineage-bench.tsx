/** Every line and its versions as a drawing: where each came from, and how many hosts run it. */
import { Link } from 'react-router';
import { layOutLineage, type Lane } from '@vatline/core/image/lineage';
import type { ImageVersion } from '@vatline/contract/image';
import { imagesApi } from '../../api/images.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { day, plural } from '../../parts/format.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';

const COLUMN = 104;
const ROW = 122;
const LEFT = 14;
const TOP = 62;
const SHOWN = 8;

const x = (column: number) => LEFT + column * COLUMN;
const y = (row: number) => TOP + row * ROW;
const hostsOf = (version: ImageVersion) => version.usedBy.reduce((sum, use) => sum + use.hosts, 0);

export function LineageBench() {
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const { lanes, forks, columns } = layOutLineage(lines, SHOWN);
  const versions = lines.flatMap((line) => line.versions);
  const used = versions.filter((version) => hostsOf(version) > 0);
  const hosts = used.reduce((sum, version) => sum + hostsOf(version), 0);
  const width = x(columns) + 10;
  return (
    <section className="work" aria-label="Lineage">
      <h1 className="answer">
        {plural(hosts, 'host')} run {plural(used.length, 'version')} of {plural(lines.length, 'line')}.
      </h1>
      <p className="under-answer">
        Each cloth runs from its oldest version shown to its newest; under a dye stand the hosts that run it,
        or its state. A line that was started from a version hangs from it.
      </p>
      <div className="lineage">
        <div className="lineage-drawing" style={{ width, height: y(lanes.length) - TOP + 20 }}>
          <svg width={width} height={y(lanes.length)} aria-hidden>
            {lanes.map((lane) => (
              <Cloth key={lane.line.id} lane={lane} />
            ))}
            {forks.map(({ from, to }) => (
              <path
                key={`${from.row} ${from.column} ${to.row}`}
                className="fork"
                d={`M ${x(from.column) + 22} ${y(from.row) + 14} C ${x(from.column) + 22} ${y(to.row) - 20}, ${x(to.column) - 40} ${y(to.row)}, ${x(to.column) - 4} ${y(to.row)}`}
              />
            ))}
          </svg>
          {lanes.map((lane) => (
            <LaneOf key={lane.line.id} lane={lane} from={originOf(lane, versions)} />
          ))}
          {forks
            .filter(({ to }) => lanes[to.row]?.versions.length === 0)
            .map(({ to }) => (
              <span
                key={to.row}
                className="lineage-version to-come"
                style={{ top: y(to.row) - 13, left: x(to.column) }}
              >
                no version yet
              </span>
            ))}
        </div>
      </div>
    </section>
  );
}

/** The version a line was started from. */
function originOf({ line }: Lane<ImageVersion>, versions: readonly ImageVersion[]): ImageVersion | undefined {
  return versions.find((version) => version.id === line.forkedFrom);
}

function Cloth({ lane }: { readonly lane: Lane<ImageVersion> }) {
  const [first, last] = [lane.versions[0], lane.versions.at(-1)];
  if (!first || !last) return null;
  return <path className="cloth" d={`M ${x(first.column)} ${y(lane.row)} H ${x(last.column)}`} />;
}

interface LaneProps {
  readonly lane: Lane<ImageVersion>;
  readonly from: ImageVersion | undefined;
}

function LaneOf({ lane, from }: LaneProps) {
  const { zone } = useEstateTime();
  const { line, row, versions } = lane;
  const all = line.versions.length;
  return (
    <>
      <div className="lane-name" style={{ top: y(row) - 52, left: 0 }}>
        <Link to={`/images/${line.id}`}>{line.name}</Link>{' '}
        <span className="quiet small">
          {from && `started from version ${from.number}; `}
          {all === 0
            ? from
              ? 'nothing cut so far'
              : 'no version yet'
            : all > versions.length
              ? `the newest ${versions.length} of ${all} versions`
              : plural(all, 'version')}
        </span>
      </div>
      {versions.map(({ version, column }) => {
        const hosts = hostsOf(version);
        return (
          <Link
            key={version.id}
            className={`lineage-version ${version.state === 'retired' ? 'retired' : ''}`}
            style={{ top: y(row) - 13, left: x(column) }}
            to={`/images/${line.id}/versions`}
            title={`${line.name} ${version.number}, ${version.state}, recipe ${version.recipeRevision || 'none'}, cut ${day(version.cutAt, zone)}\n${version.usedBy.map((use) => `${use.pool} ${use.hosts}`).join('\n') || 'no host runs it'}`}
          >
            <DyeChip name={version.dye} number={version.number} />
            <span className={hosts > 0 ? 'strong small' : 'quiet small'}>
              {hosts > 0 ? plural(hosts, 'host') : version.state}
            </span>
            <span className="quiet small">
              {version.recipeRevision > 0 ? `recipe ${version.recipeRevision}` : 'elsewhere'}
            </span>
          </Link>
        );
      })}
    </>
  );
}
