/** Everything that first desktops are, filled with sensible values, and when they would be there. */
import { Button } from 'antd';
import { useDeferredValue } from 'react';
import type { z } from 'zod';
import type { FirstDraft, FirstPreview, firstProposalSchema } from '@vatline/contract/first-desktops';
import { firstDesktopsApi } from '../api/first-desktops.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { Finding } from '../parts/finding.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { minutes, nearDay, plural, size, time } from '../parts/format.ts';
import { How } from '../parts/how.tsx';
import { FitPanel } from '../pools/new/fit-panel.tsx';
import { useEstateTime } from '../shell/clock.ts';
import { ImageFields, PeopleFields, PoolFields, PlaceFields, fieldsOfBench } from './first-fields.tsx';

interface Props {
  readonly proposal: z.infer<typeof firstProposalSchema>;
  readonly draft: FirstDraft;
  change(draft: FirstDraft): void;
  begun(jobId: string): void;
}

export function FirstBench({ proposal, draft, change, begun }: Props) {
  const asked = useDeferredValue(draft);
  const { data, error } = firstDesktopsApi.useFirstPreviewQuery({ body: asked });
  const [begin, beginning] = firstDesktopsApi.useBeginFirstMutation();
  const refused = problemOf(beginning.error);
  const unread = problemOf(error);
  // What was worked out last says nothing of what cannot be read.
  const preview = unread ? undefined : data;
  const fault = (path: string) =>
    preview?.faults.find((one) => one.path === path)?.message ??
    faultAt(refused, path) ??
    faultAt(unread, path);
  const form = { draft, set: (part: Partial<FirstDraft>) => change({ ...draft, ...part }), fault };
  const others = preview?.faults.filter((one) => !fieldsOfBench.includes(one.path)) ?? [];
  const press = async () => {
    const result = await begin({ body: draft });
    if (result.data) begun(result.data.jobId);
  };
  return (
    <div className="bench-columns side-by-side first-desktops">
      <section className="work" aria-label="First desktops">
        <Headline draft={draft} preview={preview} />
        <p className="under-answer">
          From nothing: an image is built and cut, hosts are made of it, and people may use them. It is filled
          with sensible values; change whatever you like, now or afterwards.
        </p>
        <h2 className="section-title">For whom</h2>
        <PeopleFields form={form} groups={proposal.groups} />
        <h2 className="section-title">The image</h2>
        <ImageFields form={form} media={proposal.media} />
        <h2 className="section-title">The desktops</h2>
        <PoolFields form={form} />
        <PlaceFields form={form} />
        {others.map((one) => (
          <p key={one.path} className="field-fault" role="alert">
            {one.message}
          </p>
        ))}
        <ProblemNote problem={unread} shown={fieldsOfBench} />
        <ProblemNote problem={refused} shown={fieldsOfBench} />
        <div className="row make-row">
          <Button
            type="primary"
            size="large"
            loading={beginning.isLoading}
            disabled={!preview || preview.faults.length > 0}
            onClick={() => void press()}
          >
            Make {plural(draft.count, 'desktop')}
          </Button>
        </div>
      </section>
      <aside className="evidence" aria-label="What it will come to">
        {preview && (
          <>
            <Course preview={preview} draft={draft} />
            <FitPanel preview={preview} />
          </>
        )}
      </aside>
    </div>
  );
}

function Headline({ draft, preview }: { draft: FirstDraft; preview: FirstPreview | undefined }) {
  const { now, zone } = useEstateTime();
  if (!preview) return <h1 className="answer">First desktops</h1>;
  if (preview.faults.length > 0)
    return (
      <h1 className="answer">
        {plural(preview.faults.length, 'thing')} stand{preview.faults.length === 1 ? 's' : ''} in the way of
        first desktops.
      </h1>
    );
  const at = (after: number) => {
    const instant = now + after * 60_000;
    return `${nearDay(instant, now, zone)} ${time(instant, zone)}`;
  };
  return (
    <h1 className="answer">
      {plural(draft.count, 'desktop')} for {plural(preview.people, 'person', 'people')}, ready{' '}
      {at(preview.p50Minutes)} (9 in 10: {at(preview.p90Minutes)}).
    </h1>
  );
}

function Course({ preview, draft }: { preview: FirstPreview; draft: FirstDraft }) {
  const { steps, minutes: parts, imageBytes } = preview;
  return (
    <section aria-label="What will be done">
      <h2>What will be done</h2>
      <ol className="course">
        <li>
          <b>Build {draft.line}</b> <span className="quiet">{minutes(parts.build)}</span>
          <ul className="plain-list">
            {steps.map((step, i) => (
              <li key={i} className="spread">
                <span className="cut-off" title={step.detail}>
                  {step.title} <span className="quiet">{step.detail}</span>
                </span>
                <span className="quiet">{minutes(step.minutes)}</span>
              </li>
            ))}
          </ul>
        </li>
        <li>
          <b>Cut its first version</b> <span className="quiet">{minutes(parts.cut)}</span>
        </li>
        <li>
          <b>
            Make {plural(draft.count, 'host')} of {draft.pool}
          </b>{' '}
          <span className="quiet">{minutes(parts.make)}</span>
        </li>
        <li>
          <b>Let {draft.group || 'nobody yet'} use them</b>
        </li>
      </ol>
      <p className="quiet">
        <How
          rows={[
            ['The image', `taken to be ${size(imageBytes)} until it is cut`],
            ['Ready', 'of 1,000 draws of all parts half are there by the first time, 9 in 10 by the second'],
          ]}
        />
      </p>
      {draft.withUpdates ? null : (
        <Finding tone="attention" title="Without updates it has every hole that was closed since its media" />
      )}
    </section>
  );
}
