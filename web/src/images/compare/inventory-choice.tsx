/** Chooses what to compare: nothing, a version of any line, the build machine, a checkpoint, or a host. */
import { Select } from 'antd';
import type { LineDetail } from '@vatline/contract/image';
import { describeStep } from '@vatline/core/image/describe-step';
import { imagesApi } from '../../api/images.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import type { InventorySource } from './compare-worker.ts';
import type { LinePlan } from '../line-plan.ts';

interface Props {
  readonly label: string;
  readonly value: InventorySource;
  readonly line: LineDetail;
  readonly plan: LinePlan;
  readonly onChange: (source: InventorySource) => void;
}

export function InventoryChoice({ label, value, line, plan, onChange }: Props) {
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const hosts = useHosts(line);
  const others = lines.filter((other) => other.id !== line.id && other.versions.length > 0);
  const versionsOf = (name: string, versions: LineDetail['versions']) => ({
    label: name,
    title: name,
    options: versions.map((version) => ({
      value: `version:${version.id}`,
      search: `${name} ${version.number}`,
      label: <DyeChip name={version.dye} number={version.number} note={version.state} />,
    })),
  });
  const options = [
    {
      label: 'Here',
      title: 'Here',
      options: [
        { value: 'nothing', search: 'nothing', label: 'nothing: an empty machine' },
        ...(line.machine
          ? [{ value: `machine:${line.id}`, search: 'build machine', label: `${line.machine.name} now` }]
          : []),
      ],
    },
    versionsOf(line.name, line.versions),
    { label: 'Checkpoints', title: 'Checkpoints', options: checkpointOptions(line, plan) },
    ...hosts,
    ...others.map((other) => versionsOf(other.name, other.versions)),
  ];
  return (
    <Select<string>
      aria-label={label}
      style={{ width: 236 }}
      showSearch={{ optionFilterProp: 'search' }}
      value={(value || null) as string}
      placeholder="choose"
      options={options.filter((group) => group.options.length > 0)}
      onChange={onChange}
    />
  );
}

function checkpointOptions(line: LineDetail, plan: LinePlan) {
  const stepOf = new Map(plan.build.steps.map((planned) => [planned.key, planned.step]));
  return line.checkpoints.map(({ key, step }) => {
    const own = stepOf.get(key);
    const words = `after step ${step + 1}${own ? ` ${describeStep(own).title}` : ', of an earlier recipe'}`;
    return { value: `checkpoint:${line.id}:${key}`, search: words, label: words };
  });
}

/** Hosts that are made from the line, to look for drift. */
function useHosts(line: LineDetail) {
  const { data: hosts = [] } = imagesApi.useLineHostsQuery({ params: { id: line.id } });
  return [...new Set(hosts.map((host) => host.pool))].map((pool) => ({
    label: `Hosts of ${pool}`,
    title: pool,
    options: hosts
      .filter((host) => host.pool === pool)
      .map((host) => ({ value: `host:${host.id}`, search: `${pool} ${host.name}`, label: host.name })),
  }));
}
