import { Link } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { useWrite } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { verdicts } from '../images/words';
import { RungShape } from '../ladder/RungShape';
import { pitch, type RungName } from '../ladder/rungs';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Simulated } from '../pieces/Simulated';

type Item = Schema['WorkItem'];

/** How a state is drawn, and its word. A thing that nobody needs is no gap. */
const states: Record<Item['state'], { outcome: Schema['Outcome']; ink: string }> = {
  ready: { outcome: 'clear', ink: 'text-clear' },
  stale: { outcome: 'setting', ink: 'text-setting' },
  missing: { outcome: 'unknown', ink: 'text-unknown' },
};

/** A state as a shape with its word beside it. */
export function State({ item }: { item: Item }) {
  const { outcome, ink } = item.needed
    ? states[item.state]
    : { outcome: 'caveat' as const, ink: 'text-caveat' };
  return (
    <span className="inline-flex items-center gap-1.5" data-state={item.state}>
      <RungShape outcome={outcome} width={36} bar={8} />
      <b className={ink}>{item.needed ? item.state : 'not needed'}</b>
    </span>
  );
}

/** The items of one rung, at its height: each with its state; what the starts in the twin showed of it stands at the end. */
export function RungItems({ rung, items }: { rung: RungName; items: Item[] }) {
  const here = items.filter((i) => i.rung === rung);
  const seen = items.flatMap((i) => i.evidence)[0];
  return (
    <div
      className="flex items-stretch gap-4 overflow-hidden border-y border-ink bg-sheet px-2"
      style={{ height: pitch }}
      data-rung-items={rung}
    >
      {here.map((item) => (
        <p key={item.id} className="flex min-w-0 flex-1 flex-col justify-center text-[13.5px] leading-tight">
          <State item={item} />
          <span className="truncate">{rung === 'disk' ? item.says : item.title}</span>
        </p>
      ))}
      {rung !== 'disk' && (
        <p
          className="flex min-w-0 flex-1 flex-col justify-center border-l border-rule pl-3 text-[13.5px] leading-tight"
          data-evidence={rung}
        >
          <Showed rung={rung} seen={seen} />
        </p>
      )}
    </div>
  );
}

/** What a start shows about one rung; one of another image, dossier or set-up shows nothing. */
function Showed({ rung, seen }: { rung: RungName; seen: Schema['RehearsalSeen'] | undefined }) {
  const what = rung === 'medium' ? 'Its start' : 'Its own checks';
  if (!seen) return <span className="text-quiet">{what}: not tried in a twin yet.</span>;
  if (!seen.isEvidence)
    return (
      <>
        <span className="inline-flex items-center gap-1.5">
          <RungShape outcome="unknown" width={36} bar={8} />
          <b className="text-unknown">{what}: open</b>
        </span>
        <span className="line-clamp-1 text-quiet">the last start is {seen.ofAnother.join(', ')}</span>
      </>
    );
  const verdict = verdicts[seen.record.verdict];
  const reached = seen.record.verdict !== 'nothing';
  const outcome = rung === 'medium' ? (reached ? 'clear' : 'wall') : (verdict?.outcome ?? 'unknown');
  return (
    <>
      <span className="inline-flex items-center gap-1.5">
        <RungShape outcome={outcome} width={36} bar={8} />
        <b>
          {what}: {rung === 'medium' ? (reached ? 'seen' : 'no') : (verdict?.word ?? '')}
        </b>
      </span>
      <span className="line-clamp-1 text-quiet">{seen.record.why}</span>
    </>
  );
}

/** Every item in the order of the work: why it stands so, what it was made from, and its one next action. */
export function ItemList({ items, route }: { items: Item[]; route: string }) {
  return (
    <ol aria-label="Work items" className="border-t-[1.5px] border-ink">
      {items.map((item) => (
        <li
          key={item.id}
          className="grid grid-cols-1 gap-x-5 border-b border-rule py-2 lg:grid-cols-[132px_minmax(0,1fr)_auto]"
          data-item={item.id}
        >
          <State item={item} />
          <div className="min-w-0">
            <b className="text-[17px]">{item.title}</b> <span className="text-quiet">{item.says}</span>
            {item.for && (
              <p className="text-sm text-quiet">
                Ready by step {item.for.number}: {item.for.text}
              </p>
            )}
            {item.from.length > 0 && (
              <p className="font-value text-xs break-all text-quiet">
                {item.from.map((f) => `${f.what} ${f.value}`).join(' · ')}
              </p>
            )}
            <Simulated
              says={item.simulated}
              imageId={item.imageId}
              sha256={item.from.find((f) => f.what === 'image')?.value}
            />
            {item.evidence.slice(0, 2).map((e) => (
              <p key={e.record.job} className="text-sm">
                {e.isEvidence ? (
                  <b className="text-clear">Seen in the twin: </b>
                ) : (
                  <span className="text-quiet">A start {e.ofAnother.join(', ')}: </span>
                )}
                {verdicts[e.record.verdict]?.word}, as a {e.record.startedAs} by {e.record.firmware}.
              </p>
            ))}
          </div>
          <Next item={item} route={route} />
        </li>
      ))}
    </ol>
  );
}

/** The one next action: a page where it is read first and then done, or what is made at once. */
export function Next({ item, route }: { item: Item; route: string }) {
  const { sheet, aim } = useMachine();
  const [who] = useWho();
  const make = useWrite(() =>
    take(
      api.POST('/api/machines/{tag}/routes/{route}/recipe', {
        params: { path: { tag: sheet.tag, route } },
        body: { by: who || nobody },
      }),
    ),
  );
  const { next } = item;
  if (!next) return null;
  const look = 'inline-flex min-h-11 items-center border-[1.5px] border-ink px-4 font-semibold';
  if (next.action === 'makeRecipe')
    return (
      <div>
        <button
          type="button"
          disabled={make.isPending}
          className={look}
          onClick={() => {
            make.mutate(undefined);
          }}
        >
          {next.says}
        </button>
        {make.error && <Failed error={make.error} />}
      </div>
    );
  const where: Record<Exclude<typeof next.action, 'makeRecipe'>, string> = {
    bringImage: `/shelf/images?for=${sheet.tag}`,
    applyRecipe: `/images/${next.imageId ?? ''}?recipe=${next.recipe ?? ''}&for=${sheet.tag}`,
    buildAnswers: `/shelf/recipes?build=answers&system=${aim.system}&tag=${sheet.tag}&for=${sheet.tag}`,
    buildTrim: `/shelf/recipes?build=trim&system=${aim.system}&for=${sheet.tag}`,
    planLayout: `/machines/${sheet.tag}/layout`,
    workOnChip: `/shelf/chips?tag=${sheet.tag}&for=${sheet.tag}`,
    planSwitches: `/machines/${sheet.tag}/switches?route=${route}`,
    giveIdentity: `/machines/${sheet.tag}/identity`,
    buildKit: `/machines/${sheet.tag}/kit`,
    putKit: `/machines/${sheet.tag}/kit?image=${next.imageId ?? ''}`,
    writeMedium: `/shelf/media?image=${next.imageId ?? ''}&tag=${sheet.tag}&for=${sheet.tag}`,
  };
  return (
    <Link to={where[next.action]} className={look}>
      {next.says}
    </Link>
  );
}
