/** The directory as far as hosts need it: units, accounts that computers are joined with, and their rights. */
import { z } from 'zod';
import { unitRights } from '@vatline/core/directory/rights';
import { done, endpoint, id, JSON_TYPE, rawEndpoint, text } from './endpoint.ts';

const rightSchema = z.object({
  account: z.string(),
  right: z.enum(unitRights),
  /** The unit on which it was given: this one, or one above it. */
  givenOn: z.string(),
});

export const unitSchema = z.object({
  dn: z.string(),
  name: z.string(),
  /** The unit above it; null right below the root. */
  parent: z.string().nullable(),
  /** In the unit itself, and in all below it as well. */
  computers: z.number(),
  computersBelow: z.number(),
  /** Rights that hold in it. */
  rights: z.array(rightSchema),
});
export type Unit = z.infer<typeof unitSchema>;

export const accountSchema = z.object({
  name: z.string(),
  unit: z.string(),
  isLocked: z.boolean(),
  /** Whether Vat Line knows its password and so can join hosts with it. */
  isKnown: z.boolean(),
  /** Pools whose hosts are joined with it. */
  pools: z.array(z.string()),
});
export type JoinAccount = z.infer<typeof accountSchema>;

/** Names of accounts hold at most 20 characters in directories that old systems share. */
const accountName = text
  .min(1, 'The name is empty')
  .max(20, 'has over 20 characters')
  .regex(/^[a-z0-9]+([-.][a-z0-9]+)*$/, 'must be small letters, digits, hyphens and dots');
const unitDn = text.min(1, 'choose a unit').max(2_000);

export const directoryEndpoints = {
  units: endpoint({
    method: 'get',
    path: '/directory/units',
    summary: 'Organisational units, with their computers and the rights that hold in them',
    dependsOn: ['estate'],
    response: z.array(unitSchema),
  }),
  makeUnit: endpoint({
    method: 'post',
    path: '/directory/units',
    summary: 'Make an organisational unit',
    changes: ['estate'],
    body: z.strictObject({
      /** The unit it is to lie in; the root of the directory when it is empty. */
      parent: text.max(2_000),
      name: text.min(1, 'The name is empty').max(64, 'has over 64 characters'),
    }),
    response: z.object({ dn: z.string() }),
  }),
  accounts: endpoint({
    method: 'get',
    path: '/directory/accounts',
    summary: 'Accounts that computers are joined with',
    dependsOn: ['estate', 'pool'],
    response: z.array(accountSchema),
  }),
  makeAccount: endpoint({
    method: 'post',
    path: '/directory/accounts',
    summary:
      'Make an account with a password that nobody sees, with just the rights to join computers in one unit',
    changes: ['estate'],
    body: z.strictObject({
      name: accountName,
      /** Where the account itself lies. */
      unit: unitDn,
      /** Where it may create and delete computers; nowhere yet when it is null. */
      rightsOn: unitDn.nullable(),
    }),
    response: done,
  }),
  givePassword: endpoint({
    method: 'put',
    path: '/directory/accounts/:name/password',
    summary: 'Tell Vat Line the password of an account; the directory is asked whether it is right',
    changes: ['estate'],
    params: z.strictObject({ name: text }),
    body: z.strictObject({
      password: z.string().min(1, 'The password is empty').max(256, 'has over 256 characters'),
    }),
    response: done,
  }),
  setRight: endpoint({
    method: 'put',
    path: '/directory/rights',
    summary: 'Give an account a right in a unit and all below it, or take it',
    changes: ['estate'],
    body: z.strictObject({
      unit: unitDn,
      account: text.min(1),
      right: z.enum(unitRights),
      isGiven: z.boolean(),
    }),
    response: done,
  }),
};

export const directoryFileEndpoints = {
  import: rawEndpoint({
    method: 'post',
    path: '/directory/import',
    summary: 'Take the entries of an LDIF file into the practice directory: a form with `file`',
    takes: 'form',
    gives: JSON_TYPE,
    changes: ['estate', 'access'],
    response: z.strictObject({
      /** Those that were not there before. */
      units: z.number(),
      computers: z.number(),
      people: z.number(),
      groups: z.number(),
      /** Records of other kinds, which were passed over. */
      others: z.number(),
    }),
  }),
  export: rawEndpoint({
    method: 'get',
    path: '/directory/export.ldif',
    summary: 'Units and computer accounts as LDIF; with `pool` only the accounts made for it',
    gives: 'text/plain',
    query: z.strictObject({ pool: id.optional() }),
  }),
};
