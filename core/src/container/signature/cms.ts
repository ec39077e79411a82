/**
 * Detached signatures as CMS signed data (RFC 5652): one signer, its certificates along, over
 * content that is named by its SHA-256. The key itself is used by whoever calls; RSA
 * (PKCS #1 v1.5) and elliptic-curve keys are known.
 */
import forge from 'node-forge';
import { ok, refuse, type Result } from '../../result.ts';
import { binary, bytesOf, children, childrenTagged, fromDer, oidOf, toDer, type Node } from './der.ts';

const { asn1, util } = forge;

const oids = {
  data: '1.2.840.113549.1.7.1',
  signedData: '1.2.840.113549.1.7.2',
  contentType: '1.2.840.113549.1.9.3',
  messageDigest: '1.2.840.113549.1.9.4',
  signingTime: '1.2.840.113549.1.9.5',
  sha256: '2.16.840.1.101.3.4.2.1',
  rsa: '1.2.840.113549.1.1.1',
  sha256WithRsa: '1.2.840.113549.1.1.11',
  ecdsaWithSha256: '1.2.840.10045.4.3.2',
} as const;

export type KeyKind = 'rsa' | 'ec';

export interface SignatureRequest {
  /** SHA-256 of the content, in hex. */
  readonly digest: string;
  /** Milliseconds since 1970. */
  readonly signedAt: number;
  /** The signer's certificate first, then those above it, as DER. */
  readonly certificates: readonly [Uint8Array, ...Uint8Array[]];
  readonly keyKind: KeyKind;
  /** Signs these bytes with SHA-256. */
  readonly sign: (bytes: Uint8Array) => Uint8Array;
}

/** The DER of a detached signature, as in a `.p7s` file. */
export function signedData(request: SignatureRequest): Uint8Array {
  const attributes = signedAttributes(request);
  const signature = request.sign(toDer(set(attributes)));
  const signer = sequence([
    integer(1),
    issuerAndSerial(request.certificates[0]),
    algorithm(oids.sha256),
    context(0, attributes),
    request.keyKind === 'rsa' ? algorithm(oids.rsa) : sequence([oid(oids.ecdsaWithSha256)]),
    octets(signature),
  ]);
  const content = sequence([
    integer(1),
    set([algorithm(oids.sha256)]),
    sequence([oid(oids.data)]),
    context(0, request.certificates.map(fromDer)),
    set([signer]),
  ]);
  return toDer(sequence([oid(oids.signedData), context(0, [content])]));
}

/** In DER the members of a set are in the order of their bytes. */
function signedAttributes(request: SignatureRequest): Node[] {
  const digest = util.hexToBytes(request.digest);
  const attributes = [
    attribute(oids.contentType, oid(oids.data)),
    attribute(oids.signingTime, utcTime(new Date(request.signedAt))),
    attribute(oids.messageDigest, primitive(asn1.Type.OCTETSTRING, digest)),
  ];
  return attributes
    .map((node) => ({ node, der: asn1.toDer(node).getBytes() }))
    .sort((a, b) => (a.der < b.der ? -1 : 1))
    .map(({ node }) => node);
}

export interface ReadSignature {
  /** SHA-256 that was signed, in hex. */
  readonly digest: string;
  /** Milliseconds since 1970, as the signer says; nothing when it does not. */
  readonly signedAt?: number;
  readonly keyKind: KeyKind;
  /** What the signature is over. */
  readonly attributes: Uint8Array;
  readonly signature: Uint8Array;
  /** The signer's certificate. */
  readonly signer: Uint8Array;
  /** All certificates that came along, the signer's too. */
  readonly certificates: readonly Uint8Array[];
}

/** Reads a signature. Errors: no DER, no signed data, another digest than SHA-256, no signer's certificate. */
export function readSignedData(der: Uint8Array): Result<ReadSignature> {
  try {
    return readContent(fromDer(der));
  } catch {
    return refuse('signature', 'is not CMS signed data in DER');
  }
}

function readContent(outer: Node): Result<ReadSignature> {
  const [type, wrapped] = children(outer);
  if (oidOf(type) !== oids.signedData) return refuse('signature', 'is CMS, but not signed data');
  const parts = children(children(wrapped)[0]);
  const certificates = childrenTagged(parts, 0).map(toDer);
  const signers = children(parts.at(-1));
  const [signer] = signers;
  if (!signer || signers.length > 1) return refuse('signature', `has ${signers.length} signers; one is read`);
  const fields = children(signer);
  const [, sid, digestAlgorithm] = fields;
  const attributes = childrenTagged(fields, 0);
  if (oidOf(children(digestAlgorithm)[0]) !== oids.sha256)
    return refuse('signature', 'is over another digest than SHA-256');
  if (attributes.length === 0) return refuse('signature', 'has no signed attributes');
  const own = certificates.find((certificate) => isNamedBy(certificate, sid));
  if (!own) return refuse('signature', "does not bring the signer's certificate along");
  const [signatureAlgorithm, signature] = fields.slice(4);
  const keyKind = keyKindOf(oidOf(children(signatureAlgorithm)[0]));
  if (!keyKind) return refuse('signature', 'is made by an algorithm that is not known');
  const signedAt = timeIn(attributes);
  return ok({
    digest: util.bytesToHex(String(valueOf(attributes, oids.messageDigest)?.value ?? '')),
    ...(signedAt === undefined ? {} : { signedAt }),
    keyKind,
    attributes: toDer(set(attributes)),
    signature: bytesOf(String(signature?.value ?? '')),
    signer: own,
    certificates,
  });
}

function keyKindOf(algorithmOid: string): KeyKind | undefined {
  if (algorithmOid === oids.rsa || algorithmOid === oids.sha256WithRsa) return 'rsa';
  return algorithmOid === oids.ecdsaWithSha256 ? 'ec' : undefined;
}

function timeIn(attributes: readonly Node[]): number | undefined {
  const value = valueOf(attributes, oids.signingTime);
  if (!value) return undefined;
  const text = String(value.value);
  const date = value.type === asn1.Type.UTCTIME ? asn1.utcTimeToDate(text) : asn1.generalizedTimeToDate(text);
  return date.getTime();
}

function valueOf(attributes: readonly Node[], type: string): Node | undefined {
  const found = attributes.find((node) => oidOf(children(node)[0]) === type);
  return found && children(children(found)[1])[0];
}

/** Issuer and serial number of a certificate: the name by which a signature points to it. */
function issuerAndSerial(certificate: Uint8Array): Node {
  const fields = children(children(fromDer(certificate))[0]);
  // The version is there in all but the first one.
  const at = fields[0]?.tagClass === asn1.Class.CONTEXT_SPECIFIC ? 1 : 0;
  const [serial, , issuer] = fields.slice(at);
  if (!serial || !issuer) throw new Error('is no certificate');
  return sequence([issuer, serial]);
}

function isNamedBy(certificate: Uint8Array, sid: Node | undefined): boolean {
  return sid !== undefined && toHex(issuerAndSerial(certificate)) === toHex(sid);
}

function toHex(node: Node): string {
  return asn1.toDer(node).toHex();
}

function primitive(type: forge.asn1.Type, value: string): Node {
  return asn1.create(asn1.Class.UNIVERSAL, type, false, value);
}

function sequence(nodes: readonly Node[]): Node {
  return asn1.create(asn1.Class.UNIVERSAL, asn1.Type.SEQUENCE, true, [...nodes]);
}

function set(nodes: readonly Node[]): Node {
  return asn1.create(asn1.Class.UNIVERSAL, asn1.Type.SET, true, [...nodes]);
}

function context(tag: number, nodes: readonly Node[]): Node {
  return asn1.create(asn1.Class.CONTEXT_SPECIFIC, tag as forge.asn1.Type, true, [...nodes]);
}

function oid(text: string): Node {
  return primitive(asn1.Type.OID, asn1.oidToDer(text).getBytes());
}

function integer(value: number): Node {
  return primitive(asn1.Type.INTEGER, asn1.integerToDer(value).getBytes());
}

function octets(bytes: Uint8Array): Node {
  return primitive(asn1.Type.OCTETSTRING, binary(bytes));
}

function utcTime(date: Date): Node {
  return primitive(asn1.Type.UTCTIME, asn1.dateToUtcTime(date));
}

function algorithm(id: string): Node {
  return sequence([oid(id), primitive(asn1.Type.NULL, '')]);
}

function attribute(type: string, value: Node): Node {
  return sequence([oid(type), set([value])]);
}
