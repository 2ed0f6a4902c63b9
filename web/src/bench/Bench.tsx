import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { Link } from 'react-router';
import type { Schema } from '../api/client';
import { benchOrder, health, machines, plans, systems } from '../api/queries';
import { Ladder } from '../ladder/Ladder';
import { handsOf, inkOf } from '../ladder/outcomes';
import { rungs } from '../ladder/rungs';
import { systemName, whereItHangs } from '../dossiers/facts';
import { daysText } from '../orders/words';
import { countdown, useNow } from '../runs/clock';
import { clockTime, dayOf } from '../shell/time';
import { Failed, Loading } from '../shell/States';
import { counted } from '../pieces/counted';

type Summary = Schema['MachineSummary'];

const bays = [1, 2, 3, 4, 5, 6];

/** What stands above and below the ladders when all six bays stand side by side. */
const around = 500;

/** The height between two rungs: on a high screen the ladders grow with it, so that they are read from farther away. */
function useStep() {
  const [size, setSize] = useState(() => ({ high: innerHeight, wide: innerWidth }));
  useEffect(() => {
    const measure = () => {
      setSize({ high: innerHeight, wide: innerWidth });
    };
    addEventListener('resize', measure);
    return () => {
      removeEventListener('resize', measure);
    };
  }, []);
  return size.wide < 1280 ? 30 : Math.min(50, Math.max(30, Math.floor((size.high - around) / 10)));
}

/** Home: six bays in their order, each a ladder with its machine hanging at the rung that wants something. */
export function Bench() {
  const { data, error, isPending } = useQuery(machines);
  const known = useQuery(systems).data ?? [];
  const order = (useQuery(benchOrder).data ?? []).map((w) => w.tag);
  const planned = (useQuery(plans).data?.now ?? []).filter((n) => n.tag !== null);
  const troubles = useQuery(health).data?.troubles ?? [];
  const now = useNow();
  const step = useStep();
  const calls = (data ?? []).filter((m) => m.bay !== null && over(m, now));
  useCall(
    calls.map((m) => `Bay ${m.bay}`),
    calls.filter((m) => late(m, now)).map((m) => `Bay ${m.bay}`),
  );
  if (isPending) return <Loading />;
  if (!data) return <Failed error={error} />;

  const standing = bays.map((bay) => data.find((m) => m.bay === bay));
  const shelf = data.filter((m) => m.bay === null && !m.run?.finishedAt && !m.left);
  const door = data.filter((m) => m.bay === null && m.run?.finishedAt && !m.left);
  const [first, second] = standing
    .filter((m) => m !== undefined)
    .filter((m) => !waits(m, now) && !running(m)?.paused)
    .sort(
      (a, b) =>
        urgency(a, now) - urgency(b, now) ||
        order.indexOf(a.tag) - order.indexOf(b.tag) ||
        (a.bay ?? 0) - (b.bay ?? 0),
    );
  const ahead = first && running(first)?.ahead;
  const placeOf = (tag: string | null) => {
    const bay = data.find((m) => m.tag === tag)?.bay;
    return bay ? `Bay ${bay}` : tag;
  };
  const nameOf = (id: string) => systemName(known.find((s) => s.id === id));

  return (
    <div className="flex flex-1 flex-col">
      {troubles.map((t) => (
        <p key={t.about} role="alert" className="mt-2 border-l-4 border-wall pl-3 font-semibold">
          {t.says}
        </p>
      ))}
      <div className="flex items-end justify-between gap-8 pt-4 pb-3">
        <h1 className="line-clamp-2 font-name text-[44px] leading-none font-bold" data-loud>
          {first
            ? `Bay ${first.bay}: ${lower(wants(first, now))}.${lateFor(first, now)}`
            : standing.some(Boolean)
              ? 'Every bay waits. Hands are free.'
              : 'All bays are free. Scan a tag or take a machine in.'}
        </h1>
        <p className="line-clamp-3 w-80 shrink-0 pb-0.5 text-right text-quiet">
          {planned.length > 0 ? (
            planned.map((n) => (
              <span key={n.person} className="block truncate">
                {n.person}:{' '}
                <Link
                  className="font-semibold text-ink hover:underline"
                  to={`/machines/${n.tag}/${n.begun ? 'run' : `routes?route=${n.route ?? ''}`}`}
                >
                  {placeOf(n.tag)}
                  {n.from && ` from ${clockTime(n.from)}`}
                </Link>
              </span>
            ))
          ) : (
            <>
              {ahead && ahead.waitMinutes > 0 && order.length > 1 && (
                <span className="block">
                  {ahead.handsMinutes} min of hands, then {ahead.waitMinutes} by itself
                </span>
              )}
              {second && (
                <>
                  then{' '}
                  <span className="font-semibold text-ink">
                    Bay {second.bay}: {lower(wants(second, now))}
                  </span>
                </>
              )}
            </>
          )}
        </p>
      </div>
      <Hour standing={standing.filter((m) => m !== undefined)} now={now} />

      <ol className="grid flex-1 grid-cols-2 border-t border-rule md:grid-cols-3 xl:grid-cols-6">
        {standing.map((machine, i) => (
          <li key={bays[i]} className="border-rule pt-2 pr-3 xl:not-first:border-l xl:not-first:pl-3">
            <Bay
              bay={bays[i] ?? 0}
              machine={machine}
              system={machine ? nameOf(machine.aim) : ''}
              now={now}
              step={step}
            />
          </li>
        ))}
      </ol>

      <section
        aria-label="Shelf and door"
        className="mt-1 flex min-h-12 flex-wrap items-center gap-x-7 border-t-2 border-quiet py-1"
      >
        <h2 className="caption text-[13px]">
          Shelf · {shelf.length} {shelf.length === 1 ? 'waits' : 'wait'}
        </h2>
        {shelf.slice(0, 3).map((m) => (
          <Link
            key={m.tag}
            to={`/machines/${m.tag}/systems`}
            className="flex min-h-11 items-center hover:underline"
          >
            <span>
              <b>{m.tag}</b> {m.model ?? 'model not known'} ·{' '}
              <span className={`${inkOf[m.outcome]} font-semibold`}>{m.outcome}</span>
            </span>
          </Link>
        ))}
        {shelf.length > 3 && (
          <Link
            to="/find?q=shelf"
            className="flex min-h-11 items-center underline underline-offset-4"
          >{`and ${shelf.length - 3} more`}</Link>
        )}
        <h2 className="caption ml-auto text-[13px]">Door · {door.length} done</h2>
        {door.slice(-2).map((m) => (
          <Link
            key={m.tag}
            to={`/machines/${m.tag}/handover`}
            className="flex min-h-11 items-center hover:underline"
          >
            <span>
              <b>{m.tag}</b> {m.model}
            </span>
          </Link>
        ))}
      </section>
    </div>
  );
}

const running = (m: Summary) => (m.run && !m.run.finishedAt ? m.run : null);
const waits = (m: Summary, now: number) => {
  const wait = running(m)?.waiting;
  return Boolean(wait) && Date.parse(wait?.usualAt ?? '') > now;
};
const over = (m: Summary, now: number) => {
  const wait = running(m)?.waiting;
  return Boolean(wait) && Date.parse(wait?.usualAt ?? '') <= now;
};

/** Past the time to worry. */
const late = (m: Summary, now: number) => {
  const wait = running(m)?.waiting;
  return Boolean(wait) && Date.parse(wait?.worryAt ?? '') <= now;
};

/** What a machine wants of hands, in one line. */
function wants(m: Summary, now: number): string {
  const run = running(m);
  if (!run) return m.next.text;
  if (run.stopped) return 'It stopped';
  if (run.paused) return `Laid aside: ${run.paused}`;
  if (late(m, now)) return 'Worry: it waits far too long';
  if (over(m, now)) return 'Look: the wait should be over';
  return firstSentence(run.step);
}

const firstSentence = (text: string) => text.split(/(?<=\.) /)[0]?.replace(/\.$/, '') ?? text;

/**
 * Rings once for each wait that is over, and once more, higher and longer, when it is time to worry: a tone if the browser
 * allows it, and the title of the page.
 */
function useCall(calls: string[], worries: string[]) {
  const names = calls.join(', ');
  const worried = worries.join(', ');
  useEffect(() => {
    document.title = worried
      ? `${worried}: worry · Fresh Boot`
      : names
        ? `${names} calls · Fresh Boot`
        : 'Fresh Boot';
    if (!names || !navigator.userActivation.hasBeenActive) return;
    const audio = new AudioContext();
    const tone = audio.createOscillator();
    tone.frequency.value = worried ? 990 : 660;
    tone.connect(audio.destination);
    tone.start();
    tone.stop(audio.currentTime + (worried ? 0.9 : 0.25));
    tone.onended = () => void audio.close();
    return () => {
      document.title = 'Fresh Boot';
    };
  }, [names, worried]);
}

/** The next hour as one axis: when each bay will want hands, and where two will want them together. */
function Hour({ standing, now }: { standing: Summary[]; now: number }) {
  const minutes = standing
    .map((m) => ({
      bay: m.bay ?? 0,
      at: waits(m, now) ? (Date.parse(running(m)?.waiting?.usualAt ?? '') - now) / 60_000 : 0,
    }))
    .filter((m) => m.at <= 60)
    .sort((a, b) => a.at - b.at || a.bay - b.bay);
  const clash = minutes.find(
    (m, i) => i > 0 && m.at > 0 && m.at - (minutes[i - 1]?.at ?? 0) < 4 && (minutes[i - 1]?.at ?? 0) > 0,
  );
  return (
    <div
      className="relative mb-2 h-12"
      role="img"
      aria-label={`The next hour: ${minutes.map((m) => `bay ${m.bay} in ${counted(Math.round(m.at), 'minute')}`).join(', ')}`}
    >
      <div className="absolute inset-x-0 top-6 border-t-[1.5px] border-ink" />
      {[0, 15, 30, 45, 60].map((tick) => (
        <span
          key={tick}
          className={`absolute top-6 border-ink pt-1 font-value text-xs text-quiet ${tick === 60 ? 'border-r-[1.5px] pr-1' : 'border-l-[1.5px] pl-1'}`}
          style={tick === 60 ? { right: 0 } : { left: `${(tick / 60) * 100}%` }}
        >
          {tick === 0 ? 'now' : `+${tick}`}
        </span>
      ))}
      {minutes.map((m, i) => {
        const stacked = minutes
          .slice(0, i)
          .filter((other) => Math.round(other.at) === Math.round(m.at)).length;
        return (
          <span
            key={m.bay}
            className="absolute top-0 flex h-5 w-6 items-center justify-center bg-ink font-bold text-ground"
            style={{ left: `calc(${(m.at / 60) * 100}% + ${stacked * 28}px)` }}
          >
            {m.bay}
          </span>
        );
      })}
      {clash && (
        <span
          className="absolute top-0 text-sm font-semibold text-wall"
          style={{ left: `calc(${(clash.at / 60) * 100}% + 34px)` }}
        >
          two bays want hands
        </span>
      )}
    </div>
  );
}

interface BayProps {
  bay: number;
  machine: Summary | undefined;
  system: string;
  now: number;
  step: number;
}

function Bay({ bay, machine, system, now, step }: BayProps) {
  if (!machine)
    return (
      <>
        <div className="flex h-13 items-center gap-3">
          <BayNumber bay={bay} />
          <span className="text-quiet">free</span>
        </div>
        <div className="opacity-80">
          <Ladder outcomes={[]} width={82} step={step} empty />
        </div>
      </>
    );
  const run = running(machine);
  const hangs = run?.rung ?? machine.next.rung;
  const at = rungs.findIndex((r) => r.name === hangs);
  const waiting = waits(machine, now) ? run?.waiting : null;
  return (
    <Link to={whereItHangs(machine)} className="group flex h-full flex-col">
      <div className="flex h-13 items-center gap-3">
        <BayNumber bay={bay} />
        <span className="leading-tight">
          <b className="block text-base group-hover:underline">{machine.tag}</b>
          <span className="block truncate text-sm text-quiet">{machine.model ?? 'model not known'}</span>
        </span>
        {machine.due && (
          <span
            className={`ml-auto text-right text-sm leading-tight ${daysTo(machine.due, now) < 0 ? 'font-semibold text-wall' : 'text-quiet'}`}
            title={machine.order ?? undefined}
          >
            <span className="sr-only">{machine.order}: </span>
            {daysText(daysTo(machine.due, now)).replace(' left', '')}
          </span>
        )}
      </div>
      <div className="relative">
        <Ladder outcomes={machine.rungs} width={82} step={step} />
        {run?.waiting && <WaitRail waiting={run.waiting} now={now} />}
        <div
          className="climbs absolute left-[86px] flex items-center"
          style={{ bottom: at * step + step / 2 - 14, height: 28 }}
        >
          <span className="h-0.5 w-3 bg-ink" />
          <span className="flex h-7 min-w-20 items-center justify-center border-[1.5px] border-ink bg-sheet px-2 font-semibold">
            {hangs}
          </span>
        </div>
      </div>
      <p
        className={`loud line-clamp-3 pt-3 ${run?.stopped || late(machine, now) || (!run && machine.outcome === 'wall') ? 'text-wall' : ''}`}
        data-loud
      >
        {waiting ? (
          <span className="text-[44px] leading-none">{countdown(waiting.usualAt, now)}</span>
        ) : (
          <Unbroken text={wants(machine, now)} />
        )}
      </p>
      <p className="pt-1.5 pb-1 text-sm leading-snug">
        {run ? (
          <>
            {waiting && <span className="line-clamp-2">{firstSentence(run.step)}</span>}
            <span className="text-quiet">
              stop {run.at} of {run.of}
              {waiting && ` · usual ${run.usualMinutes} min, worry at ${clockTime(waiting.worryAt)}`} ·{' '}
              {run.with.split(' ')[0]}
            </span>
            {run.open.length > 0 && (
              <span className="block font-semibold">
                {run.open.length === 1 ? 'open: ' : `${run.open.length} open: `}
                {run.open[0]}
              </span>
            )}
            {run.note && <span className="line-clamp-2 text-quiet">“{run.note}”</span>}
          </>
        ) : (
          <>
            <span className={`font-semibold ${inkOf[machine.outcome]}`}>{machine.outcome}</span>
            {system && <span className="text-quiet"> for {system}</span>}
          </>
        )}
      </p>
    </Link>
  );
}

/** A wait fills the rail upwards, towards a hatched band where one worries. */
function WaitRail({ waiting, now }: { waiting: Schema['Waiting']; now: number }) {
  const begun = Date.parse(waiting.begunAt);
  const worry = Date.parse(waiting.worryAt);
  const share = (at: number) => `${Math.min(100, Math.max(0, ((at - begun) / (worry - begun)) * 88))}%`;
  return (
    <div className="absolute inset-y-0 -left-2 w-1.5 border border-rule" aria-hidden="true">
      <div className="absolute inset-x-0 bottom-0 bg-ink" style={{ height: share(now) }} />
      <div
        className="absolute inset-x-0 top-0 h-[12%] text-wall"
        style={{ background: 'repeating-linear-gradient(135deg, currentColor 0 2px, transparent 2px 5px)' }}
      />
    </div>
  );
}

/** Names of chips and modules have hyphens; a line must not end in the middle of one. */
function Unbroken({ text }: { text: string }) {
  return text.split(' ').map((word, i) => (
    <span key={i}>
      {i > 0 && ' '}
      <span className="whitespace-nowrap">{word}</span>
    </span>
  ));
}

function BayNumber({ bay }: { bay: number }) {
  return (
    <span className="font-name text-[44px] leading-none font-bold" data-loud>
      {bay}
    </span>
  );
}

/** A run that calls comes before all; else it is what the next step is. */
const urgency = (m: Summary, now: number) => {
  const run = running(m);
  if (!run) return 10 + handsOf[m.next.outcome];
  return over(m, now) ? 0 : run.stopped ? 1 : 2;
};

/** Days from the workshop's today to a day. */
const daysTo = (day: string, now: number) =>
  Math.round((Date.parse(day) - Date.parse(dayOf(new Date(now).toISOString()))) / 86_400_000);

/** An order that is late is said in the line of the bench: that is why its bay comes first, or should. */
const lateFor = (m: Summary, now: number) =>
  m.due && daysTo(m.due, now) < 0 ? ` ${m.order} is ${daysText(daysTo(m.due, now))}.` : '';

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);
