/** A few choices side by side, of which at most one is pressed. */
import type { CSSProperties } from 'react';

interface Props<T extends string> {
  /** What they choose, for those who do not see them. */
  readonly label: string;
  readonly options: readonly (readonly [value: T, text: string])[];
  readonly chosen: T | undefined;
  /** The one that was pressed, even when it is the chosen one. */
  readonly onPress: (value: T) => void;
  readonly style?: CSSProperties;
}

export function Chips<T extends string>({ label, options, chosen, onPress, style }: Props<T>) {
  return (
    <div className="chips" role="group" aria-label={label} style={style}>
      {options.map(([value, text]) => (
        <button
          key={value}
          type="button"
          className="chip-button"
          aria-pressed={chosen === value}
          onClick={() => onPress(value)}
        >
          {text}
        </button>
      ))}
    </div>
  );
}
