/** Name, publisher, version and entry points; then the container is built from exactly this. */
import { Button, Checkbox, Input, Select } from 'antd';
import { useMemo, useState } from 'react';
import { containerFormatSchema, type Capture } from '@vatline/contract/package';
import { fat32Faults } from '@vatline/core/container/fat32/plan';
import type { TreeEntry } from '@vatline/core/container/tree';
import { keptEntries } from '@vatline/core/package/findings';
import type { CaptureComparison } from '@vatline/core/package/noise';
import { formatNames, type ContainerFormat } from '@vatline/core/container/formats';
import { api, faultAt, problemOf } from '../shell/api.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';
import { formatUses } from './container-formats.ts';

const PROGRAM = /\.(exe|bat|cmd|jar|sh)$|(^|\/)[^./]+$/i;

/** The capture's files as what a container would hold. */
function treeEntries(comparison: CaptureComparison): TreeEntry[] {
  return keptEntries(comparison).flatMap((entry): TreeEntry[] =>
    entry.kind === 'file' || entry.kind === 'link' || entry.kind === 'folder'
      ? [
          {
            path: entry.path,
            kind: entry.kind,
            size: entry.kind === 'file' ? entry.size : 0,
            mode: 0,
            modified: 0,
          },
        ]
      : [],
  );
}

export function ManifestForm({ capture, comparison }: { capture: Capture; comparison: CaptureComparison }) {
  const [manifest, setManifest] = useState(capture.proposal);
  const [withoutUpdaters, setWithoutUpdaters] = useState(true);
  const obstacles = useMemo(() => fat32Faults(treeEntries(comparison)), [comparison]);
  const [formats, setFormats] = useState<ContainerFormat[]>(
    obstacles.length > 0 ? ['squashfs', 'oci'] : ['squashfs', 'vhdx', 'oci'],
  );
  const [pack, { error, isLoading }] = api.usePackMutation();
  const problem = problemOf(error);
  const programs = useMemo(
    () =>
      comparison.added
        .flatMap((entry) => (entry.kind === 'file' && PROGRAM.test(entry.path) ? [entry.path] : []))
        .slice(0, 500),
    [comparison],
  );
  const setEntry = (i: number, change: { name?: string; path?: string }) =>
    setManifest({
      ...manifest,
      entryPoints: manifest.entryPoints.map((entry, n) => (n === i ? { ...entry, ...change } : entry)),
    });
  const text = (label: string, field: 'name' | 'publisher' | 'version') => (
    <Field label={label} fault={faultAt(problem, field)}>
      <Input
        value={manifest[field]}
        onChange={(event) => setManifest({ ...manifest, [field]: event.target.value })}
      />
    </Field>
  );
  return (
    <>
      <h2>Manifest</h2>
      {text('Name', 'name')}
      {text('Publisher', 'publisher')}
      {text('Version', 'version')}
      {manifest.entryPoints.map((entry, i) => (
        <div key={i} className="entry-point">
          <Field
            label={`Entry point ${i + 1}`}
            fault={faultAt(problem, `entryPoints.${i}.name`) ?? faultAt(problem, `entryPoints.${i}.path`)}
          >
            <Input
              value={entry.name}
              aria-label={`Name of entry point ${i + 1}`}
              onChange={(event) => setEntry(i, { name: event.target.value })}
            />
            <Select
              showSearch
              aria-label={`Program of entry point ${i + 1}`}
              placeholder="the program it starts"
              value={entry.path || null}
              onChange={(path) => setEntry(i, { path: path ?? '' })}
              options={programs.map((path) => ({ value: path, label: path }))}
            />
          </Field>
        </div>
      ))}
      <Field label="" fault={faultAt(problem, 'entryPoints')}>
        <button
          type="button"
          className="plain-button"
          onClick={() =>
            setManifest({
              ...manifest,
              entryPoints: [...manifest.entryPoints, { name: manifest.name, path: '' }],
            })
          }
        >
          add an entry point
        </button>
      </Field>
      <Checkbox checked={withoutUpdaters} onChange={(event) => setWithoutUpdaters(event.target.checked)}>
        Leave programs of updaters out
      </Checkbox>
      <Field
        label="Containers to build"
        fault={faultAt(problem, 'formats')}
        hint="each is really built, so that their sizes can be compared"
      >
        <Checkbox.Group
          className="formats"
          value={formats}
          onChange={setFormats}
          options={containerFormatSchema.options.map((format) => ({
            value: format,
            label: formatNames[format],
            title: formatUses[format],
            disabled: format.startsWith('vhdx') && obstacles.length > 0,
          }))}
        />
      </Field>
      {obstacles[0] && (
        <p className="quiet">
          No disk: {obstacles[0].path} {obstacles[0].message}
          {obstacles.length > 1 && `, and ${plural(obstacles.length - 1, 'other')}`}.
        </p>
      )}
      <ProblemNote
        problem={problem}
        shown={[
          'formats',
          'name',
          'publisher',
          'version',
          'entryPoints',
          ...manifest.entryPoints.flatMap((_e, i) => [`entryPoints.${i}.name`, `entryPoints.${i}.path`]),
        ]}
      />
      <Button
        type="primary"
        block
        style={{ marginTop: 12 }}
        loading={isLoading || capture.activeJob !== null}
        onClick={() =>
          void pack({ params: { id: capture.id }, body: { ...manifest, withoutUpdaters, formats } })
        }
      >
        Build {plural(formats.length, 'container')}
      </Button>
    </>
  );
}
