/** A cell a host, on a canvas. Only the rows in view are drawn, so that ten thousand stay smooth. */
import './host-grid.css';
import {
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type MouseEvent,
  type RefObject,
} from 'react';
import { dye } from '@vatline/core/dye/dyes';
import { cellAt, gridGeometry, moveFocus, type GridGeometry } from './host-grid-geometry.ts';
import { drawCells, type GridCell } from './host-grid-drawing.ts';
import { useAppSelector } from '../shell/store.ts';

interface Props {
  readonly cells: readonly GridCell[];
  readonly cellSize?: number;
  /** Beyond this height the grid scrolls. */
  readonly maxHeight?: number;
  readonly label: string;
  readonly onOpen?: (cell: GridCell) => void;
}

export function describeCell(cell: GridCell): string {
  const next = cell.next && cell.next !== cell.dye ? `, to run ${dye(cell.next).letters}` : '';
  return `${cell.name}: ${cell.state}, runs ${dye(cell.dye).letters}${next}`;
}

export function HostGrid({ cells, cellSize = 16, maxHeight = 400, label, onOpen }: Props) {
  const [scroller, width] = useWidth();
  const [tipScroll, setTipScroll] = useState(0);
  const [pointed, setPointed] = useState<number | undefined>();
  const geometry = useMemo(
    () => gridGeometry(cells.length, width, cellSize),
    [cells.length, width, cellSize],
  );
  const height = Math.min(maxHeight, geometry.height);
  const { canvas, draw } = useDrawing(scroller, { cells, geometry, width, height, pointed });
  const open = (index: number | undefined) => {
    const cell = index === undefined ? undefined : cells[index];
    if (cell) onOpen?.(cell);
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const next = moveFocus(geometry, pointed, event.key, cells.length);
    if (next !== undefined) {
      event.preventDefault();
      setPointed(next);
      reveal(scroller.current, geometry, next, height);
    } else if (event.key === 'Enter') open(pointed);
  };
  const current = pointed === undefined ? undefined : cells[pointed];
  return (
    <div
      className="host-grid"
      tabIndex={0}
      role="img"
      aria-label={label}
      onKeyDown={onKeyDown}
      onBlur={() => setPointed(undefined)}
    >
      <div
        ref={scroller}
        className="host-grid-scroll"
        style={{ height }}
        // Drawn in the same frame as the scrolling: through the state it would come a frame late.
        onScroll={(event) => {
          draw();
          if (pointed !== undefined) setTipScroll(event.currentTarget.scrollTop);
        }}
        onMouseMove={(event) => {
          setPointed(cellUnder(event, geometry, cells.length));
          setTipScroll(event.currentTarget.scrollTop);
        }}
        onMouseLeave={() => setPointed(undefined)}
        onClick={(event) => open(cellUnder(event, geometry, cells.length))}
      >
        <div style={{ height: geometry.height }}>
          <canvas ref={canvas} />
        </div>
      </div>
      {current && pointed !== undefined && (
        <div className="host-tip" style={tipPlace(geometry, pointed, tipScroll, width)} aria-live="polite">
          {describeCell(current)}
        </div>
      )}
    </div>
  );
}

/** For an element, and the width that it has now, in pixels. */
function useWidth(): readonly [RefObject<HTMLDivElement | null>, number] {
  const ref = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const element = ref.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    setWidth(element.clientWidth);
    return () => observer.disconnect();
  }, []);
  return [ref, width];
}

type Drawn = Omit<Parameters<typeof drawCells>[1], 'scrollTop' | 'dark'>;

/** A canvas that is drawn anew in the next frame whenever something on it changes, and at once when asked. */
function useDrawing(
  scroller: RefObject<HTMLElement | null>,
  { cells, geometry, width, height, pointed }: Drawn,
) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const dark = useAppSelector((state) => state.layout.dark);
  const draw = useCallback(() => {
    const context = canvas.current?.getContext('2d');
    const scrollTop = scroller.current?.scrollTop ?? 0;
    if (context && width > 0)
      drawCells(context, { cells, geometry, width, height, scrollTop, pointed, dark });
  }, [scroller, cells, geometry, width, height, pointed, dark]);
  useEffect(() => {
    const frame = requestAnimationFrame(draw);
    return () => cancelAnimationFrame(frame);
  }, [draw]);
  return { canvas, draw };
}

/** Index of the cell under the pointer on the part that scrolls. */
function cellUnder(event: MouseEvent, geometry: GridGeometry, count: number): number | undefined {
  const { currentTarget: part } = event;
  const box = part.getBoundingClientRect();
  return cellAt(geometry, event.clientX - box.left, event.clientY - box.top + part.scrollTop, count);
}

function tipPlace(geometry: GridGeometry, index: number, scrollTop: number, width: number) {
  const left = (index % geometry.columns) * geometry.step;
  const top = Math.floor(index / geometry.columns) * geometry.step - scrollTop - 28;
  return left > width / 2 ? { right: width - left - geometry.size, top } : { left, top };
}

function reveal(element: HTMLElement | null, geometry: GridGeometry, index: number, height: number): void {
  if (!element) return;
  const top = Math.floor(index / geometry.columns) * geometry.step;
  if (top < element.scrollTop) element.scrollTop = top;
  else if (top + geometry.step > element.scrollTop + height) element.scrollTop = top + geometry.step - height;
}
