import { Popover, PopoverButton, PopoverPanel } from '@headlessui/react';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { NavLink, Outlet, useLocation } from 'react-router';
import { health } from '../api/queries';
import { Along } from './Along';
import { Keys } from './keys';
import { PickedBar } from './Picked';
import { useLamp } from './lamp';
import { useLive } from './live';
import { useWho } from './who';

/** The frame of every page: the shop's name, the two ways in, the time, and who is at this screen. */
export function Shell() {
  const { data, isError } = useQuery(health);
  const [off, toggleLamp] = useLamp();
  useLive();
  return (
    <div className="mx-auto flex min-h-dvh max-w-[1600px] flex-col px-6">
      <header className="flex min-h-11 flex-wrap items-center gap-x-5 border-b-2 border-quiet">
        <span className="caption hidden text-[13px] whitespace-nowrap min-[1480px]:inline">{data?.shop}</span>
        <nav aria-label="Main" className="flex flex-wrap gap-x-3 whitespace-nowrap">
          <Way to="/">Bench</Way>
          <Way to="/intake">Take in</Way>
          <Way to="/find">Where is…</Way>
          <Way to="/fleet">Fleet</Way>
          <Way to="/orders">Orders</Way>
          <Way to="/wanted">Wanted</Way>
          <Way to="/plan">Plan</Way>
          <Way to="/due">Due</Way>
          <Way to="/log">Log</Way>
          <Way to="/figures">Figures</Way>
          <Way to="/catalogue">Catalogue</Way>
          <Way to="/shelf/images" under={['/shelf', '/images']}>
            Shelf
          </Way>
          <Way to="/practice">Practice</Way>
          <Way to="/backups">Back-up</Way>
          <Way to="/key">Key</Way>
        </nav>
        <div className="ml-auto flex items-center gap-4 text-quiet">
          {isError ? (
            <span role="alert" className="font-semibold text-wall">
              The server does not answer. Trying again; nothing you saved is lost.
            </span>
          ) : (
            data && <time dateTime={data.now}>{longTime(data.now)}</time>
          )}
          <button type="button" onClick={toggleLamp} className="min-h-11 px-1 font-semibold text-ink">
            Lamp {off ? 'on' : 'off'}
          </button>
          <Who />
        </div>
      </header>
      <Along />
      <main className="flex flex-1 flex-col">
        <Outlet />
      </main>
      <PickedBar />
      <Keys />
    </div>
  );
}

function Way({ to, under = [], children }: { to: string; under?: string[]; children: React.ReactNode }) {
  const { pathname } = useLocation();
  const within = under.some((u) => pathname.startsWith(u));
  return (
    <NavLink
      to={to}
      className={({ isActive }) =>
        `flex min-h-11 items-center ${isActive || within ? 'font-bold text-ink' : 'text-quiet hover:text-ink'}`
      }
    >
      {children}
    </NavLink>
  );
}

function Who() {
  const [name, pick] = useWho();
  const [typed, setTyped] = useState(name);
  return (
    <Popover className="relative">
      <PopoverButton className="min-h-11 px-1 font-semibold text-ink underline decoration-rule decoration-2 underline-offset-4">
        {name || 'Pick your name'}
      </PopoverButton>
      <PopoverPanel focus anchor="bottom end" className="z-20 w-72 border-2 border-ink bg-sheet p-4 text-ink">
        {({ close }) => (
          <form
            onSubmit={(event) => {
              event.preventDefault();
              pick(typed);
              close();
            }}
          >
            <label className="block">
              <span className="caption">Your name goes with what you save</span>
              <input
                className="mt-1 h-11 w-full border-b-2 border-ink bg-transparent text-lg"
                value={typed}
                maxLength={60}
                onChange={(event) => {
                  setTyped(event.target.value);
                }}
              />
            </label>
            <button className="mt-3 h-11 w-full bg-ink font-semibold text-ground">This is me</button>
          </form>
        )}
      </PopoverPanel>
    </Popover>
  );
}

const longTime = (iso: string) => {
  // The workshop's own clock: its offset stands in the text and counts, not this browser's.
  const wall = new Date(`${iso.slice(0, 19)}Z`);
  return wall.toLocaleString('en-GB', {
    timeZone: 'UTC',
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    year: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  });
};
