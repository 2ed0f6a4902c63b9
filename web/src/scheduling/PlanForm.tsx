import { useState } from 'react';
import { api, type Schema, take } from '../api/client';
import { useWrite } from '../api/queries';
import { JobLine } from '../jobs/JobLine';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Write } from '../pieces/fields';

type Person = Schema['PlanPerson'];

const skills: Record<Schema['Skill'], string> = { casing: 'open casings', programmer: 'chip programmer' };
const days = ['Mo', 'Tu', 'We', 'Th', 'Fr', 'Sa', 'Su'];
/** A day as the server counts it, Sunday first. */
const dayNumber = (i: number) => (i + 1) % 7;
const usual = [0, 1, 2, 3, 4].map(dayNumber);

const things: [keyof Schema['PlanResources'], string][] = [
  ['bays', 'Bays'],
  ['sticks', 'Sticks'],
  ['drops', 'Network drops'],
  ['programmers', 'Programmers'],
];

/** Who works, with what, and how long to look for the best plan. */
export function PlanForm({ view }: { view: Schema['PlansView'] }) {
  const [who] = useWho();
  const [people, setPeople] = useState<Person[]>(() =>
    view.people.length > 0 ? view.people : [fresh(who || 'Me')],
  );
  const [resources, setResources] = useState(view.resources);
  const [seconds, setSeconds] = useState('10');
  const [anew, setAnew] = useState(false);
  const [job, setJob] = useState<number | null>(null);
  const make = useWrite((body: Schema['BenchPlanIn']) => take(api.POST('/api/plans', { body })));
  const change = (i: number, to: Partial<Person>) => {
    setPeople(people.map((p, at) => (at === i ? { ...p, ...to } : p)));
  };
  return (
    <form
      aria-label="Make a plan"
      onSubmit={(event) => {
        event.preventDefault();
        make
          .mutateAsync({ people, resources, seconds: Number(seconds), enough: 0, anew, by: who || nobody })
          .then((begun) => {
            setJob(begun.id);
          })
          .catch(() => undefined);
      }}
    >
      {people.map((p, i) => (
        <fieldset key={i} className="border-b border-rule pb-2">
          <legend className="sr-only">Person {i + 1}</legend>
          <div className="flex items-end gap-3">
            <Write
              label="Who"
              value={p.name}
              set={(name) => {
                change(i, { name });
              }}
            />
            <Time
              label="from"
              value={p.from}
              set={(from) => {
                change(i, { from });
              }}
            />
            <Time
              label="to"
              value={p.to}
              set={(to) => {
                change(i, { to });
              }}
            />
          </div>
          <div className="flex flex-wrap gap-x-2">
            {days.map((name, d) => (
              <Tick
                key={name}
                name={name}
                is={(p.days ?? usual).includes(dayNumber(d))}
                set={(on) => {
                  const now = p.days ?? usual;
                  change(i, {
                    days: on ? [...now, dayNumber(d)] : now.filter((x) => x !== dayNumber(d)),
                  });
                }}
              />
            ))}
          </div>
          <div className="flex flex-wrap gap-x-4">
            {(Object.keys(skills) as Schema['Skill'][]).map((s) => (
              <Tick
                key={s}
                name={skills[s]}
                is={(p.skills ?? []).includes(s)}
                set={(on) => {
                  const now = p.skills ?? [];
                  change(i, { skills: on ? [...now, s] : now.filter((x) => x !== s) });
                }}
              />
            ))}
            {people.length > 1 && (
              <button
                type="button"
                className="ml-auto min-h-9 text-sm underline underline-offset-4"
                onClick={() => {
                  setPeople(people.filter((_, at) => at !== i));
                }}
              >
                not there
              </button>
            )}
          </div>
        </fieldset>
      ))}
      <button
        type="button"
        className="min-h-11 underline underline-offset-4"
        onClick={() => {
          setPeople([...people, fresh('')]);
        }}
      >
        Somebody else too
      </button>
      <div className="grid grid-cols-2 gap-x-4">
        {things.map(([key, name]) => (
          <Write
            key={key}
            label={name}
            value={`${resources[key]}`}
            set={(text) => {
              setResources({ ...resources, [key]: Number(text.replace(/\D/g, '')) });
            }}
          />
        ))}
      </div>
      <div className="flex items-end gap-4 pt-2">
        <Write
          label="Seconds to look"
          value={seconds}
          set={(text) => {
            setSeconds(text.replace(/\D/g, ''));
          }}
        />
        {view.plan && (
          <Tick
            name="all anew"
            is={anew}
            set={(on) => {
              setAnew(on);
            }}
          />
        )}
      </div>
      <button
        disabled={make.isPending}
        className="mt-3 min-h-12 w-full bg-ink px-6 text-lg font-semibold text-ground"
      >
        {view.plan && !anew ? 'Plan again, moving little' : 'Plan'}
      </button>
      {make.error && <Failed error={make.error} />}
      {job !== null && <JobLine id={job} failed="The plan before stands." />}
    </form>
  );
}

const fresh = (name: string): Person => ({
  name,
  from: '09:00:00',
  to: '17:00:00',
  skills: ['casing'],
  days: usual,
});

function Time({ label, value, set }: { label: string; value: string; set: (value: string) => void }) {
  const [typed, setTyped] = useState(value.slice(0, 5));
  return (
    <label className="block shrink-0">
      <span className="caption block">{label}</span>
      <input
        required
        inputMode="numeric"
        pattern="([01]?[0-9]|2[0-3]):[0-5][0-9]"
        title="Hours and minutes, such as 9:00"
        value={typed}
        className="h-9 w-[58px] border-b-2 border-ink bg-transparent font-value"
        onChange={(event) => {
          setTyped(event.target.value);
          const [hour = '', minute] = event.target.value.split(':');
          if (minute?.length === 2) set(`${hour.padStart(2, '0')}:${minute}:00`);
        }}
      />
    </label>
  );
}

function Tick({ name, is, set }: { name: string; is: boolean; set: (on: boolean) => void }) {
  return (
    <label className="flex min-h-9 items-center gap-1.5 text-sm whitespace-nowrap">
      <input
        type="checkbox"
        checked={is}
        className="size-4 accent-ink"
        onChange={(event) => {
          set(event.target.checked);
        }}
      />
      {name}
    </label>
  );
}
