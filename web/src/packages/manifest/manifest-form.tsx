/** What the package says of itself; then its containers are built from exactly this. */
import { Checkbox, Input, Select } from 'antd';
import { useEffect, useState, type ReactNode } from 'react';
import type { Capture } from '@vatline/contract/capture';
import type { Problem } from '@vatline/contract/endpoint';
import {
  attachTimings,
  failurePolicies,
  usualAttach,
  type AttachDefaults,
  type FailurePolicy,
} from '@vatline/core/container/manifest';
import { packagesApi } from '../../api/packages.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { Field } from '../../parts/field.tsx';
import { BuildContainers } from '../containers/build-containers.tsx';
import { EntryPointFields } from './entry-point-fields.tsx';
import { GuessedField } from './guessed-field.tsx';
import { Dependencies, Environment } from './manifest-lists.tsx';
import type { DifferenceCalls } from '../capture/use-difference.ts';
import type { Draft } from './use-draft.ts';

const MOST_PROGRAMS = 500;

const policies: Record<FailurePolicy, string> = {
  'go on without': 'people work without it',
  'refuse the sign-in': 'the sign-in is refused',
  'take the host out': 'the host takes nobody until it is mended',
};

interface Props {
  readonly capture: Capture;
  readonly calls: DifferenceCalls;
  readonly draft: Draft;
  readonly pictures: Readonly<Record<string, { readonly fault: string }>>;
}

/** Files of the capture that an entry point may start. */
function usePrograms(calls: DifferenceCalls): readonly string[] {
  const [programs, setPrograms] = useState<readonly string[]>([]);
  useEffect(() => {
    let current = true;
    void calls.programs(MOST_PROGRAMS).then((found) => current && setPrograms(found));
    return () => {
      current = false;
    };
  }, [calls]);
  return programs;
}

export function ManifestForm({ capture, calls, draft, pictures }: Props) {
  const building = packagesApi.usePackMutation();
  const problem = problemOf(building[1].error);
  return (
    <div className="manifest">
      <Part title="The package">
        <OfThePackage draft={draft} problem={problem} />
      </Part>
      <Part title="What people open">
        <EntryPoints capture={capture} calls={calls} draft={draft} pictures={pictures} problem={problem} />
      </Part>
      <div className="fields">
        <Part title="What it needs">
          <Dependencies draft={draft} problem={problem} />
        </Part>
        <Part title="Environment variables">
          <Environment draft={draft} problem={problem} />
        </Part>
      </div>
      <Part title="On the host">
        <OnTheHost draft={draft} />
      </Part>
      <Part title="Containers">
        <BuildContainers capture={capture} draft={draft} building={building} />
      </Part>
    </div>
  );
}

function Part({ title, children }: { readonly title: string; readonly children: ReactNode }) {
  return (
    <section aria-label={title}>
      <h2 className="section-title">{title}</h2>
      {children}
    </section>
  );
}

interface PartProps {
  readonly draft: Draft;
  readonly problem: Problem | undefined;
}

function OfThePackage({ draft, problem }: PartProps) {
  const { manifest } = draft;
  const text = (label: string, field: 'name' | 'publisher' | 'version' | 'licence' | 'description') => {
    // What need not be said is left out where it is empty.
    const empty = field === 'licence' || field === 'description' ? undefined : '';
    return (
      <GuessedField
        draft={draft}
        path={field}
        label={label}
        fault={faultAt(problem, field)}
        wide={field === 'description'}
      >
        <Input
          value={manifest[field] ?? ''}
          onChange={(event) => draft.change({ [field]: event.target.value || empty }, field)}
        />
      </GuessedField>
    );
  };
  return (
    <div className="fields three">
      {text('Name', 'name')}
      {text('Publisher', 'publisher')}
      {text('Version', 'version')}
      {text('Licence', 'licence')}
      {text('Description', 'description')}
    </div>
  );
}

function EntryPoints({ capture, calls, draft, pictures, problem }: Props & PartProps) {
  const { manifest } = draft;
  const programs = usePrograms(calls);
  const add = () =>
    draft.change(
      { entryPoints: [...manifest.entryPoints, { name: manifest.name, path: '' }] },
      'entryPoints',
    );
  return (
    <>
      {manifest.entryPoints.map((_entry, i) => (
        <EntryPointFields
          key={i}
          captureId={capture.id}
          draft={draft}
          number={i}
          programs={programs}
          pictures={pictures}
          problem={problem}
        />
      ))}
      <Field label="" fault={faultAt(problem, 'entryPoints')}>
        <button type="button" className="plain-button" onClick={add}>
          add an entry point
        </button>
      </Field>
    </>
  );
}

function OnTheHost({ draft }: { readonly draft: Draft }) {
  const attach = draft.manifest.attach ?? usualAttach;
  const set = (part: Partial<AttachDefaults>) => draft.change({ attach: { ...attach, ...part } }, 'attach');
  return (
    <>
      <div className="fields three">
        <Field label="Attached">
          <Select
            aria-label="Attached"
            value={attach.timing}
            onChange={(timing) => set({ timing })}
            options={attachTimings.map((value) => ({ value, label: value }))}
          />
        </Field>
        <Field label="If that fails">
          <Select
            aria-label="If that fails"
            value={attach.onFailure}
            onChange={(onFailure) => set({ onFailure })}
            options={failurePolicies.map((value) => ({ value, label: policies[value] }))}
          />
        </Field>
        <Field label="Notes for colleagues">
          <Input
            value={draft.manifest.notes ?? ''}
            onChange={(event) => draft.change({ notes: event.target.value || undefined }, 'notes')}
          />
        </Field>
      </div>
      <Checkbox checked={draft.updatersOff} onChange={(event) => draft.setUpdatersOff(event.target.checked)}>
        Its updater is switched off: programs and tasks left out, the service set to disabled
      </Checkbox>
    </>
  );
}
