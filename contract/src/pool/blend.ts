/** What the hosts of a pool run, numbered and never changed. */
import { z } from 'zod';
import { instant } from '../endpoint.ts';
import { dyeSchema } from '../image.ts';

export const blendSchema = z.object({
  id: z.string(),
  number: z.number(),
  imageVersionId: z.string(),
  line: z.string(),
  imageNumber: z.number(),
  dye: dyeSchema,
  packages: z.array(z.object({ id: z.string(), name: z.string(), version: z.string() })),
  madeAt: instant,
});
export type Blend = z.infer<typeof blendSchema>;
