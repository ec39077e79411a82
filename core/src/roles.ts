/** The roles in which a person acts, as the trade divides the work. */
export const roles = ['engineer', 'operator', 'approver'] as const;
export type Role = (typeof roles)[number];
