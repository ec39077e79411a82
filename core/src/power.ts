/** Whether a machine runs. `suspended`: its memory is on disk, and it goes on where it stopped. */
export const powers = ['on', 'suspended', 'off'] as const;
export type Power = (typeof powers)[number];
