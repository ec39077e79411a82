/** Secrets that were written where everybody reads them: in scripts and commands. */

const marks: readonly { readonly what: string; readonly pattern: RegExp }[] = [
  {
    what: 'a private key',
    pattern: /-----BEGIN [A-Z ]*PRIVATE KEY-----[\s\S]*?(-----END [A-Z ]*PRIVATE KEY-----|$)/g,
  },
  {
    what: 'a password',
    pattern: /(?<=\b(?:password|passwd|pwd|passphrase)["']?\s*[:=]\s*)(?:"[^"\n]+"|'[^'\n]+'|[^\s"';&|]+)/gi,
  },
  {
    what: 'a password',
    pattern: /(?<=(?:^|\s)(?:--?|\/)(?:password|pass|pwd)[ :=])(?:"[^"\n]+"|[^\s"]+)/gim,
  },
  {
    what: 'a key or token',
    pattern:
      /(?<=\b(?:api[_-]?key|secret|token|access[_-]?key)["']?\s*[:=]\s*)(?:"[^"\n]+"|'[^'\n]+'|[^\s"';&|]+)/gi,
  },
  { what: 'a token', pattern: /(?<=\bBearer\s+)[\w.~+/-]{12,}=*/g },
  { what: 'a password in an address', pattern: /(?<=\b[a-z][a-z0-9+.-]*:\/\/[^\s:/@]+:)[^\s@/]+(?=@)/gi },
];

/** Placeholders that are filled in elsewhere: `%NAME%`, `$NAME`, `${NAME}`, `<name>`, `***`. */
const placeholder = /^["']?(%\w+%|\$\{?[\w:]+\}?|<[^>]+>|\*+|•+)["']?$/;

export interface FoundSecret {
  readonly what: string;
  /** Line in the text, from 1. */
  readonly line: number;
}

/** Where a text holds what looks like a secret. Never the secret itself. */
export function findSecrets(text: string): FoundSecret[] {
  const found = new Map<number, FoundSecret>();
  for (const { what, pattern } of marks)
    for (const match of text.matchAll(pattern)) {
      if (placeholder.test(match[0])) continue;
      const line = text.slice(0, match.index).split('\n').length;
      if (!found.has(line)) found.set(line, { what, line });
    }
  return [...found.values()].sort((a, b) => a.line - b.line);
}

/** The text with secrets struck out, for logs. */
export function maskSecrets(text: string): string {
  return marks.reduce(
    (masked, { pattern }) => masked.replace(pattern, (secret) => (placeholder.test(secret) ? secret : '•••')),
    text,
  );
}
