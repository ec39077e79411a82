/** How an application is installed on hosts: commands, what they end with, where it applies, when it may begin. */
import { Input, InputNumber, Select, Switch } from 'antd';
import { useState } from 'react';
import type { InstallationInput } from '@vatline/contract/installation';
import { placeholders } from '@vatline/core/installed/command';
import {
  architectures,
  exitMeanings,
  restartBehaviours,
  type HostRule,
} from '@vatline/core/installed/installation';
import type { Fault } from '@vatline/core/result';
import { useEstateTime } from '../shell/clock.ts';
import { Field } from '../parts/field.tsx';
import { HostRules } from './host-rules.tsx';
import { fromWallText, toWallText } from './wall-time.ts';

interface Props {
  readonly installation: InstallationInput;
  readonly faults: readonly Fault[];
  readonly onChange: (installation: InstallationInput) => void;
}

const GB = 1e9;

export function InstallationForm({ installation: own, faults, onChange }: Props) {
  const set = (change: Partial<InstallationInput>) => onChange({ ...own, ...change });
  const fault = (path: string) => faults.find((one) => one.path === path)?.message;
  const text = (label: string, field: 'name' | 'publisher' | 'version' | 'hosts', hint?: string) => (
    <Field label={label} fault={fault(field)} hint={hint}>
      <Input value={own[field]} onChange={(event) => set({ [field]: event.target.value })} />
    </Field>
  );
  const command = (label: string, field: 'installCommand' | 'uninstallCommand', hint?: string) => (
    <Field label={label} fault={fault(field)} hint={hint} wide>
      <Input className="mono" value={own[field]} onChange={(event) => set({ [field]: event.target.value })} />
    </Field>
  );
  return (
    <>
      <h2 className="section-title">What, and on which hosts</h2>
      <div className="fields three">
        {text('Name', 'name')}
        {text('Publisher', 'publisher')}
        {text('Version', 'version')}
      </div>
      {text('Hosts', 'hosts', 'names, * for any letters, divided by commas: WCL-DS-*, WCL-PB-01')}
      <h2 className="section-title">How it is run</h2>
      {command(
        'Install command',
        'installCommand',
        Object.entries(placeholders)
          .map(([name, what]) => `{${name}} ${what}`)
          .join(', '),
      )}
      {command('Uninstall command', 'uninstallCommand')}
      <ExitCodes own={own} set={set} fault={fault} />
      <div className="fields three">
        <Field label="Time limit, min" fault={fault('timeLimitMinutes')}>
          <InputNumber
            min={1}
            max={600}
            value={own.timeLimitMinutes}
            onChange={(n) => set({ timeLimitMinutes: n ?? 30 })}
          />
        </Field>
        <Field label="Restarts the host">
          <Select
            aria-label="Restarts the host"
            value={own.restart}
            onChange={(restart) => set({ restart })}
            options={restartBehaviours.map((value) => ({ value, label: value }))}
          />
        </Field>
        <Field label="People are told">
          <Input
            placeholder="nothing"
            value={own.notification}
            onChange={(event) => set({ notification: event.target.value })}
          />
        </Field>
      </div>
      <Applies own={own} set={set} fault={fault} />
      <h2 className="section-title">How it is known to be there</h2>
      {fault('detection') && (
        <p className="field-fault" role="alert">
          It {fault('detection')}.
        </p>
      )}
      <HostRules
        label="Detection"
        rules={own.detection as readonly HostRule[]}
        none="By nothing."
        onChange={(rules) => set({ detection: rules as InstallationInput['detection'] })}
        faultAt={(i) => faults.find((one) => one.path.startsWith(`detection.${i}.`))?.message}
      />
      <Before own={own} set={set} fault={fault} />
      <When own={own} set={set} fault={fault} />
    </>
  );
}

interface PartProps {
  readonly own: InstallationInput;
  readonly set: (change: Partial<InstallationInput>) => void;
  readonly fault: (path: string) => string | undefined;
}

function ExitCodes({ own, set, fault }: PartProps) {
  const change = (i: number, part: Partial<InstallationInput['exitCodes'][number]>) =>
    set({ exitCodes: own.exitCodes.map((one, n) => (n === i ? { ...one, ...part } : one)) });
  return (
    <Field label="Exit codes" fault={fault('exitCodes')} hint="any other is a failure" wide>
      <div className="row" style={{ gap: 14 }}>
        {own.exitCodes.map((one, i) => (
          <span key={i} className="row" style={{ gap: 4 }}>
            <InputNumber
              style={{ width: 76 }}
              aria-label={`Exit code ${i + 1}`}
              value={one.code}
              onChange={(code) => change(i, { code: code ?? 0 })}
            />
            <Select
              style={{ width: 104 }}
              aria-label={`Meaning of exit code ${i + 1}`}
              value={one.means}
              onChange={(means) => change(i, { means })}
              options={exitMeanings.map((value) => ({ value, label: value }))}
            />
            <button
              type="button"
              className="plain-button"
              aria-label={`Remove exit code ${one.code}`}
              onClick={() => set({ exitCodes: own.exitCodes.filter((_one, n) => n !== i) })}
            >
              ×
            </button>
            {fault(`exitCodes.${i}.code`) && (
              <span className="field-fault" role="alert">
                {fault(`exitCodes.${i}.code`)}
              </span>
            )}
          </span>
        ))}
        <button
          type="button"
          className="plain-button"
          onClick={() => set({ exitCodes: [...own.exitCodes, { code: 1, means: 'done' }] })}
        >
          add a code
        </button>
      </div>
    </Field>
  );
}

function Applies({ own, set }: PartProps) {
  const { requirements } = own;
  const change = (part: Partial<InstallationInput['requirements']>) =>
    set({ requirements: { ...requirements, ...part } });
  const bytes = (label: string, field: 'diskBytes' | 'memoryBytes') => (
    <Field label={label}>
      <InputNumber
        min={0}
        step={1}
        value={requirements[field] / GB}
        onChange={(n) => change({ [field]: Math.round((n ?? 0) * GB) })}
      />
    </Field>
  );
  return (
    <>
      <h2 className="section-title">Where it applies</h2>
      <div className="fields four">
        <Field label="Architecture">
          <Select
            aria-label="Architecture"
            value={requirements.architecture}
            onChange={(architecture) => change({ architecture })}
            options={architectures.map((value) => ({ value, label: value }))}
          />
        </Field>
        <Field label="System at least">
          <Input
            placeholder="any"
            value={requirements.minimumSystem}
            onChange={(event) => change({ minimumSystem: event.target.value })}
          />
        </Field>
        {bytes('Free disk, GB', 'diskBytes')}
        {bytes('Memory, GB', 'memoryBytes')}
      </div>
      <HostRules
        label="Requirements"
        rules={requirements.rules as readonly HostRule[]}
        none="Nothing else is asked of a host."
        onChange={(rules) => change({ rules: rules as InstallationInput['requirements']['rules'] })}
        faultAt={() => undefined}
      />
    </>
  );
}

function Before({ own, set, fault }: PartProps) {
  return (
    <>
      <h2 className="section-title">Before it, and in its place</h2>
      <div className="two-texts">
        {own.dependencies.map((one, i) => (
          <div key={i}>
            <div className="two-texts-row">
              {(['name', 'range'] as const).map((field) => (
                <Input
                  key={field}
                  aria-label={`Needs, ${field} ${i + 1}`}
                  placeholder={field === 'name' ? 'name of the application' : '>=5.0 <6'}
                  value={one[field]}
                  onChange={(event) =>
                    set({
                      dependencies: own.dependencies.map((other, n) =>
                        n === i ? { ...other, [field]: event.target.value } : other,
                      ),
                    })
                  }
                />
              ))}
              <button
                type="button"
                className="plain-button"
                onClick={() => set({ dependencies: own.dependencies.filter((_one, n) => n !== i) })}
              >
                remove
              </button>
            </div>
            {[`dependencies.${i}`, `dependencies.${i}.name`, `dependencies.${i}.range`].map(
              (path) =>
                fault(path) && (
                  <span key={path} className="field-fault" role="alert">
                    It {fault(path)}.
                  </span>
                ),
            )}
          </div>
        ))}
        <button
          type="button"
          className="plain-button"
          onClick={() => set({ dependencies: [...own.dependencies, { name: '', range: '*' }] })}
        >
          add an application that it needs
        </button>
      </div>
      <Field label="Takes the place of" fault={fault('replaces')}>
        <Select
          mode="tags"
          aria-label="Takes the place of"
          placeholder="names of applications that are taken away"
          value={own.replaces}
          onChange={(replaces) => set({ replaces })}
          open={false}
        />
      </Field>
    </>
  );
}

function When({ own, set, fault }: PartProps) {
  const { zone, now } = useEstateTime();
  const [typed, setTyped] = useState<string>();
  const deadline = typed ?? (own.deadline === null ? '' : toWallText(own.deadline, zone));
  const isUnread = deadline.trim() !== '' && fromWallText(deadline, zone) === undefined;
  const quiet = own.quietHours;
  const wall = (label: string, field: 'start' | 'end') => (
    <Field label={label} fault={fault(`quietHours.${field}`)}>
      <Input
        disabled={quiet === null}
        value={quiet?.[field] ?? ''}
        onChange={(event) => quiet && set({ quietHours: { ...quiet, [field]: event.target.value } })}
      />
    </Field>
  );
  return (
    <>
      <h2 className="section-title">When</h2>
      <div className="fields four">
        <Field label="Quiet hours">
          <Switch
            aria-label="Quiet hours"
            checked={quiet !== null}
            onChange={(on) => set({ quietHours: on ? { start: '07:00', end: '19:00' } : null })}
          />
        </Field>
        {wall('From', 'start')}
        {wall('Until', 'end')}
        <Field
          label={`Deadline, ${zone}`}
          fault={isUnread ? `is no time such as ${toWallText(now, zone)}` : undefined}
          hint="ends the quiet; may be empty"
        >
          <Input
            value={deadline}
            placeholder={toWallText(now + 7 * 86_400_000, zone)}
            onChange={(event) => {
              setTyped(event.target.value);
              const at = fromWallText(event.target.value, zone);
              if (at !== undefined || event.target.value.trim() === '') set({ deadline: at ?? null });
            }}
          />
        </Field>
      </div>
    </>
  );
}
