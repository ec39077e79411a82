/** What is done with a package version once its containers are built. */
import { statSync } from 'node:fs';
import { Readable } from 'node:stream';
import { packageEndpoints, type CheckFinding, packageFileEndpoints } from '@vatline/contract/package';
import { openContainer } from '@vatline/files/open-container';
import { tarFolder } from '@vatline/files/tar-folder';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import { sendFile, sendStream } from '../platform/send-stream.ts';
import { offerRefusal } from './attach-check.ts';
import type { CertificateStore } from './certificates.ts';
import type { VerifyTask } from './container-worker.ts';
import type { OfferInput } from './offer-job.ts';
import { signVersion } from './sign-version.ts';
import type { PackageStore } from './store.ts';
import type { TrialInput } from './trial-job.ts';
import { containerWork } from './work.ts';

const endings = { squashfs: '.squashfs', vhdx: '.vhdx', 'vhdx-fixed': '.vhdx', oci: '.oci.tar' } as const;

export function versionRoutes(
  door: Door,
  parts: Parts,
  store: PackageStore,
  certificates: CertificateStore,
): void {
  door.serve(packageEndpoints.choose, async ({ params, body }) => {
    const version = await store.versions.get(params.id);
    if (version.state !== 'draft' && version.state !== 'verified')
      throw conflict(`It is ${version.state}; what hosts have got is not changed under them`);
    if (version.format !== body.format) await store.containers.choose(params.id, body.format);
    return { done: true as const };
  });

  door.serve(packageEndpoints.sign, async ({ params, body }) => {
    await signVersion(parts, store, certificates, params.id, body.certificateId);
    // The signature lies on its share as well.
    return { done: true as const };
  });

  door.serve(packageEndpoints.verify, async ({ params }) => {
    const version = await store.versions.get(params.id);
    const findings = await verify(parts, store, certificates, version.digest);
    const holds = findings.every((finding) => finding.holds);
    await store.versions.update(version.id, {
      verified_json: JSON.stringify(findings),
      verified_ms: parts.estate.clock.now(),
      ...(version.state === 'draft' && holds ? { state: 'verified' } : {}),
      ...(version.state === 'verified' && !holds ? { state: 'draft' } : {}),
    });
    return { holds, findings };
  });

  door.serve(packageEndpoints.setState, async ({ params, body }) => {
    const version = await store.versions.get(params.id);
    if (version.state === 'draft')
      throw conflict('It is a draft, which no host has; there is nothing to hold');
    await store.versions.update(version.id, { state: body.state });
    return { done: true as const };
  });

  door.serve(packageEndpoints.offer, async ({ params, body }) => {
    const version = await store.versions.get(params.id);
    if (version.state === 'draft') throw conflict('It has not been verified; sign it and verify it first');
    if (version.state === 'withdrawn') throw conflict('It is withdrawn; build and verify another version');
    const refusal = await offerRefusal(parts, version.signer_pem);
    if (refusal !== undefined) throw conflict(`Hosts would not attach it: it ${refusal}`);
    const share = await shareFor(parts, version, body.share);
    const input: OfferInput = { versionId: version.id, share };
    const jobId = await parts.jobs.start({
      kind: 'offer',
      title: `Offer ${await store.versions.titleOf(version)} to hosts`,
      subject: `package-version:${version.id}`,
      input,
    });
    return { jobId };
  });

  door.serve(packageEndpoints.trial, async ({ params, body }) => {
    const version = await store.versions.get(params.id);
    const host = await parts.db
      .selectFrom('host')
      .select('name')
      .where('name', '=', body.host)
      .executeTakeFirst();
    if (!host) throw invalid([{ path: 'host', message: `There is no host ${body.host}` }]);
    if (version.share === null) throw conflict('It is on no share; offer it to hosts first');
    const input: TrialInput = { versionId: version.id, host: host.name };
    const jobId = await parts.jobs.start({
      kind: 'trial',
      title: `Try ${await store.versions.titleOf(version)} on ${host.name}`,
      subject: `package-version:${version.id}`,
      input,
    });
    return { jobId };
  });

  door.serve(packageEndpoints.contents, async ({ params }) => {
    const version = await store.versions.get(params.id);
    const container = await openContainer(store.containers.path(version.digest));
    try {
      return container.tree.entries.map(({ path, kind, size, target }) => ({
        path,
        kind,
        size,
        target: target ?? '',
      }));
    } finally {
      container.close();
    }
  });

  door.serveRaw(packageFileEndpoints.file, async ({ params, query, response }) => {
    const version = await store.versions.get(params.id);
    const wanted = query.path;
    const container = await openContainer(store.containers.path(version.digest));
    try {
      const entry = container.tree.entries.find((one) => one.path === wanted && one.kind === 'file');
      if (!entry) throw notFound(`file in the container: ${wanted}`);
      response
        .attachment(wanted.slice(wanted.lastIndexOf('/') + 1))
        .type('application/octet-stream')
        .set('content-length', String(entry.size));
      await sendStream(Readable.from(container.tree.read(entry, 1 << 18)), response);
    } finally {
      container.close();
    }
  });

  door.serveRaw(packageFileEndpoints.container, async ({ params, response }) => {
    const version = await store.versions.get(params.id);
    const path = store.containers.path(version.digest);
    const name = version.digest.slice(0, 12);
    response.attachment(`${name}${endings[version.format as keyof typeof endings]}`);
    if (statSync(path).isDirectory())
      await sendStream(tarFolder(path, `${name}.oci`), response.type('application/x-tar'));
    else await sendFile(path, response.type('application/octet-stream'));
  });
}

async function verify(
  parts: Parts,
  store: PackageStore,
  certificates: CertificateStore,
  digest: string,
): Promise<CheckFinding[]> {
  const stores = await certificates.trustByPool();
  const task: VerifyTask = {
    container: store.containers.path(digest),
    trust: [...stores].map(([pool, trusted]) => ({ pool, pem: trusted.map(String).join('\n') })),
    at: parts.estate.clock.now(),
  };
  return containerWork(parts, 'verifyForPools', task);
}

/** The share that was asked for; else where it or its package lies already; else the cheapest. */
async function shareFor(
  { db, estate }: Parts,
  version: { readonly package_id: string; readonly share: string | null },
  wanted: string | undefined,
): Promise<string> {
  const shares = await estate.share.shares();
  if (wanted !== undefined) {
    if (!shares.some((share) => share.name === wanted))
      throw invalid([{ path: 'share', message: `There is no share ${wanted}` }]);
    return wanted;
  }
  const sibling = await db
    .selectFrom('package_version')
    .select('share')
    .where('package_id', '=', version.package_id)
    .where('share', 'is not', null)
    .orderBy('built_ms', 'desc')
    .executeTakeFirst();
  const share = version.share ?? sibling?.share ?? [...shares].sort((a, b) => a.price - b.price)[0]?.name;
  if (share === undefined) throw conflict('There is no file share that hosts could read it from');
  return share;
}
