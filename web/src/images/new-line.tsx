import { Button, Input } from 'antd';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { leanHardware } from '@vatline/core/image/hardware';
import { api, faultAt, problemOf } from '../shell/api.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { HardwareFields } from './hardware-fields.tsx';

/** Begins an image line: a name and lean hardware; the recipe comes next. */
export function NewLine() {
  const navigate = useNavigate();
  const [name, setName] = useState('');
  const [purpose, setPurpose] = useState('');
  const [hardware, setHardware] = useState(leanHardware);
  const [create, { error, isLoading }] = api.useCreateLineMutation();
  const problem = problemOf(error);
  const begin = async () => {
    const result = await create({ body: { name, purpose, hardware } });
    if (result.data) void navigate(`/images/${result.data.id}`);
  };
  return (
    <section className="work" aria-label="New image line" style={{ maxWidth: 620 }}>
      <h1 className="answer">Begin an image line</h1>
      <p className="under-answer">
        One golden image through time: its recipe, its build machine and its versions. Hardware lean; it can
        be changed later.
      </p>
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
      <HardwareFields value={hardware} onChange={setHardware} />
      <ProblemNote problem={problem} shown={['name']} />
      <Button type="primary" loading={isLoading} onClick={() => void begin()}>
        Begin the line
      </Button>
    </section>
  );
}
