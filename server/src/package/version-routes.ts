/** What is done with a package version once its containers are built. */
import { packageEndpoints, type CheckFinding } from '@vatline/contract/package';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { offerRefusal } from './attach-check.ts';
import type { CertificateStore } from './certificates.ts';
import { allowed, versionNote } from './version-deed.ts';
import type { VerifyTask } from './container-worker.ts';
import type { OfferInput } from './offer-job.ts';
import { signVersion } from './sign-version.ts';
import type { PackageStore } from './store.ts';
import type { TrialInput } from './trial-job.ts';
import { containerWork } from './work.ts';

export function versionRoutes(
  door: Door,
  parts: Parts,
  store: PackageStore,
  certificates: CertificateStore,
): void {
  states(door, parts, store, certificates);
  toHosts(door, parts, store);
}

function states(door: Door, parts: Parts, store: PackageStore, certificates: CertificateStore): void {
  door.serve(packageEndpoints.choose, async ({ params: { id }, body: { format } }) => {
    const version = await store.versions.get(id);
    allowed(version, 'choose container');
    if (version.format === format) return DONE;
    const title = await store.versions.titleOf(version);
    return change(
      parts,
      async () => {
        // It may have been offered to hosts a moment ago.
        const state = allowed(await store.versions.get(id), 'choose container');
        await store.containers.choose(id, format, state);
        return DONE;
      },
      () => versionNote(version, `${title} comes as ${format} from now on`),
    );
  });

  door.serve(packageEndpoints.sign, async ({ params, body }) => {
    await signVersion(parts, store, certificates, params.id, body.certificateId);
    // The signature lies on its share as well.
    return DONE;
  });

  door.serve(packageEndpoints.verify, async ({ params }) => {
    const version = await store.versions.get(params.id);
    const title = await store.versions.titleOf(version);
    const findings = await verify(parts, store, certificates, version.digest);
    const holds = findings.every((finding) => finding.holds);
    const failed = findings.filter((finding) => !finding.holds).length;
    return change(
      parts,
      async () => {
        // Somebody may have signed or held it meanwhile.
        const now = await store.versions.get(version.id);
        if (now.digest !== version.digest || now.signed_ms !== version.signed_ms)
          throw conflict('It was changed while it was verified; verify it again');
        await store.versions.update(version.id, {
          verified_json: JSON.stringify(findings),
          verified_ms: parts.estate.clock.now(),
          state: allowed(now, holds ? 'found sound' : 'found unsound'),
        });
        return { holds, findings };
      },
      () =>
        versionNote(
          version,
          `${title} was verified: ${holds ? 'it holds' : `${failed} of ${findings.length} checks fail`}`,
        ),
    );
  });

  door.serve(packageEndpoints.setState, async ({ params, body: { state } }) => {
    const version = await store.versions.get(params.id);
    const title = await store.versions.titleOf(version);
    return change(
      parts,
      async () => {
        const now = await store.versions.get(params.id);
        const after = allowed(now, state === 'held' ? 'hold' : 'withdraw');
        await store.versions.update(version.id, { state: after });
        return DONE;
      },
      () => versionNote(version, `${title} is ${state}`),
    );
  });
}

function toHosts(door: Door, parts: Parts, store: PackageStore): void {
  door.serve(packageEndpoints.offer, async ({ params, body }) => {
    const version = await store.versions.get(params.id);
    allowed(version, 'offer');
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
