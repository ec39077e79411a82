/** Which applications a question means: "Zinnet Browser below 141". */
import { compareVersionText } from '../version/text.ts';

export interface NamedApplication {
  readonly publisher: string;
  readonly name: string;
  readonly version: string;
}

export interface ApplicationQuestion {
  /** Words that the name or publisher holds, each of them somewhere. */
  readonly name: string;
  /** Only versions below this one; every version when empty. */
  readonly below: string;
}

/** Reads "zinnet below 141", "zinnet < 141" or just "zinnet". */
export function readQuestion(text: string): ApplicationQuestion {
  const match = /^(.*?)\s*(?:\bbelow\b|\bbefore\b|<)\s*([\w.+-]+)\s*$/i.exec(text);
  return match ? { name: (match[1] ?? '').trim(), below: match[2] ?? '' } : { name: text.trim(), below: '' };
}

/** The applications that are meant, by name and then oldest version first. */
export function findApplications<A extends NamedApplication>(
  applications: readonly A[],
  { name, below }: ApplicationQuestion,
): A[] {
  const words = name.toLowerCase().split(/\s+/).filter(Boolean);
  return applications
    .filter((application) => {
      const hay = `${application.publisher} ${application.name}`.toLowerCase();
      return (
        words.every((word) => hay.includes(word)) &&
        (below === '' || compareVersionText(application.version, below) < 0)
      );
    })
    .sort(
      (a, b) =>
        (a.name < b.name ? -1 : a.name > b.name ? 1 : 0) ||
        (a.publisher < b.publisher ? -1 : a.publisher > b.publisher ? 1 : 0) ||
        compareVersionText(a.version, b.version),
    );
}
