/** What is wrong in a text, by line and column; the editor marks the same places. */
interface Props {
  readonly faults: readonly {
    readonly line: number;
    readonly column: number;
    readonly path: string;
    readonly message: string;
  }[];
}

/** So many are told; the others are marked in the text. */
const SHOWN = 5;

export function TextFaults({ faults }: Props) {
  return faults.slice(0, SHOWN).map((fault) => (
    <div key={`${fault.line}:${fault.column}:${fault.path}`}>
      line {fault.line}, column {fault.column}: {fault.path && <code>{fault.path}</code>} {fault.message}
    </div>
  ));
}
