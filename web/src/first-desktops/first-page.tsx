/** First desktops: from nothing to people at work. What is on its way, where something is, else the bench. */
import './first-desktops.css';
import { useEffect } from 'react';
import { useSearchParams } from 'react-router';
import { firstDesktopsApi } from '../api/first-desktops.ts';
import { problemOf } from '../api/problem.ts';
import { ProblemNote } from '../parts/field.tsx';
import { useAppDispatch, useAppSelector } from '../shell/store.ts';
import { FirstBench } from './first-bench.tsx';
import { firstBegun, firstChanged, firstDraftOf } from './first-draft.ts';
import { FirstOnTheWay } from './first-on-the-way.tsx';

export function FirstDesktopsPage() {
  const [search, setSearch] = useSearchParams();
  const dispatch = useAppDispatch();
  const draft = useAppSelector(firstDraftOf);
  const { data: proposal, error } = firstDesktopsApi.useFirstProposalQuery({});
  const job = search.get('job');
  const found = job === null && !search.has('new') ? proposal?.onTheWay : null;
  // In the address, so that it is still shown when it has come to its end.
  useEffect(() => {
    if (found) setSearch({ job: found }, { replace: true });
  }, [found, setSearch]);
  if (job) return <FirstOnTheWay id={job} />;
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!proposal || found) return null;
  return (
    <FirstBench
      proposal={proposal}
      draft={draft ?? proposal.draft}
      change={(changed) => dispatch(firstChanged(changed))}
      begun={(jobId) => {
        dispatch(firstBegun());
        setSearch({ job: jobId });
      }}
    />
  );
}
