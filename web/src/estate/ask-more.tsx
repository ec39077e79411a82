/** Asking those who run a site for more than it gives. */
import { Button, Input, InputNumber, Select } from 'antd';
import { useState } from 'react';
import type { Estate } from '@vatline/contract/estate';
import { estateApi } from '../api/estate.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { Field, ProblemNote } from '../parts/field.tsx';

export function AskMore({ estate }: { estate: Estate }) {
  const [site, setSite] = useState<string>('');
  const [cores, setCores] = useState<number | null>(null);
  const [gigabytes, setGigabytes] = useState<number | null>(null);
  const [text, setText] = useState('');
  const [ask, asking] = estateApi.useRequestQuotaMutation();
  const problem = problemOf(asking.error);
  const press = async () => {
    const body = { site, cores: cores ?? 0, memoryBytes: (gigabytes ?? 0) * 1e9, graphics: 0, text };
    const result = await ask({ body });
    if ('error' in result) return;
    setCores(null);
    setGigabytes(null);
    setText('');
  };
  return (
    <section aria-label="More of a site">
      <h2>More of a site</h2>
      <Field label="Site to ask" fault={faultAt(problem, 'site')}>
        <Select
          aria-label="Site to ask"
          placeholder="choose a site"
          value={site || null}
          onChange={(name) => setSite(name ?? '')}
          options={estate.sites.map(({ name }) => ({ value: name, label: name }))}
        />
      </Field>
      <div className="fields">
        <Field label="Cores more" fault={faultAt(problem, 'cores')}>
          <InputNumber min={0} value={cores} onChange={setCores} />
        </Field>
        <Field label="Memory more, GB" fault={faultAt(problem, 'memoryBytes')}>
          <InputNumber min={0} value={gigabytes} onChange={setGigabytes} />
        </Field>
      </div>
      <Field label="What for" fault={faultAt(problem, 'text')}>
        <Input.TextArea rows={2} value={text} onChange={(event) => setText(event.target.value)} />
      </Field>
      <ProblemNote problem={problem} shown={['site', 'cores', 'memoryBytes', 'text']} />
      <Button loading={asking.isLoading} disabled={site === ''} onClick={() => void press()}>
        Ask those who run it
      </Button>
    </section>
  );
}
