/**
 * What a certificate that issues others allows below it (RFC 5280): whether its key may sign
 * certificates at all (4.2.1.3), how many issuers may follow (4.2.1.9), and for which names (4.2.1.10).
 */
import forge from 'node-forge';
import { children, childrenTagged, fromDer, oidOf, toDer, type Node } from './der.ts';

const { asn1, util } = forge;

const oids = {
  keyUsage: '2.5.29.15',
  subjectAltName: '2.5.29.17',
  basicConstraints: '2.5.29.19',
  nameConstraints: '2.5.29.30',
  email: '1.2.840.113549.1.9.1',
} as const;

/** The tag of a general name (4.2.1.6) that is a name in a directory, and of one that is an address. */
const DIRECTORY_NAME = 4;
const EMAIL = 1;
/** The bit of a key usage that allows to sign certificates, in its first byte. */
const KEY_CERT_SIGN = 0x04;

/** Why an issuer must not have led to those below it, or nothing. `below` from its own work down to the signer, as DER. */
export function issuerFault(issuer: Uint8Array, below: readonly Uint8Array[]): string | undefined {
  try {
    return faultOf(issuer, below);
  } catch {
    return 'what it allows cannot be read';
  }
}

function faultOf(issuer: Uint8Array, below: readonly Uint8Array[]): string | undefined {
  const usage = extension(issuer, oids.keyUsage);
  if (usage && !maySignCertificates(usage)) return 'its key usage does not include signing certificates';
  const named = below.map(certificateNames);
  const most = pathLength(extension(issuer, oids.basicConstraints));
  // The last one is the signer, and one that renews its own key does not count.
  const issuers = named.slice(0, -1).filter((one) => !one.isSelfIssued).length;
  if (most !== undefined && issuers > most)
    return `it allows ${most} issuers below it, and ${issuers} ${issuers === 1 ? 'is' : 'are'} there`;
  const constraints = extension(issuer, oids.nameConstraints);
  if (!constraints) return undefined;
  const judged = named.filter((one, i) => !one.isSelfIssued || i === named.length - 1);
  return judged.map((one) => nameFault(constraints, one)).find((fault) => fault !== undefined);
}

interface Names {
  readonly subject: Node | undefined;
  readonly isSelfIssued: boolean;
  /** Other names, by the tag of their kind. */
  readonly others: readonly { readonly kind: number; readonly node: Node }[];
}

function certificateNames(der: Uint8Array): Names {
  const [issuer, , subject] = fieldsOf(der).slice(2);
  const others = children(extension(der, oids.subjectAltName)).map((node) => ({
    kind: Number(node.type),
    node,
  }));
  const addresses = attributesOf(subject).filter(({ type }) => type === oids.email);
  return {
    subject,
    isSelfIssued: issuer !== undefined && subject !== undefined && isSame(issuer, subject),
    others: [...others, ...addresses.map(({ node }) => ({ kind: EMAIL, node }))],
  };
}

/** The fields of a certificate behind its version: serial, algorithm, issuer, validity, subject, key, extensions. */
function fieldsOf(der: Uint8Array): Node[] {
  const fields = children(children(fromDer(der))[0]);
  return fields[0]?.tagClass === asn1.Class.CONTEXT_SPECIFIC ? fields.slice(1) : fields;
}

/** What is in an extension of a certificate; undefined without it. Of others nothing is read: they may hold anything. */
function extension(der: Uint8Array, oid: string): Node | undefined {
  const [list] = childrenTagged(fieldsOf(der), 3);
  const parts = children(children(list).find((one) => oidOf(children(one)[0]) === oid));
  return parts.length === 0 ? undefined : asn1.fromDer(String(parts.at(-1)?.value ?? ''));
}

function maySignCertificates(usage: Node): boolean {
  // A bit string: how many bits of the last byte count for nothing, then the bits.
  const bits = typeof usage.value === 'string' ? usage.value.charCodeAt(1) : 0;
  return (bits & KEY_CERT_SIGN) !== 0;
}

function pathLength(constraints: Node | undefined): number | undefined {
  const length = children(constraints).find((node) => node.type === asn1.Type.INTEGER);
  if (!length || typeof length.value !== 'string') return undefined;
  // Whatever does not fit into four bytes is more than there are certificates.
  return length.value.length > 4 ? undefined : asn1.derToInteger(length.value);
}

function nameFault(constraints: Node, { subject, others }: Names): string | undefined {
  const parts = children(constraints);
  const permitted = childrenTagged(parts, 0).map(baseOf);
  const excluded = childrenTagged(parts, 1).map(baseOf);
  const limited = new Set([...permitted, ...excluded].map((base) => Number(base?.type)));
  const unjudged = others.find(({ kind }) => kind !== DIRECTORY_NAME && limited.has(kind));
  if (unjudged) return 'it limits names of a kind that is not judged here';
  const own = [
    subject,
    ...others.filter(({ kind }) => kind === DIRECTORY_NAME).map(({ node }) => children(node)[0]),
  ];
  const names = own.filter((name) => name !== undefined && children(name).length > 0) as Node[];
  const directories = (list: readonly (Node | undefined)[]) =>
    list.filter((base) => Number(base?.type) === DIRECTORY_NAME).map((base) => children(base)[0]);
  const isBelowOne = (name: Node, bases: readonly (Node | undefined)[]) =>
    bases.some((base) => base !== undefined && startsWith(name, base));
  const allowed = directories(permitted);
  for (const name of names) {
    if (isBelowOne(name, directories(excluded))) return `it excludes the name ${inWords(name)}`;
    if (allowed.length > 0 && !isBelowOne(name, allowed))
      return `it does not permit the name ${inWords(name)}`;
  }
  return undefined;
}

/** The name that a subtree begins at. */
function baseOf(subtree: Node): Node | undefined {
  return children(subtree)[0];
}

interface Attribute {
  readonly type: string;
  readonly node: Node;
}

/** The attributes of a name, in its order. */
function attributesOf(name: Node | undefined): Attribute[] {
  return children(name).flatMap((relative) =>
    children(relative).flatMap((pair) => {
      const [type, node] = children(pair);
      return node ? [{ type: oidOf(type), node }] : [];
    }),
  );
}

/** Names are equal whatever the case and the spaces in them (7.1). */
function textOf(node: Node): string {
  return decoded(node).trim().replace(/\s+/g, ' ').toLowerCase();
}

/** The text of an attribute: UTF-8, or a byte a character in the older kinds of string. */
function decoded({ value }: Node): string {
  const bytes = typeof value === 'string' ? value : '';
  try {
    return util.decodeUtf8(bytes);
  } catch {
    return bytes;
  }
}

function startsWith(name: Node, base: Node): boolean {
  const own = attributesOf(name);
  return attributesOf(base).every(
    ({ type, node }, i) => own[i]?.type === type && textOf(own[i].node) === textOf(node),
  );
}

function isSame(a: Node, b: Node): boolean {
  return toDer(a).join() === toDer(b).join();
}

function inWords(name: Node): string {
  return attributesOf(name)
    .map(({ node }) => decoded(node))
    .join(', ');
}
