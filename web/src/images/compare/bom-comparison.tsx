/** The bills of materials of two versions, or of one version and a file from elsewhere. */
import { useState } from 'react';
import { compareBoms, readBom, type ListedComponent, type ReadBom } from '@vatline/core/image/compare-boms';
import { Button } from 'antd';
import { count, plural } from '../../parts/format.ts';
import { TextFileButton } from '../../parts/text-file-button.tsx';

interface Pair {
  readonly from: string;
  readonly to: string;
}

interface Named {
  readonly name: string;
  readonly bom: ReadBom;
}

/** 50,000 components with their licences and digests take half of it. */
const MOST_BOM_BYTES = 40e6;

export function BomComparison({ from, to }: Pair) {
  const [sides, setSides] = useState<{ readonly before: Named; readonly after: Named }>();
  const [fault, setFault] = useState('');
  const compareWith = async (before: () => Named | Promise<Named>) => {
    try {
      setSides({ before: await before(), after: await bomOfVersion(to) });
      setFault('');
    } catch (error) {
      setFault(error instanceof Error ? error.message : String(error));
    }
  };
  return (
    <section aria-label="Bills of materials">
      <h3 className="section-title">As bills of materials</h3>
      <div className="row">
        <Button onClick={() => void compareWith(() => bomOfVersion(from))}>Compare the two bills</Button>
        <TextFileButton
          accept=".json,.cdx"
          mostBytes={MOST_BOM_BYTES}
          onText={(text, name) => void compareWith(() => named(name, text))}
        >
          Compare with a file
        </TextFileButton>
        <span className="quiet small">CycloneDX JSON, anybody’s; by publisher and name.</span>
      </div>
      {fault && (
        <div className="problem" role="alert">
          {fault}
        </div>
      )}
      {sides && !fault && <Components before={sides.before} after={sides.after} />}
    </section>
  );
}

async function bomOfVersion(id: string): Promise<Named> {
  const response = await fetch(`/api/v1/versions/${id}/bom`);
  if (!response.ok) throw new Error('The server gave no bill of materials');
  return named('the version', await response.text());
}

function named(name: string, text: string): Named {
  const bom = readBom(text);
  if (!bom.ok)
    throw new Error(bom.error.map((fault) => `${name}: ${fault.path} ${fault.message}`).join('; '));
  return { name: bom.value.subject || name, bom: bom.value };
}

function Components({ before, after }: { readonly before: Named; readonly after: Named }) {
  const { added, removed, changed, same } = compareBoms(before.bom, after.bom);
  const row = (sign: string, component: ListedComponent, was: string, is: string) => (
    <tr key={`${sign} ${component.type} ${component.publisher} ${component.name} ${was}`}>
      <td className={sign === '−' ? 'trouble' : 'good'}>{sign}</td>
      <td>
        {component.name} <span className="quiet">{component.publisher}</span>
      </td>
      <td className="quiet">{was}</td>
      <td>{is}</td>
    </tr>
  );
  return (
    <>
      <p style={{ marginTop: 8 }}>
        From {before.name} to {after.name}: <b>{plural(added.length, 'component')}</b> added,{' '}
        <b>{count(changed.length)}</b> changed, <b>{count(removed.length)}</b> removed, {count(same)} the
        same.
      </p>
      <table className="table compare-table">
        <tbody>
          {added.map((c) => row('+', c, '', c.version))}
          {changed.map(({ before: old, after: now, fields }) =>
            row(
              '~',
              now,
              old.version,
              fields.includes('version') ? now.version : `${now.version}, other ${fields.join(' and ')}`,
            ),
          )}
          {removed.map((c) => row('−', c, c.version, ''))}
        </tbody>
      </table>
    </>
  );
}
