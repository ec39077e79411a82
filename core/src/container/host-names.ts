/** Names that a desktop system cannot keep, whatever the container's format allows. */

const devices = /^(con|prn|aux|nul|com[1-9]|lpt[1-9])(\.|$)/i;

/** Why a path cannot be kept by a host, or nothing. */
export function hostNameFault(path: string): string | undefined {
  for (const part of path.split('/')) {
    // eslint-disable-next-line no-control-regex -- control characters are what is looked for
    const reserved = /[\u0000-\u001f"*:<>?\\|]/.exec(part);
    if (reserved) return `holds the reserved character ${JSON.stringify(reserved[0])}`;
    if (/[. ]$/.test(part)) return 'has a name that ends in a dot or space';
    if (devices.test(part)) return `has a name that is a device's, ${part}`;
  }
  return undefined;
}
