/** Bill of materials of a container: CycloneDX 1.6 JSON, one component for each file. */

export interface PackedFile {
  readonly path: string;
  readonly size: number;
  readonly sha256: string;
}

const SIZE = 'vatline:size';

export function billOfMaterials(
  subject: { readonly name: string; readonly version: string; readonly publisher: string },
  files: readonly PackedFile[],
): string {
  return JSON.stringify({
    bomFormat: 'CycloneDX',
    specVersion: '1.6',
    version: 1,
    metadata: {
      component: {
        type: 'application',
        'bom-ref': `${subject.name}@${subject.version}`,
        name: subject.name,
        version: subject.version,
        ...(subject.publisher ? { publisher: subject.publisher } : {}),
      },
    },
    components: files.map((file) => ({
      type: 'file',
      'bom-ref': `file:${file.path}`,
      name: file.path,
      hashes: [{ alg: 'SHA-256', content: file.sha256 }],
      // The format has no place for a size; properties are for what it lacks.
      properties: [{ name: SIZE, value: String(file.size) }],
    })),
  });
}

/** The files that a bill of materials lists; none when it is not JSON. A size that is not in it is 0. */
export function filesOfBom(text: string): PackedFile[] {
  let bom: {
    components?: {
      type?: string;
      name?: string;
      hashes?: { content?: string }[];
      properties?: { name?: string; value?: string }[];
    }[];
  };
  try {
    bom = JSON.parse(text) as typeof bom;
  } catch {
    return [];
  }
  return (bom.components ?? []).flatMap(({ type, name = '', hashes, properties }) => {
    if (type !== 'file') return [];
    const size = Number(properties?.find((property) => property.name === SIZE)?.value);
    return [{ path: name, size: Number.isSafeInteger(size) ? size : 0, sha256: hashes?.[0]?.content ?? '' }];
  });
}
