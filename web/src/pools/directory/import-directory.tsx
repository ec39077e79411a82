/** Takes another directory in as LDIF; what was new, or what is wrong at which line, stands beside the button. */
import { useState } from 'react';
import { directoryFileEndpoints } from '@vatline/contract/directory';
import type { Problem } from '@vatline/contract/endpoint';
import { useSendForm } from '../../api/send-form.ts';
import { FileButton } from '../../parts/file-button.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { percent, plural } from '../../parts/format.ts';

export function ImportDirectory() {
  const send = useSendForm(directoryFileEndpoints.import);
  const [said, setSaid] = useState('');
  const [problem, setProblem] = useState<Problem>();
  const read = async (file: File) => {
    setProblem(undefined);
    const sent = await send({ files: { file }, onProgress: (share) => setSaid(`${percent(share)} sent`) });
    if ('problem' in sent) {
      setSaid('');
      setProblem(sent.problem);
      return;
    }
    const { units, computers, people, groups, others } = sent.answer;
    const passed = others > 0 ? `; ${plural(others, 'record')} of other kinds passed over` : '';
    setSaid(
      `New: ${plural(units, 'unit')}, ${plural(computers, 'computer')}, ${plural(people, 'person', 'people')}, ${plural(groups, 'group')}${passed}.`,
    );
  };
  return (
    <>
      <FileButton accept=".ldif,.ldf,text/plain" onFile={(file) => void read(file)}>
        Take in another directory
      </FileButton>
      {said && <span role="status">{said}</span>}
      <ProblemNote problem={problem} />
    </>
  );
}
