/** What a file system says, for a person: without the name of the call and without our own paths. */
const reasons: Readonly<Record<string, string>> = {
  EACCES: 'may not be read: permission denied',
  EEXIST: 'is there twice',
  EISDIR: 'is a folder, not a file',
  ELOOP: 'is a circle of links',
  ENAMETOOLONG: 'has a name longer than the file system takes',
  ENOENT: 'is not there',
  ENOSPC: 'does not fit: the disk is full',
  ENOTDIR: 'lies below something that is no folder',
};

/** The reason of an error of the file system; undefined for any other error. */
export function systemReason(error: unknown): string | undefined {
  const { code, message } = error as NodeJS.ErrnoException;
  if (typeof code !== 'string' || !/^E[A-Z0-9]+$/.test(code)) return undefined;
  return reasons[code] ?? message.replace(/, \w+ '.*$/s, '');
}
