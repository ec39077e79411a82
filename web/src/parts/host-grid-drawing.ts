/** Draws the cells of a host grid: fill for what runs, corner for what comes, outline for state. */
import type { HostState } from '@vatline/core/rollout/host-state';
import { cellsInView, type GridGeometry } from './host-grid-geometry.ts';
import type { GridCell } from './host-grid.tsx';
import { dyePattern } from './hatch.ts';

interface Drawing {
  readonly cells: readonly GridCell[];
  readonly geometry: GridGeometry;
  readonly width: number;
  readonly height: number;
  readonly scrollTop: number;
  readonly pointed: number | undefined;
}

interface Colours {
  readonly ink: string;
  readonly sheet: string;
  readonly trouble: string;
}

export function drawCells(context: CanvasRenderingContext2D, drawing: Drawing): void {
  const { geometry, width, height, scrollTop, cells } = drawing;
  const scale = window.devicePixelRatio || 1;
  const { canvas } = context;
  if (canvas.width !== Math.round(width * scale) || canvas.height !== Math.round(height * scale)) {
    canvas.width = Math.round(width * scale);
    canvas.height = Math.round(height * scale);
    canvas.style.width = `${width}px`;
    canvas.style.height = `${height}px`;
  }
  context.setTransform(scale, 0, 0, scale, 0, 0);
  context.clearRect(0, 0, width, height);
  const style = getComputedStyle(document.documentElement);
  const read = (name: string) => style.getPropertyValue(name).trim();
  const colours: Colours = { ink: read('--ink'), sheet: read('--sheet'), trouble: read('--trouble') };
  const [first, last] = cellsInView(geometry, scrollTop, height, cells.length);
  for (let i = first; i < last; i++) {
    const cell = cells[i];
    if (!cell) continue;
    const x = (i % geometry.columns) * geometry.step;
    const y = Math.floor(i / geometry.columns) * geometry.step - scrollTop;
    drawCell(context, cell, x, y, geometry.size, colours, i === drawing.pointed);
  }
}

function drawCell(
  context: CanvasRenderingContext2D,
  cell: GridCell,
  x: number,
  y: number,
  size: number,
  colours: Colours,
  pointed: boolean,
): void {
  context.save();
  context.translate(x, y);
  context.fillStyle = dyePattern(context, cell.dye);
  context.globalAlpha = cell.state === 'in service' || cell.state === 'failed' ? 1 : 0.55;
  context.fillRect(0.5, 0.5, size - 1, size - 1);
  context.globalAlpha = 1;
  if (cell.next && cell.next !== cell.dye) drawCorner(context, cell, size, colours);
  drawState(context, cell.state, size, colours);
  if (pointed) {
    context.setLineDash([]);
    context.lineWidth = 2;
    context.strokeStyle = colours.ink;
    context.strokeRect(0, 0, size, size);
  }
  context.restore();
}

/** A light edge keeps the corner apart from a fill of the same lightness. */
function drawCorner(context: CanvasRenderingContext2D, cell: GridCell, size: number, colours: Colours): void {
  const side = Math.round(size * 0.52);
  context.beginPath();
  context.moveTo(size - side, 0.5);
  context.lineTo(size - 0.5, 0.5);
  context.lineTo(size - 0.5, side);
  context.closePath();
  if (cell.next) context.fillStyle = dyePattern(context, cell.next);
  context.fill();
  context.strokeStyle = colours.sheet;
  context.lineWidth = 1.2;
  context.stroke();
}

function drawState(
  context: CanvasRenderingContext2D,
  state: HostState,
  size: number,
  colours: Colours,
): void {
  context.lineWidth = 1;
  context.strokeStyle = colours.ink;
  context.setLineDash(state === 'draining' ? [3, 2] : state === 'held' ? [1, 2] : []);
  context.globalAlpha = state === 'in service' ? 0.35 : 1;
  context.strokeRect(0.5, 0.5, size - 1, size - 1);
  context.globalAlpha = 1;
  context.setLineDash([]);
  if (state === 'failed') {
    context.strokeStyle = colours.trouble;
    context.lineWidth = 2;
    context.strokeRect(1, 1, size - 2, size - 2);
    context.beginPath();
    context.moveTo(2, 2);
    context.lineTo(size - 2, size - 2);
    context.moveTo(size - 2, 2);
    context.lineTo(2, size - 2);
    context.stroke();
  } else if (['rebuilding', 'attaching', 'joining', 'verifying'].includes(state)) {
    // A bar that grows with the stages: rebuilt, joined, attached, verified.
    const share = { rebuilding: 0.25, joining: 0.5, attaching: 0.7, verifying: 0.9 }[state as 'rebuilding'];
    context.fillStyle = colours.sheet;
    context.fillRect(2, size - 6, size - 4, 4);
    context.fillStyle = colours.ink;
    context.fillRect(2, size - 6, (size - 4) * share, 4);
  }
}
