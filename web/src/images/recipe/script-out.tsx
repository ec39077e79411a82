/** The recipe as a script for a real machine, and what such a script must leave to a person. */
import { lazy, Suspense, useMemo } from 'react';
import { Button } from 'antd';
import type { LineDetail } from '@vatline/contract/image';
import { writeScript, type ScriptDialect } from '@vatline/core/image/script-out/write-script';
import { download } from '../../parts/download.ts';
import { plural } from '../../parts/format.ts';
import type { LinePlan } from '../line-plan.ts';

const TextEditor = lazy(() => import('../../parts/text-editor.tsx'));

interface Props {
  readonly line: LineDetail;
  readonly plan: LinePlan;
  readonly dialect: ScriptDialect;
}

export function ScriptOut({ line, plan, dialect }: Props) {
  const title = `Recipe ${plan.isDraft ? `${line.recipeRevision} with changes` : line.recipeRevision} of ${line.name}`;
  const script = useMemo(() => writeScript(title, plan.expanded, dialect), [title, plan.expanded, dialect]);
  return (
    <div className="recipe-text">
      <div>
        <Suspense fallback={<p className="quiet">The editor is loading.</p>}>
          <TextEditor label="Script" language={dialect} height="400px" text={script.text} />
        </Suspense>
        <div className="recipe-foot">
          <Button type="primary" onClick={() => download(script.fileName, script.text, 'text/plain')}>
            Save {script.fileName}
          </Button>
        </div>
      </div>
      <section aria-label="What the script asks a person to do">
        <h3 className="section-title">For a machine that no driver reaches</h3>
        <p>
          The script keeps count, restarts and goes on. It asks a person to do{' '}
          <b>{plural(script.byHand.length, 'step')}</b> by hand:
        </p>
        <ul className="plain-list small">
          {script.byHand.map(({ number, title: what, why }) => (
            <li key={number}>
              {number} {what}: <span className="quiet">{why}</span>
            </li>
          ))}
        </ul>
        <p className="quiet small">
          Afterwards <code>vatline scan</code> takes the inventory there; bring it in under Versions.
        </p>
      </section>
    </div>
  );
}
