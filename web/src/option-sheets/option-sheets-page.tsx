/** Option sheets: filling one in beside what it becomes, what differs from another, and the suite's declaration. */
import '../packages/packages.css';
import './option-sheets.css';
import { Link, useParams } from 'react-router';
import type { KeptSuite } from '@vatline/contract/option-sheet';
import { optionSheetsApi } from '../api/option-sheets.ts';
import { problemOf } from '../api/problem.ts';
import { Station } from '../shell/station.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { CapturePackage, usePackageRack } from '../packages/packages-page.tsx';
import { DeclarationBench } from './declaration-bench.tsx';
import { SheetBench } from './sheet-bench.tsx';

/** Names in the address that are no sheets. */
const NEW = 'new sheet';
const DECLARATION = 'declaration';

export function OptionSheetsPage() {
  const { items } = usePackageRack();
  const { suiteId, sheet } = useParams();
  const { data: suites, error } = optionSheetsApi.useOptionSuitesQuery({});
  const kept = suites?.find((one) => one.id === suiteId) ?? (suiteId === 'new' ? undefined : suites?.[0]);
  const open = kept?.sheets.find((one) => one.name === sheet) ?? (sheet ? undefined : kept?.sheets[0]);
  const isDeclaration = !kept || sheet === DECLARATION;
  return (
    <Station items={items} action={<CapturePackage />}>
      <ProblemNote problem={problemOf(error)} />
      {suites &&
        (isDeclaration ? (
          <DeclarationBench key={kept?.id ?? 'new'} kept={kept}>
            {kept && <SheetTabs kept={kept} sheet={DECLARATION} />}
          </DeclarationBench>
        ) : (
          <SheetBench key={`${kept.id} ${open?.name ?? NEW}`} kept={kept} sheet={open}>
            <SheetTabs kept={kept} sheet={open?.name ?? NEW} />
          </SheetBench>
        ))}
    </Station>
  );
}

function SheetTabs({ kept, sheet }: { kept: KeptSuite; sheet: string }) {
  const tab = (name: string, label: string) => (
    <Link
      key={name}
      to={`/packages/options/${kept.id}/${encodeURIComponent(name)}`}
      aria-current={name === sheet ? 'page' : undefined}
    >
      {label}
    </Link>
  );
  return (
    <nav className="tabs" aria-label={`Sheets of ${kept.suite.name}`}>
      {kept.sheets.map((one) =>
        tab(one.name, one.faults.length > 0 ? `${one.name} (${one.faults.length})` : one.name),
      )}
      {tab(NEW, 'New sheet')}
      {tab(DECLARATION, 'Options and templates')}
      <Link to="/packages/options/new">New suite</Link>
    </nav>
  );
}
