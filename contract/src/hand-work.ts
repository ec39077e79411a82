/** What is done to a build machine by hand. */
import { z } from 'zod';
import { done, endpoint, filled, idParams } from './endpoint.ts';
import { stepSchema } from './recipe.ts';

/** Kinds of step whose outcome a person can bring about at the screen of a practice machine. */
export const handKinds = [
  'application',
  'registry setting',
  'service start',
  'scheduled task',
  'shortcut',
  'file copy',
  'certificate',
] as const;
export type HandKind = (typeof handKinds)[number];

export const handChangeSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('do'), step: stepSchema }),
  z.strictObject({ kind: z.literal('uninstall'), name: filled('The application') }),
]);

export const handWorkEndpoints = {
  note: endpoint({
    method: 'post',
    path: '/lines/:id/hand-notes',
    summary: 'Note what was changed on the build machine by hand',
    changes: ['line'],
    params: idParams,
    body: z.strictObject({ text: filled('The note').max(500) }),
    response: done,
  }),
  change: endpoint({
    method: 'post',
    path: '/lines/:id/hand-changes',
    summary: 'Change a practice build machine as a person at its screen would',
    changes: ['line'],
    params: idParams,
    body: handChangeSchema,
    response: done,
  }),
};
