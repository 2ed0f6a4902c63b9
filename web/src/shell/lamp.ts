import { useSyncExternalStore } from 'react';

const key = 'fresh-boot-lamp';
const listeners = new Set<() => void>();
const read = () => localStorage.getItem(key) === 'off';

const show = () => {
  if (read()) document.documentElement.dataset['lamp'] = 'off';
  else delete document.documentElement.dataset['lamp'];
};

/** Called before the first picture, so that a dark workshop is not lit for a blink. */
export const rememberLamp = show;

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
      listeners.forEach((heard) => {
        heard();
      });
    },
  ];
}
