import { useQuery } from '@tanstack/react-query';
import { cheapest, missingRoutes } from '../api/queries';
import { moneyText, systemName } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { Failed, Loading } from '../shell/States';
import { schoolSays } from './words';

/** Why the aim has no route of some school: what stands in the way, and why each cure does not help. */
export function MissingPanel() {
  const { sheet, aim, systems } = useMachine();
  const missing = useQuery(missingRoutes(sheet.tag, aim.system));
  const way = useQuery(cheapest(sheet.tag, aim.system)).data;
  if (missing.error) return <Failed error={missing.error} />;
  if (!missing.data) return <Loading />;
  return (
    <section aria-label="Missing routes">
      <h2 className="pt-1.5 font-name text-2xl font-bold">
        {systemName(systems.find((s) => s.id === aim.system))}
      </h2>
      {way?.route ? (
        <p>
          <b>The cheapest way</b>: {way.route.cures.map((c) => c.brief ?? c.does).join(', ') || 'as it is'},{' '}
          {moneyText(way.route.money)}, {way.route.handsOnMinutes} min of work.
        </p>
      ) : (
        way && <p>There is no way to get it onto this machine.</p>
      )}
      {missing.data.length === 0 && <p className="pt-2">Every school has a route.</p>}
      <ul>
        {missing.data.map((m) => (
          <li key={m.school} className="border-b border-rule py-2">
            <p>
              <b>No {m.school}.</b> <span className="text-quiet">{schoolSays[m.school]}</span>
            </p>
            <p>{m.text}</p>
            {m.obstacles.some((o) => o.tried.length > 0) && (
              <ul className="pt-1 text-sm">
                {m.obstacles.flatMap((o) =>
                  o.tried.map((t) => (
                    <li key={`${o.requirement} ${t.cure}`} className="flex gap-2">
                      <span className="w-16 shrink-0 text-quiet">{o.rung}</span>
                      <span>
                        {t.does}
                        {t.money > 0 && ` (${moneyText(t.money)})`}: {t.why}.
                      </span>
                    </li>
                  )),
                )}
              </ul>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
