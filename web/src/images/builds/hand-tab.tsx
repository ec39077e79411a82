/** Changes by hand: what really differs from the last checkpoint, and the steps that would do it again. */
import { Button, Checkbox, Input } from 'antd';
import { useEffect, useState } from 'react';
import { useNavigate } from 'react-router';
import type { LineDetail } from '@vatline/contract/image';
import { entryName } from '@vatline/core/inventory/entry';
import type { Step } from '@vatline/core/image/recipe';
import { withReproductions, type HandMadeChange } from '@vatline/core/image/steps-from-changes';
import { imagesApi } from '../../api/images.ts';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { moment, plural } from '../../parts/format.ts';
import { AtTheScreen } from './at-the-screen.tsx';
import type { LinePlan } from '../line-plan.ts';
import { silentCommandOf } from '../recipe/installer-name.tsx';
import { useCompareWorker } from '../compare/use-comparison.ts';

interface Props {
  readonly line: LineDetail;
  readonly plan: LinePlan;
}

export default function HandTab({ line, plan }: Props) {
  const [looks, setLooks] = useState(0);
  const found = useHandChanges(line, plan.steps, looks);
  if (!line.machine)
    return <p className="quiet">There is no build machine yet; build one, then it can be changed by hand.</p>;
  return (
    <>
      <Machine line={line} />
      {found.error && (
        <div className="problem" role="alert">
          {found.error}
        </div>
      )}
      {found.changes && <Found key={looks} changes={found.changes} line={line} plan={plan} />}
      <div className="hand-columns">
        <Notes line={line} />
        {line.machine.power === 'on' && <AtTheScreen line={line} onDone={() => setLooks(looks + 1)} />}
      </div>
    </>
  );
}

function Machine({ line }: { readonly line: LineDetail }) {
  const [machine, { error }] = imagesApi.useMachineMutation();
  const { machine: built, activeJob } = line;
  if (!built) return null;
  const act = (action: 'run' | 'shut down') => void machine({ params: { id: line.id }, body: { action } });
  return (
    <div className="row" style={{ margin: '8px 0' }}>
      <span>
        {built.name} is <b>{built.power === 'on' ? 'running' : 'off'}</b>.
      </span>
      <Button disabled={activeJob !== null} onClick={() => act(built.power === 'on' ? 'shut down' : 'run')}>
        {built.power === 'on' ? 'Shut it down' : 'Run it to change it by hand'}
      </Button>
      <span className="quiet small">
        The next build puts it back to a checkpoint: what is in no step then is gone.
      </span>
      <ProblemNote problem={problemOf(error)} />
    </div>
  );
}

const EVICTED =
  'The last checkpoint has made room for newer ones; build once more to have one to compare with';

/** Looks anew at every change that is made here, and when the machine was built or switched. */
function useHandChanges(line: LineDetail, steps: readonly Step[], looks: number) {
  const calls = useCompareWorker();
  const { data: installers } = packagesApi.useInstallersQuery({});
  const [state, setState] = useState<{ changes?: readonly HandMadeChange[]; error?: string }>({});
  const { id, machine, checkpoints } = line;
  const key = machine?.key ?? undefined;
  const kept = checkpoints.some((checkpoint) => checkpoint.key === key);
  useEffect(() => {
    if (key === undefined || !kept || !installers) return;
    let current = true;
    const known = installers.map((row) => ({ name: row.name, command: silentCommandOf(row.id) }));
    calls()
      .changesByHand(`checkpoint:${id}:${key}`, `machine:${id}`, [...steps], known)
      .then((changes) => current && setState({ changes }))
      .catch((error: unknown) => current && setState({ error: String(error) }));
    return () => {
      current = false;
    };
  }, [calls, id, key, kept, machine?.power, machine?.changedByHand.count, steps, installers, looks]);
  if (key !== undefined && !kept) return { error: EVICTED };
  return state;
}

function Found({ changes, line, plan }: Props & { readonly changes: readonly HandMadeChange[] }) {
  const navigate = useNavigate();
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const chosen = changes.filter((change) => !left.has(change.title));
  const toggle = (title: string) => {
    const next = new Set(left);
    if (!next.delete(title)) next.add(title);
    setLeft(next);
  };
  const take = () => {
    plan.change(
      withReproductions(
        plan.steps,
        chosen.map((change) => change.reproduction),
      ),
    );
    void navigate(`/images/${line.id}`);
  };
  if (changes.length === 0)
    return <h2 className="figure">Nothing differs from the last checkpoint, traces of use left out.</h2>;
  return (
    <section aria-label="Found">
      <h2 className="figure">{plural(changes.length, 'change')} since the last checkpoint.</h2>
      <table className="table">
        <tbody>
          {changes.map((change) => (
            <tr key={change.title}>
              <td style={{ width: 24 }}>
                <Checkbox
                  aria-label={change.title}
                  checked={!left.has(change.title)}
                  onChange={() => toggle(change.title)}
                />
              </td>
              <td>
                {change.title}
                {change.entries.length > 1 && (
                  <span className="quiet small" title={change.entries.map(entryName).join('\n')}>
                    {' '}
                    with {plural(change.entries.length - 1, 'entry', 'entries')}
                  </span>
                )}
              </td>
              <td className="quiet">{inWords(change)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="recipe-foot">
        <Button type="primary" disabled={chosen.length === 0} onClick={take}>
          {chosen.length === 1 ? 'Make a step of it' : `Make steps of these ${chosen.length}`}
        </Button>
        <span className="quiet small">They go into the recipe as changes that are not kept yet.</span>
      </div>
    </section>
  );
}

function inWords({ reproduction }: HandMadeChange): string {
  switch (reproduction.kind) {
    case 'add':
      return `becomes a step: ${reproduction.step.kind}`;
    case 'change':
      return 'its step is changed';
    case 'leave out':
      return 'its step is left out of builds';
    case 'by script':
      return reproduction.advice;
  }
}

function Notes({ line }: { readonly line: LineDetail }) {
  const { zone } = useEstateTime();
  const [text, setText] = useState('');
  const [note, { error, isLoading }] = imagesApi.useNoteByHandMutation();
  const keep = async () => {
    const result = await note({ params: { id: line.id }, body: { text } });
    if (!('error' in result)) setText('');
  };
  return (
    <section aria-label="Notes">
      <h3 className="section-title">What was done, in words</h3>
      <div className="row">
        <Input
          style={{ flex: 1 }}
          aria-label="What was done"
          placeholder="what was done, and why"
          value={text}
          onChange={(event) => setText(event.target.value)}
          onPressEnter={() => void keep()}
        />
        <Button loading={isLoading} disabled={text.trim() === ''} onClick={() => void keep()}>
          Note it
        </Button>
      </div>
      <ProblemNote problem={problemOf(error)} />
      <ul className="plain-list small">
        {line.handNotes.map((row) => (
          <li key={`${row.at} ${row.text}`}>
            {row.text} <span className="quiet">{moment(row.at, zone)}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}
