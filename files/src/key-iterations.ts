/** How slow a key file is to open: its maker says how often a password is hashed, and may say anything. */
import forge from 'node-forge';
import { InputError } from './input-error.ts';

/** Ten times what careful tools ask for; opening takes seconds then. */
export const MAX_ITERATIONS = 600_000;
/** Structures inside structures; real files have a dozen. */
const MAX_DEPTH = 40;

/** Throws `InputError` when anything in a PKCS #12 or an encrypted PKCS #8 asks for too many iterations. */
export function refuseSlowKeys(subject: string, root: forge.asn1.Asn1): void {
  const most = mostIterations(root, 0);
  if (most > MAX_ITERATIONS)
    throw InputError.of(
      subject,
      `asks for ${most.toLocaleString('en-GB')} iterations to be opened; at most ${MAX_ITERATIONS.toLocaleString('en-GB')} are done, so export it anew`,
    );
}

/**
 * In every structure that has them (PBKDF2 of RFC 8018, the encryption and the MAC of RFC 7292) the
 * iterations stand right after the salt, an octet string.
 */
function mostIterations(node: forge.asn1.Asn1, depth: number): number {
  if (depth > MAX_DEPTH) return Infinity;
  let most = 0;
  const children = Array.isArray(node.value) ? node.value : nested(node);
  children.forEach((child, i) => {
    const before = children[i - 1];
    if (child.type === forge.asn1.Type.INTEGER && before?.type === forge.asn1.Type.OCTETSTRING)
      most = Math.max(most, integer(child));
    most = Math.max(most, mostIterations(child, depth + 1));
  });
  return most;
}

/** PKCS #12 wraps its parts in octet strings. */
function nested(node: forge.asn1.Asn1): forge.asn1.Asn1[] {
  if (node.type !== forge.asn1.Type.OCTETSTRING || typeof node.value !== 'string') return [];
  try {
    return [forge.asn1.fromDer(node.value)];
  } catch {
    return [];
  }
}

function integer(node: forge.asn1.Asn1): number {
  const bytes = typeof node.value === 'string' ? node.value : '';
  let value = 0;
  for (const char of bytes) value = value * 256 + char.charCodeAt(0);
  return value;
}
