/** Recipes in POSIX shell. What a machine of that kind does not have, such as a registry, is left to a person. */
import { unreachable } from '../../result.ts';
import type { Step } from '../recipe.ts';
import { taskByHand } from './by-hand.ts';
import type { Dialect, FramedStep, Rendered, WritableStep } from './dialect.ts';
import { quoteShell as q } from './quote.ts';

const preamble = [
  '#!/bin/sh',
  '# TITLE',
  '# Run it as root on a clean machine, again after every restart until it says that it is done.',
  '# What it needs lies in the folder FILES; how far it came stands in the file STATE.',
  'set -eu',
  'FILES=${FILES:-$(cd "$(dirname "$0")" && pwd)}',
  'STATE=${STATE:-$FILES/build.state}',
  'DONE=$(cat "$STATE" 2>/dev/null || echo 0)',
  '',
  'step() { # number, title, retries, restart after, function',
  '  [ "$1" -gt "$DONE" ] || return 0',
  '  printf "%s %s\\n" "$1" "$2"',
  '  attempt=0',
  '  until (set -e; "$5"); do',
  '    [ "$attempt" -lt "$3" ] || { echo "step $1 failed" >&2; exit 1; }',
  '    attempt=$((attempt + 1)); echo "trying again" >&2',
  '  done',
  '  echo "$1" > "$STATE"',
  '  [ "$4" = no ] || { echo "Restarting; run this script again afterwards."; ${RESTART:-shutdown -r now}; exit 0; }',
  '}',
  'run() { # expected exit codes, command',
  '  code=0; (cd "$FILES" && sh -c "$2") || code=$?',
  '  case " $1 " in *" $code "*) ;; *) echo "ended with exit $code: $2" >&2; exit 1 ;; esac',
  '}',
  'by_hand() { printf "By hand: %s. Type done when it is: " "$1"; read -r answer; [ "$answer" = done ]; }',
  'digest_holds() { printf "%s  %s\\n" "$2" "$1" | sha256sum --check --quiet -; }',
];

export const shell: Dialect = {
  fileName: 'build.sh',
  preamble,
  render,
  successCheck,
  askForHands: (what) => `by_hand ${q(what)}`,
  frame,
  ending: [
    'echo "Done. Shut the machine down, and bring its inventory back as a version:"',
    'echo "  vatline scan / --out inventory.jsonl"',
  ],
};

function frame({ number, title, commands, restartAfter, retries }: FramedStep): string[] {
  return [
    `step_${number}() {`,
    // A condition suspends `set -e`, so each command says itself that the next needs it.
    commands.length > 0 ? commands.join(' &&\n') : ':',
    '}',
    `step ${number} ${q(title)} ${retries} ${restartAfter ? 'yes' : 'no'} step_${number}`,
  ];
}

function render(step: WritableStep): Rendered {
  switch (step.kind) {
    case 'language pack':
      return { byHand: `install the language pack ${step.language}` };
    case 'application':
      return { commands: [`run ${q(step.exitCodes.join(' '))} ${q(step.command)}`] };
    case 'file copy': {
      const target = q(step.target);
      return {
        commands: [
          `mkdir -p "$(dirname ${target})"`,
          `cp "$FILES"/${q(step.source)} ${target}`,
          `digest_holds ${target} ${q(step.digest)}`,
        ],
      };
    }
    case 'shortcut': {
      const folder = step.place === 'desktop' ? '/etc/skel/Desktop' : '/usr/share/applications';
      const entry = `[Desktop Entry]\nType=Application\nName=${step.name}\nExec=${step.target}\n`;
      return {
        commands: [`mkdir -p ${folder}`, `printf %s ${q(entry)} > ${folder}/${q(`${step.name}.desktop`)}`],
      };
    }
    case 'registry setting':
      return {
        byHand: `see whether ${step.key}\\${step.name} = ${step.value} has an equal here; there is no registry`,
      };
    case 'service start':
      return {
        commands: [`systemctl ${step.start === 'disabled' ? 'disable' : 'enable'} ${q(step.name)}`],
      };
    case 'scheduled task':
      return { byHand: taskByHand(step) };
    case 'certificate':
      return step.store === 'trusted roots' || step.store === 'intermediate'
        ? {
            commands: [
              `digest_holds "$FILES/${step.digest}.crt" ${q(step.digest)}`,
              `cp "$FILES/${step.digest}.crt" /usr/local/share/ca-certificates/`,
              'update-ca-certificates',
            ],
          }
        : { byHand: `put the certificate ${step.subject} into the store ${step.store}` };
    case 'script':
      return (step.language ?? 'batch') === 'shell'
        ? { commands: [`sh -c ${q(step.text)}`] }
        : { byHand: `do what the ${step.language ?? 'batch'} script "${step.title}" does` };
    case 'join directory':
      return { byHand: `join the machine to the directory at ${step.ou}` };
    case 'restart':
      return { commands: [] };
    case 'wait for settle':
      return {
        commands: [
          `i=0; while [ $i -lt ${step.limitMinutes * 4} ] && awk '{ exit !($1 > 0.5) }' /proc/loadavg; do sleep 15; i=$((i + 1)); done`,
        ],
      };
    case 'clean-up':
      return { commands: step.targets.map((target) => cleanUps[target]) };
    default:
      return unreachable(step);
  }
}

const cleanUps = {
  'temporary files': 'find /tmp /var/tmp -mindepth 1 -delete',
  'update store': 'rm -rf /var/cache/apt/archives/*.deb',
  logs: "find /var/log -type f -name '*.log' -exec truncate -s 0 {} +",
  // There is no component store here.
  'component store': ':',
} as const;

function successCheck({ success }: Step): string[] {
  if (!success) return [];
  switch (success.kind) {
    case 'file':
      return [
        `[ -e ${q(success.path)} ]`,
        ...(success.sha256 ? [`digest_holds ${q(success.path)} ${q(success.sha256)}`] : []),
      ];
    case 'service':
      return [`systemctl cat ${q(success.name)} > /dev/null`];
    case 'version':
      return [askHolds(`${success.name} is there in ${success.atLeast} or newer`)];
    case 'registry':
    case 'exit code':
      return [];
    default:
      return unreachable(success);
  }
}

const askHolds = (what: string) => `by_hand ${q(`see that ${what}`)}`;
