/** The applications of the library: about thirty, each there to show something. */
import type { Entry } from '@vatline/core/inventory/entry';
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
  /** Name of a kernel driver that it brings. */
  readonly driver?: string;
  readonly perUser?: boolean;
  /** An application whose programs it uses. */
  readonly needs?: string;
  /** Ending of the files that it opens. */
  readonly opens?: string;
  /** Files it puts where others look for them, and their bytes. */
  readonly besides?: readonly { readonly path: string; readonly bytes: number }[];
  readonly logs?: boolean;
  readonly sideBySide?: boolean;
  readonly unsigned?: boolean;
  readonly picture?: InstallerPlan['picture'];
  /** A protocol that it handles. */
  readonly protocol?: string;
  /** Name of an environment variable that it sets to its folder. */
  readonly environment?: string;
}

const MB = 1_000_000;

export const applications: readonly PlannedApplication[] = [
  app('Brackenote Office', 'Brackenote', ['24.2'], 'in the image', 'nearly everybody uses it', 260, 6 * MB),
  {
    ...app(
      'Tomewick Catalogue',
      'Tomewick',
      ['7.2', '7.3'],
      'container',
      'two versions side by side',
      180,
      3 * MB,
    ),
    sideBySide: true,
  },
  {
    ...app('Cartolune', 'Cartolune Maps', ['12'], 'container', 'needs graphics', 420, 9 * MB),
    environment: 'CARTOLUNE_DATA',
  },
  {
    ...app('Pellam Reader', 'Pellam', ['9.0'], 'container', '', 90, 2 * MB),
    opens: '.pel',
    besides: [{ path: 'Common files/Page/page.dll', bytes: 41_000 }],
  },
  {
    ...app('Zinnet Browser', 'Zinnet', ['139.0'], 'container', 'brings an updater', 460, 5 * MB),
    waiting: '141.0',
    updater: true,
    service: 'ZinnetUpdate',
    protocol: 'zinnet',
  },
  {
    ...app('Dockray Scan', 'Dockray', ['3.4'], 'in the image', 'has a kernel driver', 40, MB),
    driver: 'DockrayScan',
  },
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
  {
    ...app('Corvane Stats', 'Corvane', ['11.2'], 'container', 'needs Quaybolt Runtime', 150, 3 * MB),
    needs: 'Quaybolt Runtime',
    opens: '.cvs',
  },
  app('Quaybolt Runtime', 'Quaybolt', ['5.2'], 'container', 'others depend on it', 110, 2 * MB),
  {
    ...app('Ostrand Forms', 'Ostrand', [], 'not packaged', 'installs for one user only', 30, MB),
    waiting: '3.1',
    perUser: true,
    unsigned: true,
  },
  {
    ...app('Hesperling Labels', 'Hesperling', ['6.2'], 'container', 'writes a file of Pellam Reader', 45, MB),
    besides: [{ path: 'Common files/Page/page.dll', bytes: 38_000 }],
  },
  { ...app('Lanrick Ledger', 'Lanrick', ['4.0'], 'container', '', 85, 2 * MB), logs: true },
  app('Oddenby Post', 'Oddenby', ['3.3'], 'container', '', 55, MB),
  { ...app('Skerrowby Notes', 'Skerrowby', ['1.8'], 'container', '', 35, MB), picture: 'none' },
  {
    ...app('Fennimark Draw', 'Fennimark', ['6.0'], 'container', '', 130, 3 * MB),
    picture: 'cut short',
    opens: '.fdr',
  },
  {
    ...app('Halvane Print', 'Halvane', ['2.2'], 'in the image', 'has a kernel driver', 30, MB),
    driver: 'HalvanePort',
  },
  app('Mossgill Vault', 'Mossgill', ['9.1'], 'container', '', 40, MB),
  app('Brindlecote Rota', 'Brindlecote', ['7.7'], 'container', '', 65, MB),
  app('Umberley Scan', 'Umberley', ['1.4'], 'container', '', 30, MB),
  app('Wexcombe Atlas', 'Wexcombe', ['2.0'], 'container', '', 140, 4 * MB),
  app('Snaithby Timer', 'Snaithby', [], 'not packaged', '', 20, MB),
  app('Glenmorrow Chat', 'Glenmorrow', ['3.1'], 'container', '', 70, 2 * MB),
  app('Tarrowby Clock', 'Tarrowby', ['1.1'], 'container', '', 15, MB / 2),
  app('Pennisk Viewer', 'Pennisk', ['4.4'], 'container', '', 50, MB),
  app('Drumlock Keys', 'Drumlock', ['2.5'], 'in the image', 'needed before sign-in', 20, MB),
  { ...app('Kettlebeck Player', 'Kettlebeck', ['8.0'], 'container', '', 60, 2 * MB), picture: 'small' },
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

/** Of the others nobody has written it down. */
const licences: Readonly<Record<string, string>> = {
  'Brackenote Office': 'Brackenote volume licence, per user on shared machines',
  'Tomewick Catalogue': 'Tomewick county licence',
  Cartolune: 'Cartolune named seats',
  'Dockray Scan': 'comes with the scanners',
  'Zinnet Browser': 'free for any use',
};

/** The installer of one version of an application. */
export function installerOf(application: PlannedApplication, version: string): InstallerPlan {
  const { name, publisher, files, bytes, driver } = application;
  const program = name.split(' ')[0]?.toLowerCase() ?? 'program';
  const folder = programFolder(name, application.perUser);
  const path = `${folder}/${program}.exe`;
  const besides = [
    ...(application.besides ?? []),
    ...(driver ? [{ path: `System/Drivers/${program}.sys`, bytes: 64_000 }] : []),
  ];
  return {
    id: `${program}-${version}`,
    name,
    publisher,
    version,
    files,
    bytes,
    entryPoints: [
      {
        name: shownAs(application, version),
        path,
        ...(application.opens ? { associations: [application.opens] } : {}),
      },
    ],
    settings: settingsOf(application, version, path),
    updater: application.updater ?? false,
    ...(driver ? { afterRestart: { endings: ['.sys'], settings: driverSettings(driver, version) } } : {}),
    ...(application.unsigned ? { unsigned: true } : {}),
    ...(application.picture ? { picture: application.picture } : {}),
    ...(application.perUser ? { perUser: true } : {}),
    ...(application.logs ? { logs: true } : {}),
    ...(besides.length > 0 ? { besides } : {}),
    ...(licences[name] ? { licence: licences[name] } : {}),
  };
}

/** What people see; versions that run side by side are told apart. */
function shownAs({ name, sideBySide }: PlannedApplication, version: string): string {
  return sideBySide ? `${name} ${version}` : name;
}

function settingsOf(application: PlannedApplication, version: string, path: string): Entry[] {
  const { name, publisher, service, needs, opens, perUser, protocol, environment } = application;
  const folder = programFolder(name, perUser);
  const value = (key: string, valueName: string, text: string): Entry => ({
    kind: 'registry',
    key,
    name: valueName,
    type: 'REG_SZ',
    value: text,
  });
  const own = `${perUser ? 'User' : 'Machine'}\\Software\\${publisher}\\${name}`;
  const update = `${folder}/updater/${name.split(' ')[0]?.toLowerCase() ?? ''}-update.exe`;
  return [
    value(own, 'Version', version),
    value(own, 'Folder', folder),
    {
      kind: 'shortcut',
      path: `Users/${perUser ? 'packager' : 'All'}/Desktop/${shownAs(application, version)}`,
      target: path,
    },
    ...(service
      ? [
          {
            kind: 'service',
            name: service,
            start: 'automatic',
            image: application.updater ? update : path,
          } as const,
        ]
      : []),
    ...(application.updater
      ? [{ kind: 'task', name: `${publisher} nightly check`, run: update, schedule: 'daily 03:10' } as const]
      : []),
    { kind: 'application', publisher, name, version, size: application.bytes },
    ...(protocol
      ? [
          value(`Machine\\Software\\Classes\\${protocol}`, 'URL Protocol', ''),
          value(`Machine\\Software\\Classes\\${protocol}\\shell\\open\\command`, '', `"${path}" "%1"`),
        ]
      : []),
    ...(environment ? [value('Machine\\System\\Environment', environment, `${folder}/data`)] : []),
    ...(needs ? [value(own, 'Runtime', `${programFolder(needs)}/runtime.dll`)] : []),
    ...(opens ? [value(`Machine\\Software\\Classes\\${opens}`, '', `${name} file`)] : []),
  ];
}

/** A driver is put in place when the machine restarts, and started with it. */
function driverSettings(driver: string, version: string): Entry[] {
  return [
    { kind: 'driver', name: driver, version },
    { kind: 'service', name: driver, start: 'boot', image: `System/Drivers/${driver}.sys` },
  ];
}
