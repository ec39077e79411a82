/** Structures of little-endian numbers, written and read field by field. */
import { ContainerFault } from './bytes.ts';

const TWO_32 = 2 ** 32;
const encoder = new TextEncoder();

/** Fills a structure of a known size from its first byte on. */
export class StructWriter {
  readonly bytes: Uint8Array;
  private readonly view: DataView;
  private at = 0;

  constructor(size: number) {
    this.bytes = new Uint8Array(size);
    this.view = new DataView(this.bytes.buffer);
  }

  /** Goes on at this offset. */
  seek(offset: number): this {
    this.at = offset;
    return this;
  }

  u8(value: number): this {
    this.view.setUint8(this.at, value);
    return this.seek(this.at + 1);
  }

  u16(value: number): this {
    this.view.setUint16(this.at, value, true);
    return this.seek(this.at + 2);
  }

  u32(value: number): this {
    this.view.setUint32(this.at, value, true);
    return this.seek(this.at + 4);
  }

  /** A whole number below 2^53, as 64 bits. */
  u64(value: number): this {
    return this.u32(value % TWO_32).u32(Math.floor(value / TWO_32));
  }

  /** A whole number as 64 bits; all ones where there is none. */
  u64orNone(value: number | undefined): this {
    return value === undefined ? this.u32(0xffffffff).u32(0xffffffff) : this.u64(value);
  }

  raw(bytes: Uint8Array): this {
    this.bytes.set(bytes, this.at);
    return this.seek(this.at + bytes.length);
  }

  /** Text as UTF-8. */
  text(value: string): this {
    return this.raw(encoder.encode(value));
  }

  /** Text as UTF-16. */
  wide(value: string): this {
    for (let i = 0; i < value.length; i++) this.u16(value.charCodeAt(i));
    return this;
  }
}

/** Reads a structure. Every call throws `ContainerFault` when the bytes end before. */
export class StructReader {
  private readonly view: DataView;

  constructor(
    private readonly bytes: Uint8Array,
    private readonly what: string,
    private at = 0,
  ) {
    this.view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  seek(offset: number): this {
    this.at = offset;
    return this;
  }

  get left(): number {
    return this.bytes.length - this.at;
  }

  u8(): number {
    return this.view.getUint8(this.take(1));
  }

  u16(): number {
    return this.view.getUint16(this.take(2), true);
  }

  i16(): number {
    return this.view.getInt16(this.take(2), true);
  }

  u32(): number {
    return this.view.getUint32(this.take(4), true);
  }

  /** 64 bits as a number. Throws `ContainerFault` from 2^53 on: no true size or offset is that large. */
  u64(): number {
    const low = this.u32();
    const value = this.u32() * TWO_32 + low;
    if (!Number.isSafeInteger(value)) throw new ContainerFault(`${this.what} holds a number beyond 2^53`);
    return value;
  }

  /** 64 bits, where all ones stand for "there is none"; then -1. */
  u64orNone(): number {
    const from = this.at;
    if (this.u32() === 0xffffffff && this.u32() === 0xffffffff) return -1;
    return this.seek(from).u64();
  }

  raw(length: number): Uint8Array {
    const from = this.take(length);
    return this.bytes.subarray(from, from + length);
  }

  /** Text as UTF-8; bytes that are none become the replacement character. */
  text(length: number): string {
    return new TextDecoder().decode(this.raw(length));
  }

  private take(length: number): number {
    const from = this.at;
    if (from + length > this.bytes.length) throw new ContainerFault(`${this.what} is cut short`);
    this.at += length;
    return from;
  }
}
