/** Bill of materials of a container: CycloneDX 1.6 JSON, one component for each file. */

export interface PackedFile {
  readonly path: string;
  readonly size: number;
  readonly sha256: string;
}

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
    })),
  });
}

/** The files that a bill of materials lists; none when it is not JSON. Sizes are not in it. */
export function filesOfBom(text: string): { readonly path: string; readonly sha256: string }[] {
  let bom: { components?: { type?: string; name?: string; hashes?: { content?: string }[] }[] };
  try {
    bom = JSON.parse(text) as typeof bom;
  } catch {
    return [];
  }
  return (bom.components ?? []).flatMap((component) =>
    component.type === 'file'
      ? [{ path: component.name ?? '', sha256: component.hashes?.[0]?.content ?? '' }]
      : [],
  );
}
