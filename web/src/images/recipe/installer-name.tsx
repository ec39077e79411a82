/** The name of an application: a name that the estate has an installer of fills in the rest. */
import { Input } from 'antd';
import { packagesApi } from '../../api/packages.ts';

export interface Installed {
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  readonly command: string;
}

/** The command that installs it without a click, as this estate's installers are named. */
export function silentCommandOf(installerId: string): string {
  return `setup-${installerId.split('-')[0]}.exe /quiet /norestart`;
}

interface Props {
  readonly value: string;
  readonly onName: (name: string) => void;
  readonly onInstaller: (installed: Installed) => void;
}

export function InstallerName({ value, onName, onInstaller }: Props) {
  const { data: installers = [] } = packagesApi.useInstallersQuery({});
  const choose = (name: string) => {
    const found = installers.filter((row) => row.name === name).at(-1);
    if (!found) return onName(name);
    const { publisher, version, id } = found;
    onInstaller({ name, publisher, version, command: silentCommandOf(id) });
  };
  return (
    <>
      <Input list="known-installers" value={value} onChange={(event) => choose(event.target.value)} />
      <datalist id="known-installers">
        {[...new Set(installers.map((row) => row.name))].map((name) => (
          <option key={name} value={name} />
        ))}
      </datalist>
    </>
  );
}
