import './dye-chip.css';
import { dye, type DyeName } from '@vatline/core/dye/dyes';
import { dyeBackground } from './hatch.ts';

/** An image version wherever it is named: hatched square, letters, number. */
export function DyeChip({ name, number, note }: { name: DyeName; number: number; note?: string }) {
  return (
    <span className="dye-chip" title={`${name} ${number}`}>
      <span className="dye-square" style={{ background: dyeBackground(name) }} aria-hidden />
      <span className="dye-letters">{dye(name).letters}</span>
      <b>{number}</b>
      {note && <span className="quiet">{note}</span>}
    </span>
  );
}
