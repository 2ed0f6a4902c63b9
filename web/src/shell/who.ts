import { useSyncExternalStore } from 'react';

const key = 'fresh-boot-who';
const listeners = new Set<() => void>();

const read = () => localStorage.getItem(key) ?? '';

/** The name that goes with each write, picked once at this screen. */
export function useWho(): [name: string, pick: (name: string) => void] {
  const name = useSyncExternalStore((heard) => {
    listeners.add(heard);
    return () => listeners.delete(heard);
  }, read);
  return [
    name,
    (picked) => {
      localStorage.setItem(key, picked.trim());
      listeners.forEach((heard) => {
        heard();
      });
    },
  ];
}

/** What is written where nobody picked a name. */
export const nobody = 'no name picked';
