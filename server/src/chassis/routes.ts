/** Chassis over HTTP: what stands in them, and looking through one. */
import { chassisEndpoints, type ChassisShown } from '@vatline/contract/chassis';
import type { ChassisReport } from '../estate/driver/chassis.ts';
import { EstateError } from '../estate/driver/operations.ts';
import { DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, notFound } from '../platform/problem.ts';
import { slotsOf } from '../pool/slots.ts';

const KEY = 'look/';

export function chassisRoutes(door: Door, parts: Parts): void {
  const { estate, journal } = parts;

  door.serve(chassisEndpoints.list, async () =>
    Promise.all((await estate.chassis.all()).map((chassis) => shown(parts, chassis))),
  );

  door.serve(chassisEndpoints.look, async ({ params: { name } }) => {
    await need(parts, name);
    try {
      await estate.chassis.look(`${KEY}${name}/${newId('look')}`, name);
    } catch (error) {
      throw error instanceof EstateError ? conflict(error.message) : error;
    }
    await note(parts, name, 'is looked through');
    journal.tell('estate');
    return DONE;
  });

  door.serve(chassisEndpoints.stopLooking, async ({ params: { name } }) => {
    const { look } = await need(parts, name);
    if (look?.operation.state !== 'running') throw conflict(`${name} is not being looked through`);
    await estate.operations.callOff(look.operation.key);
    await noteLook(parts, name, 'it was stopped');
    return DONE;
  });

  estate.operations.onEnd(async (operation) => {
    const { key, error } = operation;
    const name = key.slice(KEY.length, key.lastIndexOf('/'));
    if (key.startsWith(KEY)) await noteLook(parts, name, error?.message ?? '');
  });
}

async function need({ estate }: Parts, name: string): Promise<ChassisReport> {
  const found = (await estate.chassis.all()).find((one) => one.name === name);
  if (!found) throw notFound(`chassis ${name}`);
  return found;
}

async function shown(parts: Parts, { name, site, look, asked }: ChassisReport): Promise<ChassisShown> {
  const slots = await slotsOf(parts, name);
  const isLooking = look?.operation.state === 'running';
  return {
    name,
    site,
    slots: slots.map((slot) => ({ ...slot })),
    lookedAt: look?.startedAt ?? null,
    asked: isLooking ? asked : null,
    trouble: look?.operation.error?.message ?? '',
  };
}

/** `trouble`: why it was not looked through whole; empty where it was. */
async function noteLook(parts: Parts, name: string, trouble: string): Promise<void> {
  const { estate, journal } = parts;
  const slots = await estate.chassis.slots(name);
  const answering = slots.filter((slot) => slot.state === 'answers').length;
  const came = `was looked through: ${answering} of ${slots.length} slots answer${trouble && `; ${trouble}`}`;
  await note(parts, name, came);
  journal.tell('estate');
}

async function note({ estate, journal }: Parts, name: string, came: string): Promise<void> {
  await journal.note({
    at: estate.clock.now(),
    kind: 'estate',
    subject: 'estate',
    text: `${name} ${came}`,
    link: `/pools/chassis?chassis=${encodeURIComponent(name)}`,
  });
}
