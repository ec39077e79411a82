/** Texts as words of scripts: whatever they hold, they are data there and never commands. */

/** A text as PowerShell's verbatim string. The typographic single quotes end one too. */
export function quotePowershell(text: string): string {
  return `'${text.replace(/['\u2018\u2019\u201a\u201b]/g, (quote) => quote + quote)}'`;
}

/** A text as one word of a POSIX shell. */
export function quoteShell(text: string): string {
  return `'${text.replaceAll("'", `'\\''`)}'`;
}
