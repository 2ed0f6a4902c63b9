import type { Schema } from '../api/client';
import { Rails } from '../ladder/Ladder';
import { RungShape } from '../ladder/RungShape';
import { inkOf } from '../ladder/outcomes';
import { moneyText } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { percent, support, useRouteName } from './words';

const step = 30;

/** Two routes as two ladders: what is broken, what each mends where, and the numbers against each other. */
export function SideBySide({
  one,
  other,
  all,
  pick,
}: {
  one: Schema['Route'];
  other: Schema['Route'];
  all: Schema['Route'][];
  pick: (id: string) => void;
}) {
  const name = useRouteName();
  return (
    <section aria-label="Two routes side by side">
      <label className="flex items-center gap-3 py-1.5">
        <span className="caption">against</span>
        <select
          className="h-9 min-w-0 flex-1 border-b-[1.5px] border-ink bg-ground"
          value={other.id}
          onChange={(event) => {
            pick(event.target.value);
          }}
        >
          {all
            .filter((r) => r.id !== one.id)
            .map((r) => (
              <option key={r.id} value={r.id}>
                {name(r)}, {r.school}, {moneyText(r.money)}, {support(r)}
              </option>
            ))}
        </select>
      </label>
      <div className="grid grid-cols-2 gap-x-4">
        <Side route={one} />
        <Side route={other} />
      </div>
      <table className="w-full text-left text-[15px]">
        <caption className="sr-only">The two in numbers</caption>
        <tbody>
          {rows.map(([label, value, less]) => {
            const [a, b] = [value(one), value(other)];
            const [first, second] = [less(one), less(other)];
            return (
              <tr key={label} className="border-t border-rule">
                <th scope="row" className="caption w-24 py-1 font-normal">
                  {label}
                </th>
                <td className={first < second ? 'font-bold' : ''}>{a}</td>
                <td className={second < first ? 'font-bold' : ''}>{b}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

const rows: [
  label: string,
  value: (r: Schema['Route']) => string,
  /** The less the better; what is better is set in bold. */
  less: (r: Schema['Route']) => number,
][] = [
  ['score', (r) => r.score.toFixed(1), (r) => -r.score],
  ['money', (r) => moneyText(r.money), (r) => r.money],
  ['hands on', (r) => `${r.handsOnMinutes} min`, (r) => r.handsOnMinutes],
  ['risk', (r) => percent(r.risk), (r) => r.risk],
  ['support', support, (r) => -(r.supportMonths ?? 9999)],
  ['fit', (r) => `${r.fit} of 100`, (r) => -r.fit],
  ['with hours paid', (r) => (r.worth ? moneyText(r.worth.total) : 'nothing'), (r) => r.worth?.total ?? 0],
  ['undo', (r) => (r.reversible ? 'all of it' : 'not all of it'), (r) => (r.reversible ? 0 : 1)],
];

function Side({ route }: { route: Schema['Route'] }) {
  const { all } = useMachine();
  const name = useRouteName();
  const before = all.find((a) => a.system === route.system);
  return (
    <div className="min-w-0">
      <h3 className="truncate font-name text-xl font-bold">{name(route)}</h3>
      <p className="pb-1 text-sm text-quiet">{route.school}</p>
      <div className="relative" style={{ height: step * 10 }}>
        <div className="absolute inset-y-0 left-0 w-14">
          <Rails light />
        </div>
        <ol className="absolute inset-0" aria-label={`${name(route)}, rung by rung`}>
          {before?.rungs.map((rung, i) => {
            const cures = route.cures.filter((c) => mends(c, rung));
            return (
              <li
                key={rung.rung}
                className="absolute inset-x-0 flex items-center gap-2"
                style={{ bottom: i * step, height: step }}
              >
                <span className="ml-0.5">
                  <RungShape outcome={rung.outcome} width={52} bar={8} />
                </span>
                <span className="min-w-0 text-[13px] leading-tight">
                  {cures.length > 0 ? (
                    <span className="line-clamp-2">
                      <b className={inkOf[rung.outcome]} aria-label="mended">
                        ✓
                      </b>{' '}
                      {cures.map((c) => c.brief ?? c.does).join(' · ')}
                    </span>
                  ) : (
                    <span className={inkOf[rung.outcome]}>
                      {rung.rung} {rung.outcome}
                    </span>
                  )}
                </span>
              </li>
            );
          })}
        </ol>
      </div>
    </div>
  );
}

/** Whether a cure has to do with something that is broken on the rung: it is offered there, lifts it, or sets its facts. */
const mends = (cure: Schema['Cure'], rung: Schema['RungStanding']) =>
  rung.findings.some(
    (f) =>
      f.outcome !== 'clear' &&
      (f.cures.some((c) => c.id === cure.id) ||
        cure.lifts?.some((gate) => gate.endsWith(`/${f.requirement}`)) === true ||
        f.facts.some((key) => cure.sets !== null && key in cure.sets)),
  );
