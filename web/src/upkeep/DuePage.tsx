import { queryOptions, useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import { api, fails, type Schema, take } from '../api/client';
import { dayInWords } from '../shell/time';
import { Failed, Loading } from '../shell/States';
import { CanaryList } from './CanaryList';
import { counted } from '../pieces/counted';

const due = queryOptions({
  queryKey: ['due'],
  queryFn: () => take(api.GET('/api/due')),
});

const names: Record<Schema['DueKind'], string> = {
  supportEnds: 'updates end',
  buyExtension: 'updates to buy',
  patchCheck: 'patches',
  batteryCheck: 'battery',
  orderDue: 'order',
  sourceGoes: 'image',
};

const month = (day: string) => dayInWords(day, { month: 'long', year: 'numeric' });

/** What falls due: machines that have left, and orders; month by month. */
export function DuePage() {
  const { data, error } = useQuery(due);
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const over = data.due.filter((d) => d.on < data.today);
  const coming = data.due.filter((d) => d.on >= data.today);
  const months = [...new Set(coming.map((d) => month(d.on)))];
  const next = coming[0];
  return (
    <div className="grid gap-x-10 pt-4 lg:grid-cols-[minmax(0,1fr)_280px]">
      <div>
        <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
          {over.length > 0 ? (
            <span className="text-wall">{over.length} overdue.</span>
          ) : next ? (
            `${next.what}, ${next.on === data.today ? 'today' : `in ${counted(daysTo(data.today, next.on), 'day')}`}.`
          ) : (
            'Nothing falls due.'
          )}
        </h1>
        {over.length > 0 && <Month name="Overdue" items={over} today={data.today} />}
        {months.map((name) => (
          <Month
            key={name}
            name={name}
            items={coming.filter((d) => month(d.on) === name)}
            today={data.today}
          />
        ))}
        <CanaryList />
      </div>
      <aside className="border-l border-rule pl-6">
        <p className="caption">Looked after</p>
        <p className="font-name text-[36px] leading-none font-bold tabular-nums">{data.left}</p>
        <p className="pb-4 text-quiet">{data.left === 1 ? 'machine has' : 'machines have'} left.</p>
        <p>
          <a
            className="inline-flex min-h-11 items-center underline underline-offset-4"
            href="/api/calendar.ics"
          >
            As a calendar
          </a>
        </p>
        <p className="text-sm text-quiet">
          iCalendar. A calendar program on this computer can subscribe to the address of this link, and then
          shows what is added later.
        </p>
      </aside>
    </div>
  );
}

const daysTo = (today: string, on: string) =>
  Math.round((Date.parse(`${on}T00:00:00Z`) - Date.parse(`${today}T00:00:00Z`)) / 86_400_000);

function Month({ name, items, today }: { name: string; items: Schema['Due'][]; today: string }) {
  return (
    <section aria-label={name} className="pt-4">
      <h2 className="caption border-b-[1.5px] border-ink">{name}</h2>
      <ul>
        {items.map((d) => (
          <li
            key={d.id}
            className="grid grid-cols-[76px_112px_minmax(0,1fr)] items-baseline gap-x-4 border-b border-rule py-1.5"
          >
            <span className={`font-value tabular-nums ${d.on < today ? 'font-bold text-wall' : ''}`}>
              {d.on.slice(8)}. {name === 'Overdue' && d.on.slice(0, 7)}
            </span>
            <span className="text-quiet">{names[d.kind]}</span>
            <span>
              {d.tag ? (
                <Link
                  className="font-semibold underline underline-offset-4"
                  to={`/machines/${d.tag}/handover`}
                >
                  {d.what}
                </Link>
              ) : (
                <b>{d.what}</b>
              )}
              <span className="block text-[14.5px] text-quiet">{d.why}</span>
            </span>
          </li>
        ))}
      </ul>
    </section>
  );
}
