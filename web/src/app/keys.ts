/** Keys that work everywhere. Those that type into a field are left alone. */
import { useEffect } from 'react';
import { useNavigate } from 'react-router';
import { toggled } from '../shell/layout.ts';
import { stations } from './stations.ts';
import { useAppDispatch } from '../shell/store.ts';

function isTyping(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ['INPUT', 'TEXTAREA', 'SELECT'].includes(target.tagName))
  );
}

/** Moves through the rack by following its links. */
function stepRack(by: number): void {
  const links = [...document.querySelectorAll<HTMLAnchorElement>('.rack-item')];
  const at = links.findIndex((link) => link.hasAttribute('aria-current'));
  links[Math.max(0, Math.min(links.length - 1, at + by))]?.click();
}

export function useKeys(): void {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  useEffect(() => {
    const plain: Record<string, () => void> = {
      h: () => void navigate('/'),
      '/': () => document.querySelector<HTMLInputElement>('.rack-filter')?.focus(),
      '[': () => dispatch(toggled('rackFolded')),
      ']': () => dispatch(toggled('tapeFolded')),
      '?': () => dispatch(toggled('keysOpen')),
      j: () => stepRack(1),
      k: () => stepRack(-1),
      c: () => document.querySelector<HTMLAnchorElement>('.tabs a[href$="/compare"]')?.click(),
      e: () => document.querySelector<HTMLElement>('[data-edit]')?.click(),
    };
    stations.forEach((station, i) => (plain[String(i + 1)] = () => void navigate(`/${station.path}`)));
    const onKey = (event: KeyboardEvent) => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        dispatch(toggled('searchOpen'));
        return;
      }
      if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
      const act = plain[event.key];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [dispatch, navigate]);
}
