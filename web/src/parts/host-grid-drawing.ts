/**
 * Draws the cells of a host grid: fill for what runs, corner for what comes, outline for state.
 * Few looks are shared by many hosts, so each is painted once and copied: panning copies only.
 */
import type { DyeName } from '@vatline/core/dye/dyes';
import type { HostState } from '@vatline/core/pool/service-state';
import { cellsInView, type GridGeometry } from './host-grid-geometry.ts';
import { dyePattern } from './hatch.ts';

export interface GridCell {
  readonly id: string;
  readonly name: string;
  readonly dye: DyeName;
  /** What it is to run, shown as a corner. */
  readonly next: DyeName | null;
  readonly state: HostState;
}

interface Drawing {
  readonly cells: readonly GridCell[];
  readonly geometry: GridGeometry;
  readonly width: number;
  readonly height: number;
  readonly scrollTop: number;
  readonly pointed: number | undefined;
  readonly dark: boolean;
}

interface Colours {
  readonly ink: string;
  readonly sheet: string;
  readonly trouble: string;
}

export function drawCells(context: CanvasRenderingContext2D, drawing: Drawing): void {
  const { geometry, width, height, scrollTop, cells } = drawing;
  const scale = window.devicePixelRatio || 1;
  fitCanvas(context.canvas, width, height, scale);
  context.setTransform(scale, 0, 0, scale, 0, 0);
  context.clearRect(0, 0, width, height);
  const looks = looksFor(geometry.size, scale, drawing.dark);
  const [first, last] = cellsInView(geometry, scrollTop, height, cells.length);
  for (let i = first; i < last; i++) {
    const cell = cells[i];
    if (!cell) continue;
    const x = (i % geometry.columns) * geometry.step;
    const y = Math.floor(i / geometry.columns) * geometry.step - scrollTop;
    context.drawImage(looks.of(cell), x, y, geometry.size, geometry.size);
    if (i === drawing.pointed) outline(context, x, y, geometry.size, looks.colours.ink);
  }
}

function fitCanvas(canvas: HTMLCanvasElement, width: number, height: number, scale: number): void {
  const [w, h] = [Math.round(width * scale), Math.round(height * scale)];
  if (canvas.width === w && canvas.height === h) return;
  canvas.width = w;
  canvas.height = h;
  canvas.style.width = `${width}px`;
  canvas.style.height = `${height}px`;
}

function outline(context: CanvasRenderingContext2D, x: number, y: number, size: number, ink: string): void {
  context.strokeStyle = ink;
  context.lineWidth = 2;
  context.strokeRect(x, y, size, size);
}

interface Looks {
  readonly colours: Colours;
  of(cell: GridCell): HTMLCanvasElement;
}

const known = new Map<string, Looks>();

/** The painted looks for a size, a resolution and a theme, whose colours are read from the page once. */
function looksFor(size: number, scale: number, dark: boolean): Looks {
  const key = `${size} ${scale} ${dark}`;
  let looks = known.get(key);
  if (!looks) {
    const style = getComputedStyle(document.documentElement);
    const read = (name: string) => style.getPropertyValue(name).trim();
    const colours = { ink: read('--ink'), sheet: read('--sheet'), trouble: read('--trouble') };
    known.set(key, (looks = newLooks(size, scale, colours)));
  }
  return looks;
}

function newLooks(size: number, scale: number, colours: Colours): Looks {
  const painted = new Map<string, HTMLCanvasElement>();
  return {
    colours,
    of: (cell) => {
      const key = `${cell.dye} ${cell.next ?? ''} ${cell.state}`;
      let look = painted.get(key);
      if (!look) painted.set(key, (look = paintLook(cell, size, scale, colours)));
      return look;
    },
  };
}

function paintLook(cell: GridCell, size: number, scale: number, colours: Colours): HTMLCanvasElement {
  const canvas = document.createElement('canvas');
  canvas.width = canvas.height = Math.round(size * scale);
  const context = canvas.getContext('2d');
  if (!context) return canvas;
  context.scale(scale, scale);
  context.fillStyle = dyePattern(context, cell.dye);
  context.globalAlpha = cell.state === 'in service' || cell.state === 'failed' ? 1 : 0.55;
  // A host that is off is hollow: its dye shows in a narrow edge only.
  if (cell.state === 'off') context.fillStyle = colours.sheet;
  context.fillRect(0.5, 0.5, size - 1, size - 1);
  if (cell.state === 'off') {
    context.strokeStyle = dyePattern(context, cell.dye);
    context.lineWidth = 3;
    context.strokeRect(2, 2, size - 4, size - 4);
  }
  context.globalAlpha = 1;
  if (cell.next && cell.next !== cell.dye) drawCorner(context, cell, size, colours);
  drawState(context, cell.state, size, colours);
  return canvas;
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
