/** What people do to practice hosts and tell nobody: what drift is found from. */
import type { SecretChange } from '../control.ts';
import { EstateError } from '../driver/operations.ts';
import type { EstateDb } from './estate-database.ts';
import type { PracticeHypervisor } from './hypervisor/practice-hypervisor.ts';

/** Throws an estate error where there is nothing to change. */
export async function changeInSecret(
  db: EstateDb,
  hypervisor: PracticeHypervisor,
  host: string,
  change: SecretChange,
): Promise<void> {
  const machine = await db.selectFrom('machine').selectAll().where('name', '=', host).executeTakeFirst();
  if (!machine) throw new EstateError('not found', `there is no machine ${host}`);
  switch (change) {
    case 'a container is taken off':
      return takeOff(db, host);
    case 'an older disk comes back':
      return restore(db, machine);
    case 'a program is installed': {
      const step = {
        id: 'by-hand',
        kind: 'application',
        publisher: 'Brindlow Tools',
        name: 'Brindlow Clipper',
        version: '2.1',
        command: 'setup.exe',
        exitCodes: [0],
      } as const;
      return hypervisor.byHand(machine.id, { kind: 'do', step });
    }
  }
}

async function takeOff(db: EstateDb, host: string): Promise<void> {
  const mount = await db
    .selectFrom('mount')
    .select('digest')
    .where('host', '=', host)
    .where('held_json', 'is', null)
    .orderBy('digest')
    .executeTakeFirst();
  if (!mount) throw new EstateError('conflict', `${host} has no container attached`);
  await db.deleteFrom('mount').where('host', '=', host).where('digest', '=', mount.digest).execute();
}

/** That of another image; what is attached stays. */
async function restore(
  db: EstateDb,
  machine: { readonly id: string; readonly name: string; readonly image_id: string | null },
): Promise<void> {
  const image = await db
    .selectFrom('image')
    .select(['id', 'guest'])
    .where('id', '!=', machine.image_id ?? '')
    .orderBy('id')
    .executeTakeFirst();
  if (!image || machine.image_id === null)
    throw new EstateError(
      'conflict',
      `${machine.name} was made from no image that another could take the place of`,
    );
  await db
    .updateTable('machine')
    .set({ image_id: image.id, guest: image.guest })
    .where('id', '=', machine.id)
    .execute();
}
