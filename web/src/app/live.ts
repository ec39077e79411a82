/** Keeps what is on screen current: the server names the topics that changed. */
import { useEffect } from 'react';
import { topicKinds, type Topic } from '@vatline/contract/topics';
import { api, tagsOfNews } from '../api/base.ts';
import { useAppDispatch } from '../shell/store.ts';

/** At a fast clock changes come many times a second; the eye needs no more than this. */
const PAUSE_MS = 350;

export function useLive(): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    let stream: EventSource | undefined;
    const changed = new Set<Topic>();
    let timer: number | undefined;
    let lost = false;
    const flush = () => {
      timer = undefined;
      dispatch(api.util.invalidateTags(tagsOfNews([...changed])));
      changed.clear();
    };
    const open = () => {
      stream = new EventSource('/api/v1/live');
      stream.onmessage = (message: MessageEvent<string>) => {
        for (const topic of JSON.parse(message.data) as Topic[]) changed.add(topic);
        timer ??= window.setTimeout(flush, PAUSE_MS);
      };
      // What changed while the stream was down is unknown, so everything is asked for again.
      stream.onerror = () => (lost = true);
      stream.onopen = () => {
        if (lost) dispatch(api.util.invalidateTags([...topicKinds]));
        lost = false;
      };
    };
    // A page that the browser keeps for "back" would keep its connection too, and there are only six.
    const onHide = () => {
      stream?.close();
      lost = true;
    };
    const onShow = (event: PageTransitionEvent) => event.persisted && open();
    open();
    window.addEventListener('pagehide', onHide);
    window.addEventListener('pageshow', onShow);
    return () => {
      stream?.close();
      window.removeEventListener('pagehide', onHide);
      window.removeEventListener('pageshow', onShow);
      window.clearTimeout(timer);
    };
  }, [dispatch]);
}
