/** Draws a dye: its colour with its hatch, on a canvas or as a picture for the page. */
import { dye, type DyeName, type Hatch } from '@vatline/core/dye/dyes';

const TILE = 8;

function stroke(
  context: CanvasRenderingContext2D,
  lines: readonly (readonly [number, number, number, number])[],
): void {
  context.beginPath();
  for (const [x1, y1, x2, y2] of lines) {
    context.moveTo(x1, y1);
    context.lineTo(x2, y2);
  }
  context.stroke();
}

function drawHatch(context: CanvasRenderingContext2D, hatch: Hatch): void {
  const rising = [
    [-2, 10, 10, -2],
    [-6, 6, 6, -6],
    [2, 14, 14, 2],
  ] as const;
  const falling = [
    [-2, -2, 10, 10],
    [-6, 2, 6, 14],
    [2, -6, 14, 6],
  ] as const;
  switch (hatch) {
    case 'rising':
      return stroke(context, rising);
    case 'falling':
      return stroke(context, falling);
    case 'crossed':
      return stroke(context, [...rising, ...falling]);
    case 'level':
      return stroke(context, [
        [0, 2, 8, 2],
        [0, 6, 8, 6],
      ]);
    case 'upright':
      return stroke(context, [
        [2, 0, 2, 8],
        [6, 0, 6, 8],
      ]);
    case 'dotted':
      context.fillStyle = context.strokeStyle;
      for (const [x, y] of [
        [1, 1],
        [5, 5],
      ] as const)
        context.fillRect(x, y, 2, 2);
  }
}

const tiles = new Map<DyeName, HTMLCanvasElement>();

/** One tile of a dye, to be repeated. */
export function dyeTile(name: DyeName): HTMLCanvasElement {
  const known = tiles.get(name);
  if (known) return known;
  const { colour, line, hatch } = dye(name);
  const scale = Math.max(1, Math.round(window.devicePixelRatio));
  const tile = document.createElement('canvas');
  tile.width = tile.height = TILE * scale;
  const context = tile.getContext('2d');
  if (context) {
    context.scale(scale, scale);
    context.fillStyle = colour;
    context.fillRect(0, 0, TILE, TILE);
    context.strokeStyle = line;
    context.lineWidth = 1;
    drawHatch(context, hatch);
  }
  tiles.set(name, tile);
  return tile;
}

const pictures = new Map<DyeName, string>();

/** A dye as a CSS background. */
export function dyeBackground(name: DyeName): string {
  let picture = pictures.get(name);
  if (!picture) pictures.set(name, (picture = `url(${dyeTile(name).toDataURL()}) 0 0 / ${TILE}px ${TILE}px`));
  return picture;
}

/** A dye as a pattern for drawing. */
export function dyePattern(context: CanvasRenderingContext2D, name: DyeName): CanvasPattern | string {
  return context.createPattern(dyeTile(name), 'repeat') ?? dye(name).colour;
}
