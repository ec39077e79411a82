/** Whether the command of an installer runs without anybody there to click. */

const silent = /(^|\s)(\/|--?)(quiet|silent|verysilent|passive|q|qn|qb|s|unattended)\b/i;

export function isSilent(command: string): boolean {
  return silent.test(command);
}

export function withSilentSwitch(command: string): string {
  return isSilent(command) ? command : `${command.trimEnd()} /quiet`;
}
