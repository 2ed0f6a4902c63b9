import { Dialog, DialogPanel, DialogTitle } from '@headlessui/react';
import { useQuery } from '@tanstack/react-query';
import { useLayoutEffect, useState } from 'react';
import { useLocation, useMatch, useNavigate } from 'react-router';
import { machines } from '../api/queries';
import { whereItHangs } from '../dossiers/facts';
import { useLamp } from './lamp';
import { scanPace, scanPause } from './scan';

/** The key that goes before a shortcut's letter. */
const leader = '.';
const tagForm = /^[A-Z0-9]{1,12}(-[A-Z0-9]{1,12}){1,3}$/;

const typing = (target: EventTarget | null) =>
  target instanceof HTMLInputElement
    ? !['radio', 'checkbox', 'file'].includes(target.type)
    : target instanceof HTMLTextAreaElement;

/**
 * Shortcuts behind a leader key, with their overlay, and the scanner: a scanned tag opens its machine from anywhere, but
 * in a field that waits for a tag it only fills the field.
 */
export function Keys() {
  const go = useNavigate();
  const tag = useMatch('/machines/:tag/*')?.params.tag;
  // Aim, route and opened rung stand in the address and go along from view to view.
  const { search } = useLocation();
  const [open, setOpen] = useState(false);
  const [, toggleLamp] = useLamp();
  const there = useQuery(machines).data ?? [];

  // Who stands in a bay: straight to the step of its run, or to the rung that holds it.
  const standing = [1, 2, 3, 4, 5, 6].flatMap((bay) => there.filter((m) => m.bay === bay));
  const shortcuts: [key: string, name: string, act: () => void][] = [
    ['b', 'Bench', () => void go('/')],
    ['t', 'Take a machine in', () => void go('/intake')],
    ['w', 'Where is…', () => void go('/find')],
    ['m', 'Fleet matrix', () => void go('/fleet')],
    ['o', 'Orders', () => void go('/orders')],
    ['d', 'Wanted at the door', () => void go('/wanted')],
    ['c', 'Catalogue', () => void go('/catalogue/systems')],
    ['i', 'Images', () => void go('/shelf/images')],
    ['e', 'Sticks and discs', () => void go('/shelf/media')],
    ['a', 'Parts shelf', () => void go('/shelf')],
    ['7', 'Plan', () => void go('/plan')],
    ['0', 'What happened', () => void go('/log')],
    ['-', 'Figures', () => void go('/figures')],
    ['8', 'What falls due', () => void go('/due')],
    ['9', 'Back-ups', () => void go('/backups')],
    ['z', 'Practice', () => void go('/practice')],
    ['k', 'Key to the rungs', () => void go('/key')],
    ['l', 'Lamp on or off', toggleLamp],
    ...standing.map((m): [string, string, () => void] => [
      String(m.bay),
      `Bay ${m.bay}: ${m.tag}`,
      () => void go(whereItHangs(m)),
    ]),
    ...(tag
      ? (
          [
            ['f', 'Facts', 'facts'],
            ['s', 'Systems', 'systems'],
            ['r', 'Routes', 'routes'],
            ['p', 'Prepare', 'prepare'],
            ['x', 'Switches', 'switches'],
            ['y', 'Layout', 'layout'],
            ['n', 'Identity', 'identity'],
            ['j', 'Kit', 'kit'],
            ['g', 'Board', 'board'],
            ['v', 'Rehearse', 'rehearse'],
            ['u', 'Run', 'run'],
            ['q', 'Find the fault', 'fault'],
            ['h', 'Hand-over', 'handover'],
          ] as const
        ).map(([key, name, view]): [string, string, () => void] => [
          key,
          name,
          () => void go({ pathname: `/machines/${tag}/${view}`, search }),
        ])
      : []),
  ];

  // Before the first paint: what can be seen can already be typed at.
  useLayoutEffect(() => {
    let read = '';
    let first = 0;
    let last = 0;
    const hear = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey) return;
      const paused = event.timeStamp - last > scanPause;
      last = event.timeStamp;
      if (event.key === 'Enter') {
        const scanned = read.toUpperCase();
        const quick = !paused && read.length > 0 && (event.timeStamp - first) / read.length <= scanPace;
        read = '';
        const waits = event.target instanceof HTMLElement && event.target.dataset['scan'] === 'field';
        if (quick && !waits && tagForm.test(scanned)) {
          event.preventDefault();
          event.stopPropagation();
          setOpen(false);
          void go(`/machines/${scanned}`);
        }
        return;
      }
      if (event.key.length !== 1) return;
      if (paused || read === '') {
        read = '';
        first = event.timeStamp;
      }
      read += event.key;
      if (event.key === leader && !typing(event.target)) {
        event.preventDefault();
        setOpen(true);
      }
    };
    window.addEventListener('keydown', hear, true);
    return () => {
      window.removeEventListener('keydown', hear, true);
    };
  }, [go]);

  return (
    <Dialog
      open={open}
      onClose={setOpen}
      className="fixed inset-0 z-30 flex items-end justify-center bg-ink/25 p-6"
      onKeyDown={(event) => {
        const found = shortcuts.find(([key]) => key === event.key.toLowerCase());
        if (!found) return;
        event.preventDefault();
        setOpen(false);
        found[2]();
      }}
    >
      <DialogPanel className="w-full max-w-3xl border-2 border-ink bg-sheet p-5 text-ink">
        <DialogTitle className="caption">After the leader key “{leader}”</DialogTitle>
        <ul className="grid grid-cols-2 gap-x-8 pt-2 sm:grid-cols-3">
          {shortcuts.map(([key, name, act]) => (
            <li key={key}>
              <button
                type="button"
                className="flex min-h-11 w-full items-center gap-3 text-left hover:underline"
                onClick={() => {
                  setOpen(false);
                  act();
                }}
              >
                <kbd className="w-7 border-[1.5px] border-ink text-center font-value uppercase">{key}</kbd>
                {name}
              </button>
            </li>
          ))}
        </ul>
        <p className="pt-2 text-sm text-quiet">
          A scanned tag opens its machine from anywhere. Arrow keys climb the ladder, Enter opens a rung.
        </p>
      </DialogPanel>
    </Dialog>
  );
}
