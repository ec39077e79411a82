/** Makes a noise rule of a row, and shows at once what else it would take. */
import { Button, Input, Radio } from 'antd';
import { useEffect, useState } from 'react';
import type { Capture } from '@vatline/contract/capture';
import type { DifferenceLeaf } from '@vatline/core/package/difference-tree';
import type { NoiseRule } from '@vatline/core/package/noise';
import { ruleOfRow, type ProposedRule } from '@vatline/core/package/rule-effect';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';
import type { DifferenceCalls } from './use-difference.ts';

interface Props {
  readonly capture: Capture;
  readonly calls: DifferenceCalls;
  readonly leaf: DifferenceLeaf;
}

/** Where rules go that are made of rows. */
const SET = 'House rules';

export function RuleFromRow({ capture, calls, leaf }: Props) {
  const [proposals, setProposals] = useState<readonly ProposedRule[]>();
  const [isOpen, setOpen] = useState(false);
  const drops = leaf.rule === undefined;
  useEffect(() => {
    if (!isOpen) return;
    let current = true;
    void calls.proposals(leaf).then((found) => current && setProposals(found));
    return () => {
      current = false;
    };
  }, [isOpen, calls, leaf]);
  if (proposals) return <RuleForm capture={capture} leaf={leaf} proposals={proposals} />;
  return (
    <Button size="small" loading={isOpen} onClick={() => setOpen(true)}>
      {drops ? 'Drop it by a rule' : 'Keep it by a rule'}
    </Button>
  );
}

function RuleForm({
  capture,
  leaf,
  proposals,
}: Omit<Props, 'calls'> & { readonly proposals: readonly ProposedRule[] }) {
  const [glob, setGlob] = useState(proposals[0]?.glob ?? '');
  const [reason, setReason] = useState('');
  const keeping = useKeepRule(capture);
  const chosen = proposals.find((one) => one.glob === glob);
  // The row itself is one of those it takes.
  const more = (chosen?.taken ?? 1) - 1;
  const others = chosen?.others ?? [];
  return (
    <div className="rule-from-row">
      <Field label={leaf.rule === undefined ? 'What is to be dropped' : 'What is to be kept'}>
        <Radio.Group
          value={glob}
          onChange={(event) => setGlob(event.target.value as string)}
          options={proposals.map((one) => ({
            value: one.glob,
            label: `${one.label}: ${plural(one.taken, 'row')}`,
          }))}
        />
      </Field>
      <p className="quiet">
        {more === 0
          ? 'It takes nothing else in this capture.'
          : `It takes ${plural(more, 'other row')}: ${others.join(', ')}${more > others.length ? ' and more' : ''}.`}
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
          onClick={() => void keeping.keep(ruleOfRow(leaf, glob, reason.trim()))}
        >
          Keep the rule
        </Button>
      </div>
      <ProblemNote problem={problemOf(keeping.error)} />
    </div>
  );
}

/** Puts a rule before all others of the set, and judges the capture by that. */
function useKeepRule(capture: Capture) {
  const { data: sets = [] } = packagesApi.useNoiseRulesQuery({});
  const [keepRules, keeping] = packagesApi.useKeepNoiseRulesMutation();
  const [judge, judging] = packagesApi.useJudgeMutation();
  const newest = sets.find((set) => set.name === SET)?.revisions[0];
  const keep = async (rule: NoiseRule) => {
    const known = new Set(newest?.rules.map((row) => row.id));
    let id = rule.id;
    for (let n = 2; known.has(id); n++) id = `${rule.id} ${n}`;
    const kept = await keepRules({
      params: { name: SET },
      body: {
        rules: [{ ...rule, id }, ...(newest?.rules ?? [])],
        note: `from ${capture.proposal.name} ${capture.proposal.version}`,
        basedOn: newest?.revision ?? 0,
      },
    });
    if ('error' in kept) return;
    await judge({ params: { id: capture.id }, body: { rules: { name: SET, revision: kept.data.revision } } });
  };
  return { keep, isLoading: keeping.isLoading || judging.isLoading, error: keeping.error ?? judging.error };
}
