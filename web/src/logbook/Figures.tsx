import { queryOptions, useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, fails, type Schema, take } from '../api/client';
import { moneyText } from '../dossiers/facts';
import { dayInWords } from '../shell/time';
import { Failed, Loading } from '../shell/States';

const figures = queryOptions({
  queryKey: ['figures'],
  queryFn: () => take(api.GET('/api/figures')),
});

const monthName = (day: string) => dayInWords(day, { month: 'short', year: '2-digit' });

/** What came of the work, as it is recorded. */
export function Figures() {
  const { data, error } = useQuery(figures);
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const most = Math.max(1, ...data.months.map((m) => Math.max(m.begun, m.finished)));
  return (
    <div className="grid gap-x-10 pt-4 lg:grid-cols-[minmax(0,1fr)_280px]">
      <div>
        <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
          {data.inUse} kept in use.
        </h1>
        <p className="pt-1 text-quiet">
          Of each machine its latest run counts; what is not recorded is not guessed.
        </p>
        <section aria-label="Month by month" className="pt-5">
          <h2 className="caption border-b-[1.5px] border-ink">Month by month</h2>
          {data.months.length === 0 && <p className="py-2 text-quiet">Nothing is recorded yet.</p>}
          <table className="w-full">
            <thead>
              <tr className="caption text-left">
                <th className="py-1 font-normal">month</th>
                <th className="font-normal">begun and finished</th>
                <th className="text-right font-normal">given up</th>
                <th className="text-right font-normal">planned</th>
                <th className="text-right font-normal">took</th>
                <th className="text-right font-normal">pace</th>
              </tr>
            </thead>
            <tbody>
              {data.months.map((m) => (
                <tr key={m.month} className="border-t border-rule">
                  <td className="py-1 font-value">{monthName(m.month)}</td>
                  <td className="w-1/2 py-1">
                    <Part of={most} count={m.begun} name="begun" filled={false} />
                    <Part of={most} count={m.finished} name="finished" filled />
                  </td>
                  <td className="text-right font-value">{m.givenUp}</td>
                  <td className="text-right font-value whitespace-nowrap">{hours(m.plannedMinutes)}</td>
                  <td className="text-right font-value whitespace-nowrap">{hours(m.tookMinutes)}</td>
                  <td className="text-right font-value">
                    {m.pace === null ? '–' : `× ${m.pace.toFixed(2)}`}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </section>
        <div className="grid gap-x-10 md:grid-cols-2">
          <CameOut name="By system" rows={data.bySystem} />
          <CameOut name="By way" rows={data.bySchool} />
        </div>
        <section aria-label="What made runs stop" className="pt-5">
          <h2 className="caption border-b-[1.5px] border-ink">What made runs stop</h2>
          {data.causes.length === 0 && <p className="py-2 text-quiet">No cause was found yet.</p>}
          <ul>
            {data.causes.map((c) => (
              <li key={c.about} className="flex gap-4 border-b border-rule py-1">
                <span className="w-8 text-right font-value">{c.times}</span>
                {c.about}
              </li>
            ))}
          </ul>
        </section>
      </div>
      <aside className="border-l border-rule pl-6">
        <p className="caption">A month of updates costs</p>
        <p className="font-name text-[36px] leading-none font-bold" data-loud>
          {data.moneyPerMonth === null ? '–' : moneyText(data.moneyPerMonth)}
        </p>
        <p className="pb-4 text-quiet">parts, fees and hours counted</p>
        <p className="caption">Not thrown away</p>
        <p className="font-name text-[36px] leading-none font-bold" data-loud>
          {(data.grams / 1000).toFixed(1)} kg
        </p>
        <p className="pb-4 text-quiet">
          of {data.weighed} of {data.inUse}, by{' '}
          <Link to="/catalogue/weights" className="underline underline-offset-4">
            what machines weigh
          </Link>
        </p>
        {(
          [
            ['/api/figures/report', 'Report, as a page'],
            ['/api/figures/report.pdf', 'Report, as PDF'],
            ['/api/figures.csv', 'Months, as a table'],
          ] as const
        ).map(([to, name]) => (
          <p key={to}>
            <a className="inline-flex min-h-11 items-center underline underline-offset-4" href={to}>
              {name}
            </a>
          </p>
        ))}
      </aside>
    </div>
  );
}

const hours = (minutes: number) => `${Math.floor(minutes / 60)} h ${minutes % 60}`;

function Part({ of, count, name, filled }: { of: number; count: number; name: string; filled: boolean }) {
  return (
    <span className="flex items-center gap-2">
      <span
        className={`h-2.5 border-[1.5px] border-ink ${filled ? 'bg-ink' : ''}`}
        style={{ width: `${(count / of) * 70}%` }}
      />
      <span className="text-sm whitespace-nowrap text-quiet">
        {count} {name}
      </span>
    </span>
  );
}

function CameOut({ name, rows }: { name: string; rows: Schema['CameOut'][] }) {
  return (
    <section aria-label={name} className="pt-5">
      <h2 className="caption border-b-[1.5px] border-ink">{name}</h2>
      <ul>
        {rows.map((r) => (
          <li key={r.name} className="border-b border-rule py-1">
            <b>{r.name}</b>{' '}
            <span className="text-quiet">
              {r.finished} finished, {r.withoutStop} without a stop
              {r.givenUp > 0 && `, ${r.givenUp} given up`}
              {r.open > 0 && `, ${r.open} under way`}
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
