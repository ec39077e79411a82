/** Where in the interface the subject of a job (`line:<id>`, `pool:<id>`, `capture:<id>`) is worked on. */
const stations: Record<string, string> = {
  line: 'images',
  pool: 'pools',
  capture: 'packages/capture',
  'package-version': 'packages',
  installation: 'packages/installed',
  bulk: 'packages/bulk',
};

export function subjectAddress(subject: string): string {
  const [kind = '', id = ''] = subject.split(':');
  const station = stations[kind];
  return station === undefined ? '/' : `/${station}/${id}`;
}
