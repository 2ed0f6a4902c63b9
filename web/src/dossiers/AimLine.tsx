import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { useState } from 'react';
import type { Schema } from '../api/client';
import { useAim } from '../api/queries';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { systemName } from './facts';

type System = Schema['SystemEntry'];

interface Props {
  sheet: Schema['MachineSheet'];
  /** The system that this page is drawn for. */
  shown: System | undefined;
  /** The machine's aim. */
  aim: System | undefined;
  /** What the run that is under way does; null where none is. */
  running: 'installs' | 'ends' | null;
  /** Whether nothing gets any system onto it: then no route leads to its aim. */
  nothing: boolean;
  show: (system: string | null) => void;
}

/** What is being installed; else the aim, and whose word it is. Whoever looks at another system can make it the aim. */
export function AimLine({ sheet, shown, aim, running, nothing, show }: Props) {
  if (running === 'ends') return <p className="pb-2 font-semibold">This machine is being ended.</p>;
  if (!shown) return <p className="pb-2 text-quiet">No aim yet: too little is known</p>;
  const elsewhere = aim !== undefined && shown.id !== aim.id;
  const ends = (system: System) =>
    system.supportEnds ? `supported to ${system.supportEnds}` : 'rolling, no end date';
  const back = (
    <button
      type="button"
      className="min-h-8 underline underline-offset-4"
      onClick={() => {
        show(null);
      }}
    >
      {systemName(aim)}
    </button>
  );
  if (running === 'installs' && aim)
    return (
      <p className="pb-2 text-quiet">
        {elsewhere ? (
          <>
            Looking at <b className="text-ink">{systemName(shown)}</b>; being installed: {back}
          </>
        ) : (
          <>
            Being installed: <b className="text-ink">{systemName(aim)}</b> · {ends(aim)}
          </>
        )}
      </p>
    );
  const why = sheet.facts.find((f) => f.key === 'plan.aimWhy');
  return (
    <p className="flex items-baseline gap-3 pb-2 text-quiet">
      {elsewhere ? (
        <>
          <span>
            Looking at <b className="text-ink">{systemName(shown)}</b>; the aim is {back}
          </span>
          <SetAim tag={sheet.tag} system={shown} />
        </>
      ) : (
        <span title={sheet.aimChosen && why ? `${String(why.value)} (${why.by ?? ''})` : undefined}>
          {aim ? 'Aim' : 'Looking at'} <b className="text-ink">{systemName(shown)}</b>
          {aim &&
            (sheet.aimChosen ? ', chosen' : nothing ? ', which comes nearest' : ', by the best route')}{' '}
          · {ends(shown)}
        </span>
      )}
    </p>
  );
}

function SetAim({ tag, system }: { tag: string; system: System }) {
  const keep = useAim(tag);
  const [who] = useWho();
  const [why, setWhy] = useState('');
  return (
    <Popover>
      <PopoverButton className="min-h-8 font-semibold text-ink underline underline-offset-4">
        Set as aim
      </PopoverButton>
      <PopoverPanel anchor="bottom end" className="z-20 w-80 border-2 border-ink bg-sheet p-4">
        {({ close }) => (
          <form
            onSubmit={(event) => {
              event.preventDefault();
              keep.mutate(
                { system: system.id, by: who || nobody, why: why.trim() || null },
                {
                  onSuccess: () => {
                    close();
                  },
                },
              );
            }}
          >
            <label>
              <span className="caption block">Why {systemName(system)}? (may stay empty)</span>
              <input
                autoFocus
                maxLength={200}
                className="mt-1 h-11 w-full border-b-2 border-ink bg-transparent text-lg"
                value={why}
                onChange={(event) => {
                  setWhy(event.target.value);
                }}
              />
            </label>
            <button
              disabled={keep.isPending}
              className="mt-3 min-h-11 w-full bg-ink font-semibold text-ground"
            >
              Make it the aim
            </button>
            {keep.error && <Failed error={keep.error} />}
          </form>
        )}
      </PopoverPanel>
    </Popover>
  );
}
