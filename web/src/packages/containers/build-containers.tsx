/** Which containers to build: how large each will be and how long it takes, before anything is built. */
import { Button, Checkbox } from 'antd';
import { useState } from 'react';
import type { z } from 'zod';
import type { Capture, captureEndpoints } from '@vatline/contract/capture';
import type { Loss } from '@vatline/core/container/losses';
import { formatNames, type ContainerFormat } from '@vatline/core/container/formats';
import { packagesApi } from '../../api/packages.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { How } from '../../parts/how.tsx';
import { count, plural, size } from '../../parts/format.ts';
import { formatUses } from './container-formats.ts';
import type { Draft } from '../manifest/use-draft.ts';

interface Props {
  readonly capture: Capture;
  readonly draft: Draft;
  readonly building: ReturnType<typeof packagesApi.usePackMutation>;
}

export function BuildContainers({ capture, draft, building: [pack, { error, isLoading }] }: Props) {
  const { data } = packagesApi.useEstimateQuery({
    params: { id: capture.id },
    query: { updatersOff: draft.updatersOff ? 'true' : 'false' },
  });
  const [chosen, setChosen] = useState<readonly ContainerFormat[]>(['squashfs', 'vhdx', 'oci']);
  const holding = new Set(data?.containers.filter(({ bytes }) => bytes !== null).map(({ format }) => format));
  const possible = chosen.filter((format) => holding.has(format));
  const problem = problemOf(error);
  const guesses = Object.keys(draft.guesses);
  const build = () => {
    draft.confirm(...guesses);
    void pack({
      params: { id: capture.id },
      body: {
        ...draft.manifest,
        updatersOff: draft.updatersOff,
        formats: possible,
      },
    });
  };
  return (
    <>
      <Sizes containers={data?.containers ?? []} chosen={chosen} onChosen={setChosen} />
      {data?.obstacles[0] && (
        <p className="attention">
          No disk: {data.obstacles[0].path} {data.obstacles[0].message}
          {data.obstacles.length > 1 && `, and ${plural(data.obstacles.length - 1, 'other')}`}.
        </p>
      )}
      {lossLines(data?.containers.filter(({ format }) => possible.includes(format)) ?? []).map((line) => (
        <p key={line} className="attention">
          {line}.
        </p>
      ))}
      {data && <WhatIsIn estimate={data} />}
      {faultAt(problem, 'formats') && <p className="trouble">{faultAt(problem, 'formats')}</p>}
      <ProblemNote problem={problem} shown={shownFaults(draft)} />
      <div className="row">
        <Button
          type="primary"
          loading={isLoading || capture.activeJob !== null}
          disabled={possible.length === 0}
          onClick={build}
        >
          Build {plural(possible.length, 'container')}
        </Button>
        {guesses.length > 0 && (
          <span className="quiet">
            and confirm {count(guesses.length)} {guesses.length === 1 ? 'guess' : 'guesses'}
          </span>
        )}
      </div>
    </>
  );
}

type Estimate = z.output<typeof captureEndpoints.estimate.response>;

interface SizesProps {
  readonly containers: Estimate['containers'];
  readonly chosen: readonly ContainerFormat[];
  readonly onChosen: (formats: readonly ContainerFormat[]) => void;
}

function Sizes({ containers, chosen, onChosen }: SizesProps) {
  const largest = Math.max(1, ...containers.map((one) => one.bytes ?? 0));
  return (
    <table className="table container-sizes">
      <thead>
        <tr>
          <th colSpan={2}>Container</th>
          <th className="number">About</th>
          <th className="number">Takes</th>
        </tr>
      </thead>
      <tbody>
        {containers.map(({ format, bytes, seconds }) => (
          <tr key={format}>
            <td title={formatUses[format]}>
              <Checkbox
                checked={chosen.includes(format) && bytes !== null}
                disabled={bytes === null}
                onChange={(event) =>
                  onChosen(
                    event.target.checked ? [...chosen, format] : chosen.filter((one) => one !== format),
                  )
                }
              >
                {formatNames[format]}
              </Checkbox>
            </td>
            <td className="size-cell">
              {bytes !== null && (
                <span className="size-bar" style={{ width: `${(100 * bytes) / largest}%` }} aria-hidden />
              )}
            </td>
            <td className="number">{bytes === null ? 'cannot hold it' : size(bytes)}</td>
            <td className="number">{seconds === null ? 'not known yet' : `${seconds.toFixed(1)} s`}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function WhatIsIn({ estimate }: { estimate: Estimate }) {
  return (
    <p className="quiet">
      {size(estimate.bytes)} in {plural(estimate.files, 'file')}; hosts set{' '}
      {plural(estimate.settings, 'value')} when they attach it.{' '}
      <How
        rows={[
          [
            'Compressed',
            'twelve files of each ending are really compressed, 128 kB of each; the rest is taken to be like them',
          ],
          ['Equal files', 'stored once in a compressed container, each time in a layer and on a disk'],
          ['Disk', 'follows from its plan: clusters of the size that wastes least, in blocks of 1 MiB'],
          ['Takes', 'seconds for a byte, over all containers of this format that were built here'],
        ]}
      />
    </p>
  );
}

interface Lossy {
  readonly format: ContainerFormat;
  readonly lost: readonly (Omit<Loss, 'kind'> & { readonly kind: string })[];
}

/** What the formats do not keep, once where both kinds of disk say the same. */
function lossLines(containers: readonly Lossy[]): string[] {
  const formatsOf = new Map<string, string[]>();
  for (const { format, lost } of containers)
    for (const { kind, becomes, entries, paths } of lost) {
      const text = `${kind} of ${plural(entries, 'path')}, such as ${paths[0] ?? ''}: ${becomes}`;
      formatsOf.set(text, [...(formatsOf.get(text) ?? []), formatNames[format]]);
    }
  return [...formatsOf].map(([text, formats]) => `Not kept in “${formats.join('” and “')}”: ${text}`);
}

/** Faults that stand at their fields. */
function shownFaults({ manifest }: Draft): string[] {
  const entry = manifest.entryPoints.flatMap((one, i) => [
    ...['name', 'path', 'arguments', 'icon'].map((field) => `entryPoints.${i}.${field}`),
    ...(one.associations ?? []).map((_ending, n) => `entryPoints.${i}.associations.${n}`),
    ...(one.protocols ?? []).map((_protocol, n) => `entryPoints.${i}.protocols.${n}`),
  ]);
  const rows = (part: string, fields: readonly string[], list: readonly unknown[] = []) =>
    list.flatMap((_row, i) => fields.map((field) => `${part}.${i}.${field}`));
  return [
    'formats',
    'name',
    'publisher',
    'version',
    'description',
    'licence',
    'notes',
    'entryPoints',
    ...entry,
    ...rows('dependencies', ['name', 'range'], manifest.dependencies),
    ...rows('environment', ['name', 'value'], manifest.environment),
  ];
}
