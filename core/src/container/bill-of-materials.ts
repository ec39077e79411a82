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
