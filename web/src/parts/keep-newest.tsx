/** How many of the newest versions are kept, as part of a sentence. */
import { InputNumber } from 'antd';

interface Props {
  readonly keep: number;
  readonly onChange: (keep: number) => void;
}

export function KeepNewest({ keep, onChange }: Props) {
  return (
    <>
      <span>Keep the newest</span>
      <InputNumber
        aria-label="Versions kept"
        size="small"
        min={1}
        max={200}
        style={{ width: 64 }}
        value={keep}
        onChange={(n) => n !== null && onChange(n)}
      />
      <span>and every one that something needs.</span>
    </>
  );
}
