/** What changed inside a text or a value, word by word or line by line. */
import { diffLines, diffWordsWithSpace, type Change } from 'diff';
import { packagesApi } from '../../api/packages.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';

export function ValueChange({ before, after }: { readonly before: string; readonly after: string }) {
  return <span className="text-change">{diffWordsWithSpace(before, after).map(part)}</span>;
}

/** Of a small text file, whose content before the installation was kept. */
export function TextChange({ captureId, path }: { readonly captureId: string; readonly path: string }) {
  const { data, error } = packagesApi.useCaptureTextQuery({ params: { id: captureId }, query: { path } });
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!data) return null;
  const { before, after } = data;
  if (after === null)
    return <p className="quiet">It is no small text, so only its size and digest are compared.</p>;
  if (before === null)
    return (
      <p className="quiet">
        How it was before is not in this capture; only machines that we lay out keep that.
      </p>
    );
  return <pre className="text-change lines">{diffLines(before, after).map(part)}</pre>;
}

function part({ value, added, removed }: Change, i: number) {
  if (added) return <ins key={i}>{value}</ins>;
  if (removed) return <del key={i}>{value}</del>;
  return <span key={i}>{value}</span>;
}
