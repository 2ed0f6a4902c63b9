import { useQuery } from '@tanstack/react-query';
import { fails } from '../api/client';
import { plans } from '../api/queries';
import { clockTime } from '../shell/time';
import { Failed, Loading } from '../shell/States';
import { DoNow } from './DoNow';
import { Gives } from './Gives';
import { dayName, PlanChart } from './PlanChart';
import { PlanForm } from './PlanForm';
import { counted } from '../pieces/counted';

/** Which machine for whom, and who does what when. */
export function PlanPage() {
  const { data, error } = useQuery(plans);
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const { plan } = data;
  return (
    <div className="pt-4">
      <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
        {!plan
          ? 'Nothing is planned yet.'
          : plan.tasks.length === 0
            ? 'There is nothing to do.'
            : `All done on ${dayName(Date.parse(plan.over))}, ${clockTime(plan.over)}.`}
      </h1>
      {plan && (
        <p className="pt-1 text-quiet" data-gap={plan.gap}>
          {plan.status === 'optimal'
            ? 'No plan is over sooner. '
            : `At most ${(plan.gap * 100).toFixed(1)} % could be saved by a better one. `}
          {plan.lateMinutes > 0 && (
            <b className="text-wall">{counted(Math.ceil(plan.lateMinutes / 60), 'hour')} late in all. </b>
          )}
          {plan.compared > 0 && `${plan.moved} of ${plan.compared} tasks lie elsewhere than before. `}
          {plan.listRule > plan.objective &&
            `The plain rule would take ${plan.listRule - plan.objective} min longer.`}
        </p>
      )}
      <DoNow now={data.now} />
      {plan && plan.tasks.length > 0 && <PlanChart plan={plan} />}
      <div className="grid gap-x-10 pt-6 lg:grid-cols-[minmax(0,1fr)_340px]">
        <div>
          {plan ? (
            <Gives plan={plan} />
          ) : (
            <p className="max-w-[60ch] text-quiet">
              A plan gives the machines that are here to the orders, each with a route that keeps the order’s
              limits, and lays the steps of their sheets so that waits overlap and nobody, no bay, stick, drop
              or programmer is wanted twice at once.
            </p>
          )}
        </div>
        <aside className="border-l border-rule pl-6">
          <PlanForm key={data.jobId ?? 0} view={data} />
        </aside>
      </div>
    </div>
  );
}
