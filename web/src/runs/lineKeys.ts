import { useEffect } from 'react';
import { scanPause } from '../shell/scan';

/**
 * Enter ticks the line in hand, x goes to what may be otherwise: while nothing else has the focus, and only from a hand. A scanner ends
 * with Enter too, and what it reads is not meant for the line; a caution is never ticked by a key, it is read and its button pressed.
 * @param ticks Whether Enter may tick the line.
 * @param within What holds the line and its buttons.
 * @param heading The heading that has the focus when a line comes.
 */
export function useLineKeys(
  ticks: boolean,
  within: React.RefObject<HTMLElement | null>,
  heading: React.RefObject<HTMLElement | null>,
) {
  useEffect(() => {
    let last = -Infinity;
    let waiting: ReturnType<typeof setTimeout> | undefined;
    const find = (what: string) => within.current?.querySelector<HTMLButtonElement>(`[data-${what}]`);
    const press = (event: KeyboardEvent) => {
      clearTimeout(waiting);
      const alone = event.timeStamp - last > scanPause;
      last = event.timeStamp;
      const at = document.activeElement;
      if (event.repeat || event.ctrlKey || event.altKey || event.metaKey || !alone) return;
      if (at !== null && at !== document.body && at !== heading.current) return;
      if (event.key === 'Enter' && ticks) {
        event.preventDefault();
        find('main')?.click();
      } else if (event.key === 'x')
        // What a scanner reads goes on at once; a hand does not.
        waiting = setTimeout(() => find('otherwise')?.focus(), scanPause);
    };
    window.addEventListener('keydown', press);
    return () => {
      clearTimeout(waiting);
      window.removeEventListener('keydown', press);
    };
  }, [ticks, within, heading]);
}
