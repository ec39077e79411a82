/** Checks for what a machine has too much of. */
import type { Check, CheckedLine, Fix } from './check.ts';
import type { Hardware } from '../hardware.ts';

const withHardware = (line: CheckedLine, label: string, change: Partial<Hardware>): Fix => ({
  action: 'change',
  label,
  steps: line.given.steps,
  hardware: { ...line.given.hardware, ...change },
});

export const excessChecks: readonly Check[] = [
  {
    id: 'devices of old machines',
    find: (line) => {
      const { legacy } = line.given.hardware;
      return legacy.length === 0
        ? undefined
        : {
            severity: 'attention',
            title: `The machine has a ${legacy.join(' and a ')}`,
            reason: 'every host polls them for ever, and none has anything in them',
            evidence: 'in the hardware',
            fix: withHardware(line, 'Take them off', { legacy: [] }),
          };
    },
  },
  {
    id: 'network adapter',
    find: (line) =>
      line.given.hardware.network === 'para-virtual'
        ? undefined
        : {
            severity: 'attention',
            title: 'The network adapter is emulated',
            reason: 'each packet costs processor time on a host that many people share',
            evidence: 'in the hardware',
            fix: withHardware(line, 'Make it para-virtual', { network: 'para-virtual' }),
          },
  },
  {
    id: 'disk controller',
    find: (line) => {
      const slow = line.given.hardware.disks.filter((disk) =>
        ['ide', 'sata', 'scsi'].includes(disk.controller),
      );
      return slow.length === 0
        ? undefined
        : {
            severity: 'attention',
            title: `${slow.length === 1 ? 'A disk is' : `${slow.length} disks are`} on an emulated controller`,
            reason: 'start-up and sign-in wait for disks more than for anything else',
            evidence: slow.map((disk) => disk.controller).join(', '),
            fix: withHardware(line, 'Make it para-virtual', {
              disks: line.given.hardware.disks.map((disk) =>
                slow.includes(disk) ? { ...disk, controller: 'para-virtual' } : disk,
              ),
            }),
          };
    },
  },
  {
    id: 'thick disks',
    find: (line) => {
      const { disks } = line.given.hardware;
      const thick = disks.filter((disk) => !disk.thin);
      return thick.length === 0
        ? undefined
        : {
            severity: 'attention',
            title: `${thick.length === 1 ? 'A disk takes' : `${thick.length} disks take`} all of its space at once`,
            reason: 'every full clone of it takes the same, filled or not',
            evidence: `${thick.reduce((sum, disk) => sum + disk.sizeBytes, 0) / 1e9} GB`,
            fix: withHardware(line, 'Let it fill up', {
              disks: disks.map((disk) => ({ ...disk, thin: true })),
            }),
          };
    },
  },
  {
    id: 'firmware',
    find: (line) =>
      line.given.hardware.firmware === 'uefi'
        ? undefined
        : {
            severity: 'attention',
            title: 'The firmware is a BIOS',
            reason: 'hosts could neither start securely nor from a disk over 2 TB',
            evidence: 'in the hardware',
            fix: withHardware(line, 'Make it UEFI', { firmware: 'uefi' }),
          },
  },
  {
    id: 'oversized',
    find: (line) => {
      const { processors } = line.given.hardware;
      const most = Math.max(0, ...line.given.pools.map((pool) => pool.processors));
      if (most === 0 || processors <= most) return undefined;
      return {
        severity: 'attention',
        title: `${processors} processors, and no host will have more than ${most}`,
        reason: 'what is measured on the build machine would not hold on a host',
        evidence: line.given.pools.map((pool) => `${pool.name} gives ${pool.processors}`).join(', '),
        fix: withHardware(line, `Give it ${most} processors`, { processors: most }),
      };
    },
  },
  {
    id: 'installed twice',
    find: (line) => {
      for (const [i, step] of line.run.entries()) {
        if (!('publisher' in step)) continue;
        const again = line.run.slice(i + 1).find((other) => 'publisher' in other && other.name === step.name);
        if (!again) continue;
        return {
          severity: 'attention',
          title: `${step.name} is installed twice`,
          reason: 'the later one replaces the earlier, which costs its minutes in every build',
          evidence: `steps ${line.number(step)} and ${line.number(again)}`,
          fix: {
            action: 'change',
            label: `Remove step ${line.number(step)}`,
            steps: line.without([step.id]),
          },
        };
      }
      return undefined;
    },
  },
  {
    id: 'left out',
    find: (line) => {
      const out = line.given.steps.filter((step) => step.disabled);
      return out.length === 0
        ? undefined
        : {
            severity: 'attention',
            title:
              out.length === 1
                ? 'A step is left out of builds'
                : `${out.length} steps are left out of builds`,
            reason: 'what was left out for a trial is forgotten until a host lacks it',
            evidence: `step ${out.map((step) => line.number(step)).join(', ')}`,
            fix: {
              action: 'change',
              label: out.length === 1 ? 'Take it in again' : 'Take them in again',
              steps: line.changed((step) => ({ ...step, disabled: undefined }) as typeof step),
            },
          };
    },
  },
];
