/** The applications of the library: about thirty, each there to show something. */
import type { Entry } from '@vatline/core/image/inventory';
import { programFolder, type InstallerPlan } from './payload.ts';

interface PlannedApplication {
  readonly name: string;
  readonly publisher: string;
  /** Versions that are packaged, oldest first; the last may be in the library only. */
  readonly versions: readonly string[];
  readonly waiting?: string;
  readonly delivery: 'container' | 'in the image' | 'not packaged';
  readonly note: string;
  readonly files: number;
  readonly bytes: number;
  readonly updater?: boolean;
  readonly service?: string;
}

const MB = 1_000_000;

export const applications: readonly PlannedApplication[] = [
  app('Brackenote Office', 'Brackenote', ['24.2'], 'in the image', 'nearly everybody uses it', 260, 6 * MB),
  app(
    'Tomewick Catalogue',
    'Tomewick',
    ['7.2', '7.3'],
    'container',
    'two versions side by side',
    180,
    3 * MB,
  ),
  app('Cartolune', 'Cartolune Maps', ['12'], 'container', 'needs graphics', 420, 9 * MB),
  app('Pellam Reader', 'Pellam', ['9.0'], 'container', '', 90, 2 * MB),
  {
    ...app('Zinnet Browser', 'Zinnet', ['139.0'], 'container', 'brings an updater', 460, 5 * MB),
    waiting: '141.0',
    updater: true,
    service: 'ZinnetUpdate',
  },
  app('Dockray Scan', 'Dockray', ['3.4'], 'in the image', 'has a kernel driver', 40, MB),
  {
    ...app('Tillbeck Cash', 'Tillbeck', ['5.1'], 'container', 'has a service', 70, 2 * MB),
    service: 'TillbeckCash',
  },
  app('Quaybolt Terminal', 'Quaybolt', ['8.6'], 'container', '', 60, MB),
  app('Knapsel Archiver', 'Knapsel', ['2.9'], 'container', '', 25, MB),
  {
    ...app('Vexley Voice', 'Vexley', ['5.0'], 'container', 'must be there at sign-in', 80, 2 * MB),
    service: 'VexleyVoice',
  },
  app('Corvane Stats', 'Corvane', ['11.2'], 'container', 'needs Quaybolt Runtime', 150, 3 * MB),
  app('Quaybolt Runtime', 'Quaybolt', ['5.2'], 'container', 'others depend on it', 110, 2 * MB),
  app('Ostrand Forms', 'Ostrand', [], 'not packaged', 'installs for one user only', 30, MB),
  app('Hesperling Labels', 'Hesperling', ['6.2'], 'container', 'writes a file of Pellam Reader', 45, MB),
  app('Lanrick Ledger', 'Lanrick', ['4.0'], 'container', '', 85, 2 * MB),
  app('Oddenby Post', 'Oddenby', ['3.3'], 'container', '', 55, MB),
  app('Skerrowby Notes', 'Skerrowby', ['1.8'], 'container', '', 35, MB),
  app('Fennimark Draw', 'Fennimark', ['6.0'], 'container', '', 130, 3 * MB),
  app('Halvane Print', 'Halvane', ['2.2'], 'in the image', 'has a kernel driver', 30, MB),
  app('Mossgill Vault', 'Mossgill', ['9.1'], 'container', '', 40, MB),
  app('Brindlecote Rota', 'Brindlecote', ['7.7'], 'container', '', 65, MB),
  app('Umberley Scan', 'Umberley', ['1.4'], 'container', '', 30, MB),
  app('Wexcombe Atlas', 'Wexcombe', ['2.0'], 'container', '', 140, 4 * MB),
  app('Snaithby Timer', 'Snaithby', [], 'not packaged', '', 20, MB),
  app('Glenmorrow Chat', 'Glenmorrow', ['3.1'], 'container', '', 70, 2 * MB),
  app('Tarrowby Clock', 'Tarrowby', ['1.1'], 'container', '', 15, MB / 2),
  app('Pennisk Viewer', 'Pennisk', ['4.4'], 'container', '', 50, MB),
  app('Drumlock Keys', 'Drumlock', ['2.5'], 'in the image', 'needed before sign-in', 20, MB),
  app('Kettlebeck Player', 'Kettlebeck', ['8.0'], 'container', '', 60, 2 * MB),
  app('Yarnspell Check', 'Yarnspell', ['5.5'], 'container', '', 30, MB),
];

function app(
  name: string,
  publisher: string,
  versions: string[],
  delivery: PlannedApplication['delivery'],
  note: string,
  files: number,
  bytes: number,
): PlannedApplication {
  return { name, publisher, versions, delivery, note, files, bytes };
}

/** The installer of one version of an application. */
/** Of the others nobody has written it down. */
const licences: Readonly<Record<string, string>> = {
  'Brackenote Office': 'Brackenote volume licence, per user on shared machines',
  'Tomewick Catalogue': 'Tomewick county licence',
  Cartolune: 'Cartolune named seats',
  'Dockray Scan': 'comes with the scanners',
  'Zinnet Browser': 'free for any use',
};

export function installerOf(application: PlannedApplication, version: string): InstallerPlan {
  const { name, publisher, files, bytes } = application;
  const program = name.split(' ')[0]?.toLowerCase() ?? 'program';
  const path = `${programFolder(name)}/${program}.exe`;
  const settings: Entry[] = [
    {
      kind: 'registry',
      key: `Machine\\Software\\${publisher}\\${name}`,
      name: 'Version',
      type: 'REG_SZ',
      value: version,
    },
    {
      kind: 'registry',
      key: `Machine\\Software\\${publisher}\\${name}`,
      name: 'Folder',
      type: 'REG_SZ',
      value: programFolder(name),
    },
    { kind: 'shortcut', path: `Users/All/Desktop/${name}`, target: path },
  ];
  if (application.service)
    settings.push({
      kind: 'service',
      name: application.service,
      start: 'automatic',
      image: application.updater ? `${programFolder(name)}/updater/${program}-update.exe` : path,
    });
  if (application.updater)
    settings.push({
      kind: 'task',
      name: `${publisher} nightly check`,
      run: `${programFolder(name)}/updater/${program}-update.exe`,
      schedule: 'daily 03:10',
    });
  return {
    id: `${program}-${version}`,
    name,
    publisher,
    version,
    files,
    bytes,
    entryPoints: [{ name, path }],
    settings,
    updater: application.updater ?? false,
    ...(licences[name] ? { licence: licences[name] } : {}),
  };
}
