import { useQuery } from '@tanstack/react-query';
import { useCallback } from 'react';
import { NavLink, Outlet, useMatch, useOutletContext, useParams, useSearchParams } from 'react-router';
import type { Schema } from '../api/client';
import { assessments, factKeys, found, machine, systems } from '../api/queries';
import { isRung, rungs, type RungName } from '../ladder/rungs';
import { BayStrip } from '../runs/BayStrip';
import { Failed, Loading } from '../shell/States';
import { LadderColumn } from './LadderColumn';
import { StayPanel } from '../upkeep/StayPanel';
import { AimLine } from './AimLine';
import { NamePlate } from './NamePlate';

/** What every view of a machine sees. */
export interface MachineContext {
  sheet: Schema['MachineSheet'];
  all: Schema['Assessment'][];
  systems: Schema['SystemEntry'][];
  keys: Schema['FactDefinition'][];
  aim: Schema['Assessment'];
  open: RungName | null;
  setOpen: (rung: RungName | null) => void;
  setAim: (system: string | null) => void;
}

export const useMachine = () => useOutletContext<MachineContext>();

const views = [
  ['facts', 'Facts'],
  ['systems', 'Systems'],
  ['routes', 'Routes'],
  ['prepare', 'Prepare'],
  ['switches', 'Switches'],
  ['layout', 'Layout'],
  ['identity', 'Identity'],
  ['kit', 'Kit'],
  ['board', 'Board'],
  ['rehearse', 'Rehearse'],
  ['run', 'Run'],
  ['fault', 'Fault'],
  ['handover', 'Hand-over'],
] as const;

/** The ladder of a machine of which too little is known: whether it may be worked on is the same for every system. */
const noAim = (any: Schema['Assessment'] | undefined): Schema['Assessment'] | undefined =>
  any && {
    ...any,
    system: '',
    outcome: 'unknown',
    rungs: any.rungs.map((r) => (r.rung === 'release' ? r : { ...r, outcome: 'unknown', findings: [] })),
  };

/** One machine: the ladder of its aim on the left at fixed heights, and a view of the same ten rungs beside it. */
export function MachinePage() {
  const tag = useParams()['tag'] ?? '';
  const sheet = useQuery(machine(tag));
  const all = useQuery(assessments(tag));
  const known = useQuery(systems);
  const keys = useQuery(factKeys);
  const view = useMatch('/machines/:tag/:view')?.params.view;
  const glance = useQuery(found(tag, 20)).data?.find((m) => m.tag === tag)?.run;
  const [search, setSearch] = useSearchParams();

  const set = useCallback(
    (name: string, value: string | null) => {
      setSearch(
        (old) => {
          const next = new URLSearchParams(old);
          if (value === null) next.delete(name);
          else next.set(name, value);
          return next;
        },
        { replace: true },
      );
    },
    [setSearch],
  );

  const failed = sheet.error ?? all.error ?? known.error ?? keys.error;
  // What was read stays on the page while the server does not answer; the head says so.
  if (!sheet.data || !all.data || !known.data || !keys.data)
    return failed ? <Failed error={failed} /> : <Loading />;

  const rung = search.get('rung');
  const wanted = search.get('aim') ?? sheet.data.aim;
  const aim = wanted === '' ? noAim(all.data[0]) : (all.data.find((a) => a.system === wanted) ?? all.data[0]);
  if (!aim) return <Failed error={new Error('empty catalogue')} />;
  const entry = known.data.find((s) => s.id === aim.system);
  const context: MachineContext = {
    sheet: sheet.data,
    all: all.data,
    systems: known.data,
    keys: keys.data,
    aim,
    open: isRung(rung) ? rung : null,
    setOpen: (opened) => {
      set('rung', opened);
    },
    setAim: (system) => {
      set('aim', system);
    },
  };

  // A small board has its settings in a text on its card, and no other identity to take.
  const board = sheet.data.facts.some((f) => f.key === 'firmware.kind' && f.value === 'board');
  const shown = views.filter(([name]) =>
    board ? !['switches', 'identity', 'kit'].includes(name) : name !== 'board',
  );

  // A route for the aim mends whatever is broken; a run has climbed what lies below the step whose turn it is.
  const climbed = rungs.findIndex((r) => r.name === glance?.rung);
  const ticked = new Set(
    aim.rungs
      .filter((r, i) =>
        view === 'routes'
          ? !['clear', 'caveat', 'unknown', 'wall'].includes(r.outcome)
          : view === 'run' && glance && (i < climbed || glance.finishedAt !== null),
      )
      .map((r) => r.rung),
  );

  return (
    <div className="flex flex-1 flex-col">
      <NamePlate sheet={sheet.data} keys={keys.data} />
      <div className="flex flex-wrap items-end justify-between gap-x-6 border-b-[1.5px] border-ink">
        <nav aria-label="Views of this machine" className="flex flex-wrap gap-x-[14px]">
          {shown.map(([view, name]) => (
            <NavLink
              key={view}
              to={{ pathname: view, search: search.toString() }}
              className={({ isActive }) =>
                `flex min-h-10 items-center border-b-4 pt-1 text-[16px] whitespace-nowrap ${isActive ? 'border-ink font-bold' : 'border-transparent text-quiet hover:text-ink'}`
              }
            >
              {name}
            </NavLink>
          ))}
        </nav>
        <AimLine
          sheet={sheet.data}
          shown={entry}
          aim={known.data.find((s) => s.id === sheet.data.aim)}
          running={!glance || glance.finishedAt ? null : glance.system === null ? 'ends' : 'installs'}
          nothing={all.data.find((a) => a.system === sheet.data.aim)?.outcome === 'wall'}
          show={context.setAim}
        />
      </div>
      {(view === 'facts' || view === 'systems' || view === 'routes') && <StayPanel sheet={sheet.data} />}
      <div className="relative grid grid-cols-1 gap-x-4 pt-1.5 lg:grid-cols-[516px_minmax(0,1fr)]">
        {/* On a narrow screen the step of a run and the routes come before the ladder: hands want them first. */}
        <div className={view === 'run' || view === 'routes' ? 'max-lg:order-last' : ''}>
          <LadderColumn aim={aim} open={context.open} setOpen={context.setOpen} ticked={ticked} />
        </div>
        <Outlet context={context} />
      </div>
      {view === 'run' && <BayStrip here={sheet.data.tag} />}
    </div>
  );
}
