/** Keeps what is on screen current: the server names the topics that changed. */
import { useEffect } from 'react';
import type { Topic } from '@vatline/contract/home';
import { api } from './api.ts';
import { useAppDispatch } from './store.ts';

/** At a fast clock changes come many times a second; the eye needs no more than this. */
const PAUSE_MS = 350;

export function useLive(): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    const stream = new EventSource('/api/v1/live');
    const changed = new Set<Topic>();
    let timer: number | undefined;
    let lost = false;
    const flush = () => {
      timer = undefined;
      dispatch(api.util.invalidateTags([...changed]));
      changed.clear();
    };
    stream.onmessage = (message: MessageEvent<string>) => {
      for (const topic of JSON.parse(message.data) as Topic[]) changed.add(topic);
      timer ??= window.setTimeout(flush, PAUSE_MS);
    };
    // What changed while the stream was down is unknown, so everything is asked for again.
    stream.onerror = () => (lost = true);
    stream.onopen = () => {
      if (lost) dispatch(api.util.resetApiState());
      lost = false;
    };
    return () => {
      stream.close();
      window.clearTimeout(timer);
    };
  }, [dispatch]);
}
