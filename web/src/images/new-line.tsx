import { Button, Input } from 'antd';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { leanHardware } from '@vatline/core/image/hardware';
import { imagesApi } from '../api/images.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { Field, ProblemNote } from '../parts/field.tsx';
import { HardwareFields } from './hardware/hardware-fields.tsx';

/** Begins an image line: a name and lean hardware; the recipe comes next. */
export function NewLine() {
  const navigate = useNavigate();
  const [search] = useSearchParams();
  const from = useOrigin(search.get('from'));
  const [name, setName] = useState('');
  const [purpose, setPurpose] = useState('');
  const [hardware, setHardware] = useState(leanHardware);
  const [create, { error, isLoading }] = imagesApi.useCreateLineMutation();
  const problem = problemOf(error);
  const begin = async () => {
    const fromVersion = from?.version.id;
    const result = await create({
      body: { name, purpose, hardware, ...(fromVersion ? { fromVersion } : {}) },
    });
    if (result.data) void navigate(`/images/${result.data.id}`);
  };
  return (
    <section className="work" aria-label="New image line" style={{ maxWidth: 620 }}>
      <h1 className="answer">Begin an image line</h1>
      {from ? (
        <p className="under-answer">
          It begins with the recipe and hardware of {from.line}{' '}
          <DyeChip name={from.version.dye} number={from.version.number} /> and goes its own way from there.
        </p>
      ) : (
        <p className="under-answer">
          One golden image through time: its recipe, its build machine and its versions. Hardware lean; it can
          be changed later.
        </p>
      )}
      <div className="fields">
        <Field label="Name" fault={faultAt(problem, 'name')}>
          <Input
            value={name}
            onChange={(event) => setName(event.target.value)}
            placeholder="such as Records desktop"
          />
        </Field>
        <Field label="For">
          <Input value={purpose} onChange={(event) => setPurpose(event.target.value)} />
        </Field>
      </div>
      {!from && <HardwareFields value={hardware} onChange={setHardware} />}
      <ProblemNote problem={problem} shown={['name']} />
      <Button type="primary" loading={isLoading} onClick={() => void begin()}>
        Begin the line
      </Button>
    </section>
  );
}

/** The version a line is to be started from, with the name of its line. */
function useOrigin(versionId: string | null) {
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  for (const line of lines) {
    const version = line.versions.find((row) => row.id === versionId);
    if (version) return { line: line.name, version };
  }
  return undefined;
}
