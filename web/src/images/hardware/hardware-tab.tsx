import { Button } from 'antd';
import { useState } from 'react';
import { MOST_OVF_BYTES, type LineDetail } from '@vatline/contract/image';
import { readOvf } from '@vatline/core/image/ovf/read-ovf';
import { writeOvf } from '@vatline/core/image/ovf/write-ovf';
import type { Fault } from '@vatline/core/result';
import { ProblemNote } from '../../parts/field.tsx';
import { download } from '../../parts/download.ts';
import { TextFileButton } from '../../parts/text-file-button.tsx';
import { HardwareFields } from './hardware-fields.tsx';
import { KeepRecipe, useKeepRecipe } from '../recipe/keep-recipe.tsx';
import type { LinePlan } from '../line-plan.ts';
import { SizingPanel } from './sizing-panel.tsx';
import { UnreadFile } from '../../parts/unread-file.tsx';

/** Hardware of the build machine. A change makes every checkpoint useless, and says so beforehand. */
export default function HardwareTab({ line, plan }: { line: LineDetail; plan: LinePlan }) {
  const saving = useKeepRecipe(line, plan);
  const [read, setRead] = useState<{ faults: readonly Fault[]; remarks: readonly string[]; name: string }>();
  const take = (text: string, name: string) => {
    const result = readOvf(text);
    if (result.ok) plan.change(plan.steps, result.value.hardware);
    setRead({
      name,
      faults: result.ok ? [] : result.error,
      remarks: result.ok ? result.value.remarks : [],
    });
  };
  return (
    <div className="hardware">
      <section aria-label="Hardware">
        <HardwareFields value={plan.hardware} onChange={(hardware) => plan.change(plan.steps, hardware)} />
        <p className="quiet">Other hardware is another machine: every step runs again after a change here.</p>
        {plan.isDraft && (
          <div className="row" style={{ margin: '8px 0' }}>
            <KeepRecipe line={line} plan={plan} saving={saving} />
          </div>
        )}
        <ProblemNote problem={saving.problem} />
        <div className="row">
          <Button
            onClick={() => download(`${line.name}.ovf`, writeOvf(line.name, plan.hardware), 'text/xml')}
          >
            Write as OVF
          </Button>
          <TextFileButton accept=".ovf,.xml" mostBytes={MOST_OVF_BYTES} onText={take}>
            Read an OVF file
          </TextFileButton>
        </div>
        {read && <UnreadFile name={read.name} faults={read.faults} />}
        {read && read.faults.length === 0 && (
          <div className="notice" role="status">
            {read.name} was read.
            {read.remarks.map((remark) => (
              <div key={remark}>{remark}</div>
            ))}
          </div>
        )}
      </section>
      <SizingPanel line={line} plan={plan} />
    </div>
  );
}
