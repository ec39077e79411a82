import { sql, type Migration } from 'kysely';

/** From one disk size to disks with controllers; what was not kept before is what the practice estate made. */
const converted = (json: string) => `json_object(
  'processors', ${json} -> 'processors',
  'memoryBytes', ${json} -> 'memoryBytes',
  'disks', json_array(json_object('sizeBytes', ${json} -> 'diskBytes', 'controller', 'para-virtual', 'thin', json('true'))),
  'network', 'para-virtual',
  'firmware', ${json} -> 'firmware',
  'graphics', iif(${json} ->> 'graphics', 'shared card', 'display only'),
  'legacy', json_array())`;

/**
 * Hardware gains disks with controllers, the kind of network adapter and legacy devices. Keys of
 * checkpoints are made over the hardware, so the old ones fit nothing any more and go.
 */
export const disks: Migration = {
  async up(db) {
    for (const table of ['image_line', 'recipe'])
      await sql
        .raw(
          `update ${table} set hardware_json = ${converted('hardware_json')} where hardware_json -> 'diskBytes' is not null`,
        )
        .execute(db);
    await sql
      .raw(
        `update job set input_json = json_set(input_json, '$.hardware', ${converted("(input_json -> 'hardware')")})
         where kind = 'build' and input_json -> '$.hardware.diskBytes' is not null`,
      )
      .execute(db);
    await sql.raw('delete from checkpoint').execute(db);
    await sql.raw('update image_line set machine_key = null').execute(db);
  },
};
