/** What goes through the rings: an image version, package versions, or both. */
import { Select } from 'antd';
import { canBeRolledOut } from '@vatline/core/image/version-state';
import type { RolloutContents } from '@vatline/contract/rings/ring';
import { imagesApi } from '../../api/images.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { Field } from '../../parts/field.tsx';
import { useAllPackages } from '../../parts/all-packages.ts';

/** Faults at these paths stand beside their fields. */
export const contentsPaths = ['contents.imageVersionId', 'contents.packageVersionIds'];

interface Props {
  readonly contents: RolloutContents;
  /** Of the pools that the rings are of. */
  readonly lineIds: readonly string[];
  readonly onChange: (contents: RolloutContents) => void;
  readonly fault: (path: string) => string | undefined;
}

const KEEP = 'keep';

export function ContentsFields({ contents, lineIds, onChange, fault }: Props) {
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  const packages = useAllPackages() ?? [];
  const own = lines.filter((line) => lineIds.includes(line.id));
  const { imageVersionId, packageVersionIds } = contents;
  const packageFault = packageVersionIds
    .map((_id, i) => fault(`contents.packageVersionIds.${i}`))
    .find(Boolean);
  return (
    <div className="ring-tools">
      <Field label="Image version" fault={fault('contents.imageVersionId')}>
        <Select
          style={{ width: 250 }}
          aria-label="Image version"
          value={imageVersionId ?? KEEP}
          onChange={(id) => onChange({ ...contents, imageVersionId: id === KEEP ? null : id })}
          options={[
            { value: KEEP, label: 'each pool keeps its own' },
            ...own.flatMap((line) =>
              line.versions
                .filter((version) => canBeRolledOut(version.state))
                .map(({ id, dye, number, state }) => ({
                  value: id,
                  label: <DyeChip name={dye} number={number} note={`${line.name}, ${state}`} />,
                })),
            ),
          ]}
        />
      </Field>
      <Field
        label="Package versions to put in"
        fault={packageFault ?? fault('contents.packageVersionIds')}
        hint="where a pool has another version attached, this one takes its place"
      >
        <Select
          mode="multiple"
          style={{ width: 300 }}
          aria-label="Package versions to put in"
          optionFilterProp="label"
          maxTagCount="responsive"
          placeholder="none: packages stay as they are"
          value={packageVersionIds}
          onChange={(ids) => onChange({ ...contents, packageVersionIds: ids })}
          options={packages.flatMap((row) =>
            row.versions
              .filter((version) => version.state === 'live' || packageVersionIds.includes(version.id))
              .map((version) => ({ value: version.id, label: `${version.name} ${version.version}` })),
          )}
        />
      </Field>
    </div>
  );
}
