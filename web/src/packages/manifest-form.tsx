/** Name, publisher, version and entry points; then the container is built from exactly this. */
import { Button, Checkbox, Input, Select } from 'antd';
import { useMemo, useState } from 'react';
import type { Capture } from '@vatline/contract/package';
import type { CaptureComparison } from '@vatline/core/package/noise';
import { api, faultAt, problemOf } from '../shell/api.ts';
import { Field, ProblemNote } from '../parts/field.tsx';

const PROGRAM = /\.(exe|bat|cmd|jar|sh)$|(^|\/)[^./]+$/i;

export function ManifestForm({ capture, comparison }: { capture: Capture; comparison: CaptureComparison }) {
  const [manifest, setManifest] = useState(capture.proposal);
  const [withoutUpdaters, setWithoutUpdaters] = useState(true);
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
      <ProblemNote
        problem={problem}
        shown={[
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
        onClick={() => void pack({ params: { id: capture.id }, body: { ...manifest, withoutUpdaters } })}
      >
        Build the container
      </Button>
    </>
  );
}
