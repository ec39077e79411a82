/** Recipes in PowerShell 5.1 and later. */
import { unreachable } from '../../result.ts';
import type { Step } from '../recipe.ts';
import { taskByHand } from './by-hand.ts';
import type { Dialect, FramedStep, Rendered, WritableStep } from './dialect.ts';
import { quotePowershell as q } from './quote.ts';

const preamble = [
  '# TITLE',
  '# Run it as an administrator on a clean machine, again after every restart until it says that it is done.',
  '# What it needs lies in the folder -Files; how far it came stands in the file -State.',
  'param([string] $Files = $PSScriptRoot, [string] $State = "$PSScriptRoot\\build.state")',
  "$ErrorActionPreference = 'Stop'",
  '$script:Done = if (Test-Path -LiteralPath $State) { [int](Get-Content -LiteralPath $State) } else { 0 }',
  '',
  'function Step([int] $Number, [string] $Title, [int] $Retries, [bool] $RestartAfter, [scriptblock] $Do) {',
  '  if ($Number -le $script:Done) { return }',
  '  Write-Host "$Number $Title"',
  '  for ($attempt = 0; ; $attempt++) {',
  '    try { & $Do; break } catch { if ($attempt -ge $Retries) { throw }; Write-Warning "$_; trying again" }',
  '  }',
  '  Set-Content -LiteralPath $State -Value $Number',
  '  if ($RestartAfter) { Write-Host "Restarting; run this script again afterwards."; Restart-Computer -Force; exit }',
  '}',
  'function Run([string] $Command, [int[]] $ExitCodes) {',
  '  $process = Start-Process -FilePath $env:ComSpec -ArgumentList "/c `"$Command`"" -WorkingDirectory $Files -Wait -PassThru -NoNewWindow',
  '  if ($ExitCodes -notcontains $process.ExitCode) { throw "ended with exit $($process.ExitCode): $Command" }',
  '}',
  'function By-Hand([string] $What) {',
  '  $answer = Read-Host "By hand: $What. Type done when it is"',
  "  if ($answer -ne 'done') { throw 'not done' }",
  '}',
  'function Holds([bool] $Condition, [string] $What) { if (-not $Condition) { throw "it ran, but $What does not hold" } }',
];

export const powershell: Dialect = {
  fileName: 'build.ps1',
  preamble,
  render,
  successCheck,
  askForHands: (what) => `By-Hand ${q(what)}`,
  frame,
  ending: [
    'Write-Host "Done. Shut the machine down, and bring its inventory back as a version:"',
    'Write-Host "  vatline scan C:\\ --out inventory.jsonl"',
  ],
};

function frame({ number, title, commands, restartAfter, retries }: FramedStep): string[] {
  return [
    `Step ${number} ${q(title)} ${retries} ${restartAfter ? '$true' : '$false'} {`,
    ...commands.flatMap((command) => command.split('\n')).map((line) => `  ${line}`),
    '}',
  ];
}

/** Registry paths as the shell's drives: `Machine\...` and `User\...` are what recipes write. */
function registryPath(key: string): string {
  const [hive = '', ...rest] = key.split('\\');
  const drives: Record<string, string> = {
    machine: 'HKLM:',
    hklm: 'HKLM:',
    hkey_local_machine: 'HKLM:',
    user: 'HKCU:',
    hkcu: 'HKCU:',
    hkey_current_user: 'HKCU:',
  };
  return [drives[hive.toLowerCase()] ?? `HKLM:\\${hive}`, ...rest].join('\\');
}

const valueTypes = {
  REG_SZ: 'String',
  REG_EXPAND_SZ: 'ExpandString',
  REG_DWORD: 'DWord',
  REG_QWORD: 'QWord',
  REG_MULTI_SZ: 'MultiString',
} as const;

const startTypes = {
  automatic: 'Automatic',
  delayed: 'AutomaticDelayedStart',
  manual: 'Manual',
  disabled: 'Disabled',
} as const;

const stores = {
  'trusted roots': 'Root',
  intermediate: 'CA',
  'trusted publishers': 'TrustedPublisher',
  personal: 'My',
} as const;

/** Windows paths use backslashes; recipes may write either. */
const path = (text: string) => q(text.replaceAll('/', '\\'));
const inFiles = (source: string) => `(Join-Path $Files ${path(source)})`;
const digestHolds = (file: string, digest: string) =>
  `Holds ((Get-FileHash -Algorithm SHA256 -LiteralPath ${file}).Hash -eq ${q(digest)}) 'its digest'`;

function render(step: WritableStep): Rendered {
  switch (step.kind) {
    case 'language pack':
      return { commands: [`Install-Language -Language ${q(step.language)}`] };
    case 'application':
      return { commands: [`Run ${q(step.command)} @(${step.exitCodes.join(', ')})`] };
    case 'file copy': {
      const target = path(step.target);
      return {
        commands: [
          `New-Item -ItemType Directory -Force -Path (Split-Path ${target}) | Out-Null`,
          `Copy-Item -LiteralPath ${inFiles(step.source)} -Destination ${target} -Force`,
          digestHolds(target, step.digest),
        ],
      };
    }
    case 'shortcut': {
      const folder = step.place === 'desktop' ? 'CommonDesktopDirectory' : 'CommonPrograms';
      return {
        commands: [
          `$link = (New-Object -ComObject WScript.Shell).CreateShortcut((Join-Path ([Environment]::GetFolderPath('${folder}')) ${q(`${step.name}.lnk`)}))`,
          `$link.TargetPath = ${path(step.target)}`,
          '$link.Save()',
        ],
      };
    }
    case 'registry setting':
      return { commands: registryCommands(step) };
    case 'service start':
      return {
        commands:
          step.start === 'delayed'
            ? [`Run ${q(`sc.exe config "${step.name.replaceAll('"', '')}" start= delayed-auto`)} @(0)`]
            : [`Set-Service -Name ${q(step.name)} -StartupType ${startTypes[step.start]}`],
      };
    case 'scheduled task':
      return step.action === 'remove'
        ? { commands: [`Unregister-ScheduledTask -TaskName ${q(step.name)} -Confirm:$false`] }
        : { byHand: taskByHand(step) };
    case 'certificate':
      return {
        commands: [
          `$certificate = ${inFiles(`${step.digest}.cer`)}`,
          digestHolds('$certificate', step.digest),
          `Import-Certificate -FilePath $certificate -CertStoreLocation ${q(`Cert:\\LocalMachine\\${stores[step.store]}`)} | Out-Null`,
        ],
      };
    case 'script':
      return scriptCommands(step);
    case 'join directory':
      return { commands: [`Add-Computer -DomainName ${q(domainOf(step.ou))} -OUPath ${q(step.ou)}`] };
    case 'restart':
      return { commands: [] };
    case 'wait for settle':
      return {
        commands: [
          `$until = (Get-Date).AddMinutes(${step.limitMinutes})`,
          'while ((Get-Date) -lt $until -and (Get-Counter -Counter "\\Processor(_Total)\\% Processor Time").CounterSamples[0].CookedValue -gt 10) { Start-Sleep -Seconds 15 }',
        ],
      };
    case 'clean-up':
      return { commands: step.targets.map((target) => cleanUps[target]) };
    default:
      return unreachable(step);
  }
}

function registryCommands(step: Extract<Step, { kind: 'registry setting' }>): string[] {
  const key = q(registryPath(step.key));
  const value =
    step.type === 'REG_MULTI_SZ'
      ? `@(${step.value.split('\n').map(q).join(', ')})`
      : step.type === 'REG_DWORD' || step.type === 'REG_QWORD'
        ? `([uint64] ${q(step.value)})`
        : q(step.value);
  return [
    `if (-not (Test-Path -LiteralPath ${key})) { New-Item -Path ${key} -Force | Out-Null }`,
    `New-ItemProperty -LiteralPath ${key} -Name ${q(step.name || '(default)')} -PropertyType ${valueTypes[step.type]} -Value ${value} -Force | Out-Null`,
  ];
}

function scriptCommands(step: Extract<Step, { kind: 'script' }>): Rendered {
  const { language = 'batch', text } = step;
  if (language === 'shell')
    return { byHand: `run the shell script "${step.title}", which this machine may not know` };
  const ending = language === 'batch' ? 'cmd' : 'ps1';
  const run =
    language === 'batch'
      ? 'Run "`"$file`"" @(0)'
      : 'Run "powershell.exe -NoProfile -ExecutionPolicy Bypass -File `"$file`"" @(0)';
  return {
    commands: [
      `$file = Join-Path ([IO.Path]::GetTempPath()) 'recipe-step.${ending}'`,
      `[IO.File]::WriteAllText($file, [Text.Encoding]::UTF8.GetString([Convert]::FromBase64String('${base64(text)}')))`,
      `try { ${run} } finally { Remove-Item -LiteralPath $file }`,
    ],
  };
}

/** Scripts hold any text at all; as base64 no line of theirs can end a string or a block. */
function base64(text: string): string {
  const bytes = new TextEncoder().encode(text.replace(/\r?\n/g, '\r\n'));
  return btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join(''));
}

function domainOf(ou: string): string {
  return [...ou.matchAll(/\bDC=([^,]+)/gi)].map((part) => part[1]).join('.');
}

const cleanUps = {
  'temporary files':
    'Get-ChildItem -LiteralPath $env:TEMP, "$env:SystemRoot\\Temp" -Force | Remove-Item -Recurse -Force -ErrorAction SilentlyContinue',
  'update store':
    'Stop-Service wuauserv; Remove-Item -Recurse -Force "$env:SystemRoot\\SoftwareDistribution\\Download\\*"; Start-Service wuauserv',
  logs: 'wevtutil.exe el | ForEach-Object { wevtutil.exe cl "$_" }',
  'component store': 'Run "dism.exe /Online /Cleanup-Image /StartComponentCleanup" @(0)',
} as const;

function successCheck({ success }: Step): string[] {
  if (!success) return [];
  switch (success.kind) {
    case 'file':
      return [
        `Holds (Test-Path -LiteralPath ${path(success.path)}) 'the file'`,
        ...(success.sha256 ? [digestHolds(path(success.path), success.sha256)] : []),
      ];
    case 'registry':
      return [
        `Holds ((Get-ItemProperty -LiteralPath ${q(registryPath(success.key))}).${q(success.name)} -eq ${q(success.value)}) 'the value'`,
      ];
    case 'service':
      return [
        `Holds ($null -ne (Get-Service -Name ${q(success.name)} -ErrorAction SilentlyContinue)) 'the service'`,
      ];
    case 'version':
      return [
        `$found = Get-Package -Name ${q(`${success.name}*`)} -ErrorAction SilentlyContinue | Select-Object -First 1`,
        `Holds ($null -ne $found -and [version] $found.Version -ge [version] ${q(success.atLeast)}) 'the version'`,
      ];
    case 'exit code':
      return [];
    default:
      return unreachable(success);
  }
}
