import { useSyncExternalStore } from 'react';

const key = 'fresh-boot-lamp';
const listeners = new Set<() => void>();
const dark = () => window.matchMedia('(prefers-color-scheme: dark)');

/** Off as somebody switched it; until then as the system wishes. */
const read = () => (localStorage.getItem(key) ?? (dark().matches ? 'off' : 'on')) === 'off';

const show = () => {
  if (read()) document.documentElement.dataset['lamp'] = 'off';
  else delete document.documentElement.dataset['lamp'];
  listeners.forEach((heard) => {
    heard();
  });
};

/** Called before the first picture, so that a dark workshop is not lit for a blink. */
export const rememberLamp = () => {
  show();
  dark().addEventListener('change', show);
};

/** Whether the lamp is off, and the switch. */
export function useLamp(): [off: boolean, toggle: () => void] {
  const off = useSyncExternalStore((heard) => {
    listeners.add(heard);
    return () => listeners.delete(heard);
  }, read);
  return [
    off,
    () => {
      localStorage.setItem(key, read() ? 'on' : 'off');
      show();
    },
  ];
}
