import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { machines } from '../api/queries';
import { countdown, useNow } from './clock';

/** The six bays as a strip, so that a wait next door is not missed while hands are here. */
export function BayStrip({ here }: { here: string }) {
  const all = useQuery(machines).data ?? [];
  const now = useNow();
  return (
    <nav aria-label="Bays" className="mt-2 grid grid-cols-6 border-t-2 border-quiet">
      {[1, 2, 3, 4, 5, 6].map((bay) => {
        const machine = all.find((m) => m.bay === bay);
        const run = machine?.run && !machine.run.finishedAt ? machine.run : null;
        if (!machine)
          return (
            <span key={bay} className="flex min-h-14 items-center gap-3 px-2 text-quiet">
              <b className="font-name text-3xl">{bay}</b> free
            </span>
          );
        return (
          <Link
            key={bay}
            to={`/machines/${machine.tag}/${run ? 'run' : 'systems'}`}
            aria-current={machine.tag === here ? 'page' : undefined}
            className={`flex min-h-14 items-center gap-3 px-2 ${machine.tag === here ? 'bg-sheet' : 'hover:bg-sheet'}`}
          >
            <b className="font-name text-3xl">{bay}</b>
            <span className="min-w-0 leading-tight">
              <span className="block text-sm">{machine.tag}</span>
              <b className={`block truncate ${run?.stopped ? 'text-wall' : ''}`}>
                {run?.stopped
                  ? 'stopped'
                  : run?.waiting
                    ? countdown(run.waiting.usualAt, now)
                    : run
                      ? `stop ${run.at} of ${run.of}`
                      : machine.next.text}
              </b>
            </span>
          </Link>
        );
      })}
    </nav>
  );
}
