/** DER (ITU-T X.690) as a tree: reading and writing its nodes. */
import forge from 'node-forge';

const { asn1, util } = forge;
export type Node = forge.asn1.Asn1;

export function children(node: Node | undefined): Node[] {
  return Array.isArray(node?.value) ? node.value : [];
}

/** What is in the part with this tag, among others that have none. */
export function childrenTagged(parts: readonly Node[], tag: number): Node[] {
  return children(
    parts.find((node) => node.tagClass === asn1.Class.CONTEXT_SPECIFIC && Number(node.type) === tag),
  );
}

/** The object identifier that a node is; empty for any other node. */
export function oidOf(node: Node | undefined): string {
  return typeof node?.value === 'string' && node.type === asn1.Type.OID ? asn1.derToOid(node.value) : '';
}

export function binary(bytes: Uint8Array): string {
  return util.binary.raw.encode(bytes);
}

export function bytesOf(text: string): Uint8Array {
  return Uint8Array.from(text, (char) => char.charCodeAt(0));
}

/** Throws for bytes that are no DER. */
export function fromDer(der: Uint8Array): Node {
  return asn1.fromDer(binary(der));
}

export function toDer(node: Node): Uint8Array {
  return bytesOf(asn1.toDer(node).getBytes());
}
