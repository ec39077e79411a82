/** The root of the directory. */
export const root = 'DC=wrenfield,DC=example';
