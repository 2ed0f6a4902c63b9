import { useSyncExternalStore } from 'react';

const key = 'fresh-boot-picked';
const listeners = new Set<() => void>();
let shown = '';
let tags: readonly string[] = [];

/** What was picked last, as one and the same list until it changes. */
const read = () => {
  const stored = sessionStorage.getItem(key) ?? '';
  if (stored !== shown) {
    shown = stored;
    tags = stored === '' ? [] : stored.split(' ');
  }
  return tags;
};

const keep = (next: readonly string[]) => {
  sessionStorage.setItem(key, next.join(' '));
  listeners.forEach((heard) => {
    heard();
  });
};

/** Tags in a text, one or many: whatever stands between blanks, commas and lines, each once. */
export const tagsIn = (text: string) => [
  ...new Set(
    text
      .toUpperCase()
      .split(/[\s,;]+/)
      .filter((tag) => /^[A-Z0-9][A-Z0-9-]{0,31}$/.test(tag)),
  ),
];

/** The machines that were picked on any page of this tab, in their order. */
export function usePicked() {
  const picked = useSyncExternalStore((heard) => {
    listeners.add(heard);
    return () => listeners.delete(heard);
  }, read);
  return {
    picked,
    pick: (more: readonly string[]) => {
      keep([...new Set([...read(), ...more])]);
    },
    drop: (tag: string) => {
      keep(read().filter((t) => t !== tag));
    },
    clear: () => {
      keep([]);
    },
  };
}
