/** Makes a noise rule of a row, and shows at once what else it would take. */
import { Button, Input, Radio } from 'antd';
import { useMemo, useState } from 'react';
import type { Capture } from '@vatline/contract/capture';
import type { DifferenceLeaf } from '@vatline/core/package/difference-tree';
import { entryName, type EntryKind } from '@vatline/core/image/inventory';
import type { CaptureComparison, NoiseRule } from '@vatline/core/package/noise';
import { proposedGlobs, rowsTaken } from '@vatline/core/package/rule-effect';
import { api, problemOf } from '../shell/api.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';

interface Props {
  readonly capture: Capture;
  readonly comparison: CaptureComparison;
  readonly leaf: DifferenceLeaf;
}

/** Where rules go that are made of rows. */
const SET = 'House rules';
const SHOWN = 3;

export function RuleFromRow({ capture, comparison, leaf }: Props) {
  const [isOpen, setOpen] = useState(false);
  const action = leaf.rule === undefined ? 'drop' : 'keep';
  if (!isOpen)
    return (
      <Button size="small" onClick={() => setOpen(true)}>
        {action === 'drop' ? 'Drop it by a rule' : 'Keep it by a rule'}
      </Button>
    );
  return <RuleForm capture={capture} comparison={comparison} leaf={leaf} action={action} />;
}

function RuleForm({ capture, comparison, leaf, action }: Props & { readonly action: NoiseRule['action'] }) {
  const proposals = useMemo(
    () =>
      proposedGlobs(leaf.entry).map((proposal) => {
        const taken = rowsTaken(comparison, ruleOf(leaf, action, proposal.glob, ''));
        return { ...proposal, taken: taken.ok ? taken.value : [] };
      }),
    [comparison, leaf, action],
  );
  const [glob, setGlob] = useState(proposals[0]?.glob ?? '');
  const [reason, setReason] = useState('');
  const keeping = useKeepRule(capture);
  const others = (proposals.find((one) => one.glob === glob)?.taken ?? []).filter(
    (entry) => entry !== leaf.entry,
  );
  return (
    <div className="rule-from-row">
      <Field label={action === 'drop' ? 'What is to be dropped' : 'What is to be kept'}>
        <Radio.Group
          value={glob}
          onChange={(event) => setGlob(event.target.value as string)}
          options={proposals.map((one) => ({
            value: one.glob,
            label: `${one.label}: ${plural(one.taken.length, 'row')}`,
          }))}
        />
      </Field>
      <p className="quiet">
        {others.length === 0
          ? 'It takes nothing else in this capture.'
          : `It takes ${plural(others.length, 'other row')}: ${others.slice(0, SHOWN).map(entryName).join(', ')}${others.length > SHOWN ? ' and more' : ''}.`}
      </p>
      <div className="row">
        <Input
          style={{ width: 320 }}
          aria-label="Reason"
          placeholder="reason, such as made anew by every machine"
          value={reason}
          onChange={(event) => setReason(event.target.value)}
        />
        <Button
          type="primary"
          loading={keeping.isLoading}
          disabled={reason.trim() === ''}
          onClick={() => void keeping.keep(ruleOf(leaf, action, glob, reason.trim()))}
        >
          Keep the rule
        </Button>
      </div>
      <ProblemNote problem={problemOf(keeping.error)} />
    </div>
  );
}

const inFolders: readonly EntryKind[] = ['file', 'folder', 'link'];

/** A service or value of the same name as a file is another thing, so the rule says of what kind it speaks. */
function ruleOf(
  { entry }: DifferenceLeaf,
  action: NoiseRule['action'],
  glob: string,
  reason: string,
): NoiseRule {
  const kinds = inFolders.includes(entry.kind) ? {} : { kinds: [entry.kind] };
  return { id: reason, action, ...kinds, glob, reason };
}

/** Puts a rule before all others of the set, and judges the capture by that. */
function useKeepRule(capture: Capture) {
  const { data: sets = [] } = api.useNoiseRulesQuery({});
  const [keepRules, keeping] = api.useKeepNoiseRulesMutation();
  const [judge, judging] = api.useJudgeMutation();
  const newest = sets.find((set) => set.name === SET)?.revisions[0];
  const keep = async (rule: NoiseRule) => {
    const known = new Set(newest?.rules.map((row) => row.id));
    let id = rule.id;
    for (let n = 2; known.has(id); n++) id = `${rule.id} ${n}`;
    const kept = await keepRules({
      params: { name: SET },
      body: {
        rules: [
          { ...rule, ...(rule.kinds ? { kinds: [...rule.kinds] } : {}), id } as never,
          ...(newest?.rules ?? []),
        ],
        note: `from ${capture.proposal.name} ${capture.proposal.version}`,
        basedOn: newest?.revision ?? 0,
      },
    });
    if ('error' in kept) return;
    await judge({ params: { id: capture.id }, body: { rules: { name: SET, revision: kept.data.revision } } });
  };
  return { keep, isLoading: keeping.isLoading || judging.isLoading, error: keeping.error ?? judging.error };
}
