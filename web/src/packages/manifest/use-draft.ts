/** The manifest in the making: what was guessed and changed, kept on the server as it is typed. */
import { useCallback, useEffect, useRef, useState } from 'react';
import type { CaptureDraft } from '@vatline/contract/capture';
import { usualAttach, type PackageManifest } from '@vatline/core/container/manifest';
import { packagesApi } from '../../api/packages.ts';

const KEEP_AFTER_MS = 500;

export interface Draft {
  readonly manifest: PackageManifest;
  readonly updatersOff: boolean;
  /** Where guesses come from that nobody has looked at yet, by path in the manifest. */
  readonly guesses: Readonly<Record<string, string>>;
  /** Changes parts of the manifest; what is changed by hand is no guess any more. */
  change(part: Partial<PackageManifest>, path: string): void;
  confirm(...paths: string[]): void;
  setUpdatersOff(off: boolean): void;
}

type Kept = Omit<CaptureDraft, 'manifest'> & { readonly manifest: PackageManifest };

export function useDraft(captureId: string, skip: boolean): Draft | undefined {
  const { data } = packagesApi.useDraftQuery({ params: { id: captureId } }, { skip });
  const [keep] = packagesApi.useKeepDraftMutation();
  const [own, setOwn] = useState<Kept>();
  const waiting = useRef<{ timer: ReturnType<typeof setTimeout>; send: () => void }>(undefined);
  // What was typed last is sent even when somebody leaves at once.
  useEffect(() => {
    const flush = () => {
      if (!waiting.current) return;
      clearTimeout(waiting.current.timer);
      waiting.current.send();
    };
    window.addEventListener('pagehide', flush);
    return () => {
      window.removeEventListener('pagehide', flush);
      flush();
    };
  }, []);
  const draft = own ?? (data && keptOf(data));
  const set = useCallback(
    (next: Kept, isTyped: boolean) => {
      setOwn(next);
      if (waiting.current) clearTimeout(waiting.current.timer);
      const send = () => {
        waiting.current = undefined;
        void keep({ params: { id: captureId }, body: { ...next, manifest: { ...next.manifest } } });
      };
      // One click is kept at once; letters wait for the next ones.
      if (isTyped) waiting.current = { timer: setTimeout(send, KEEP_AFTER_MS), send };
      else send();
    },
    [captureId, keep],
  );
  if (!draft || !data) return undefined;
  const confirmed = new Set(draft.confirmed);
  return {
    manifest: draft.manifest,
    updatersOff: draft.updatersOff,
    guesses: Object.fromEntries(Object.entries(data.sources).filter(([path]) => !confirmed.has(path))),
    change: (part, path) =>
      set(
        {
          ...draft,
          manifest: { ...draft.manifest, ...part },
          confirmed: [...new Set([...draft.confirmed, path])],
        },
        true,
      ),
    confirm: (...paths) => set({ ...draft, confirmed: [...new Set([...draft.confirmed, ...paths])] }, false),
    setUpdatersOff: (updatersOff) => set({ ...draft, updatersOff }, false),
  };
}

function keptOf({ manifest, confirmed, updatersOff }: CaptureDraft): Kept {
  const said = manifest as Partial<PackageManifest>;
  return {
    confirmed,
    updatersOff,
    manifest: { name: '', publisher: '', version: '', entryPoints: [], attach: usualAttach, ...said },
  };
}
