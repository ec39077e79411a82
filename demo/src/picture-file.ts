/** Pictures of made-up applications: a coloured tile with a mark that comes from the name. */
import { PNG } from 'pngjs';
import { StructWriter } from '@vatline/core/container/struct';
import { hash32 } from '@vatline/core/random';

/** A picture as PNG. A mirrored pattern of eight by eight, in a colour of the name's. */
export function tilePng(name: string, size: number, height = size): Buffer {
  const seed = hash32(name);
  const [red, green, blue] = [60 + (seed % 120), 60 + ((seed >>> 8) % 120), 60 + ((seed >>> 16) % 120)];
  const png = new PNG({ width: size, height });
  for (let y = 0; y < height; y++)
    for (let x = 0; x < size; x++) {
      const column = Math.floor((x * 8) / size);
      const row = Math.floor((y * 8) / height);
      const mirrored = column < 4 ? column : 7 - column;
      const isMark = row > 0 && row < 7 && mirrored > 0 && hash32(`${name} ${mirrored} ${row}`) % 2 === 0;
      png.data.set(isMark ? [250, 246, 236, 255] : [red, green, blue, 255], (y * size + x) * 4);
    }
  return PNG.sync.write(png);
}

/** An ICO file of PNG pictures. */
export function iconFile(pictures: readonly { readonly size: number; readonly png: Uint8Array }[]): Buffer {
  const head = new StructWriter(6 + pictures.length * 16).u16(0).u16(1).u16(pictures.length);
  let at = head.bytes.length;
  for (const { size, png } of pictures) {
    head
      .u8(size % 256)
      .u8(size % 256)
      .u8(0)
      .u8(0)
      .u16(1)
      .u16(32)
      .u32(png.length)
      .u32(at);
    at += png.length;
  }
  return Buffer.concat([head.bytes, ...pictures.map((picture) => picture.png)]);
}
