/** The published schema of CycloneDX 1.6, by the library's own validator. */
import { Spec, Validation } from '@cyclonedx/cyclonedx-library';

const strict = new Validation.JsonStrictValidator(Spec.Version.v1dot6);

/** What is wrong with a bill of materials; null when it is valid. */
export function bomFaults(text: string): Promise<unknown> {
  return strict.validate(text);
}
