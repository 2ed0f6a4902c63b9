import { useQuery } from '@tanstack/react-query';
import { Link, useSearchParams } from 'react-router';
import { Refusal, type Schema, fails } from '../api/client';
import { routeFiles, workItems } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { pitch } from '../ladder/rungs';
import { TwinGlance, TwinStart } from '../rehearsal/TwinStart';
import { Failed, Loading } from '../shell/States';
import { OpenQuestions } from './OpenQuestions';
import { ItemList, Next, RungItems } from './WorkItems';

/** What the route needs made before one walks to the bench: each item at its rung, and what it was made from below. */
export function PrepareView() {
  const { sheet } = useMachine();
  const [search] = useSearchParams();
  const { data, error } = useQuery(workItems(sheet.tag, search.get('route') ?? undefined));
  if (error instanceof Refusal && error.where === 'routeId') return <Gone tag={sheet.tag} />;
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  return <Prepared work={data} />;
}

/** A link to a route outlives it: what the machine needs is another way now. */
function Gone({ tag }: { tag: string }) {
  return (
    <section aria-label="Prepare">
      <h2 className="font-name text-[40px] leading-[1.05] font-bold" data-loud>
        This route is not as it was.
      </h2>
      <p className="pt-2">
        Dossier, parts or catalogue have changed since it was chosen.{' '}
        <Link className="font-semibold underline underline-offset-4" to={`/machines/${tag}/routes`}>
          Choose among the routes of today
        </Link>
        , or prepare{' '}
        <Link className="font-semibold underline underline-offset-4" to={`/machines/${tag}/prepare`}>
          for the aim as it stands
        </Link>
        .
      </p>
    </section>
  );
}

function Prepared({ work }: { work: Schema['WorkSheet'] }) {
  const { systems, aim } = useMachine();
  const items = work.items;
  const open = items.filter((i) => !i.holds);
  const first = open.find((i) => i.next);
  const image = items.find((i) => i.kind === 'image')?.imageId ?? null;
  return (
    <section aria-label="Prepare">
      <div className="flex flex-col" style={{ minHeight: pitch * 10 }}>
        <div
          className="overflow-auto"
          style={{ minHeight: pitch * (items.some((i) => i.rung === 'disk') ? 4 : 5) }}
        >
          <TwinGlance wanted={image} system={work.system ?? aim.system} />
          <p className="caption">
            {work.runId ? 'For the run under way' : 'For the route'}:{' '}
            {systemName(systems.find((s) => s.id === work.system)) ||
              systemName(systems.find((s) => s.id === aim.system))}
            {work.school && `, ${work.school}`}
          </p>
          <h2 className="font-name text-[40px] leading-[1.05] font-bold" data-loud>
            {!work.routeId
              ? 'No route leads to this aim.'
              : items.length === 0
                ? 'Nothing has to be made.'
                : open.length === 0
                  ? 'All of it is ready.'
                  : `${open.length} of ${items.filter((i) => i.needed).length} still to be made.`}
          </h2>
          {!work.routeId && <p className="pt-2">Choose another under Routes or Systems.</p>}
          {first && work.routeId && (
            <div className="pt-3">
              <p className="pb-2 text-lg">
                <b>{first.title}.</b> {first.says}
              </p>
              <Next item={first} route={work.routeId} />
            </div>
          )}
        </div>
        {items.length > 0 && (
          <>
            {items.some((i) => i.rung === 'disk') && <RungItems rung="disk" items={items} />}
            <RungItems rung="setup" items={items} />
            <RungItems rung="medium" items={items} />
          </>
        )}
      </div>
      <div className="flex flex-col gap-4 lg:-ml-[532px]">
        <OpenQuestions asks={work.asks} />
        {items.length > 0 && work.routeId && <ItemList items={items} route={work.routeId} />}
        <TwinStart wanted={image} system={work.system ?? aim.system} />
        {work.routeId && !work.runId && <RouteFiles route={work.routeId} />}
      </div>
    </section>
  );
}

/** Files to take along, with their checksums, to read and to download. */
function RouteFiles({ route }: { route: string }) {
  const { sheet } = useMachine();
  const files = useQuery(routeFiles(sheet.tag, route));
  if (files.error) return <Failed error={files.error} />;
  if (!files.data || files.data.length === 0) return null;
  return (
    <section aria-label="Files to take along" className="border-t-[1.5px] border-ink pt-2">
      <h2 className="caption">Files to take along</h2>
      {files.data.map((file) => (
        <article key={file.name} className="border-b border-rule py-3">
          <h3 className="flex items-baseline gap-4">
            <b className="font-value text-lg">{file.name}</b>
            <span className="text-sm text-quiet">{file.sizeBytes} bytes</span>
            <a
              className="ml-auto flex min-h-9 items-center font-semibold underline underline-offset-4"
              href={`/api/machines/${sheet.tag}/routes/${route}/files/${file.name}`}
              download={file.name}
            >
              Download {file.name}
            </a>
          </h3>
          <p>{file.about}</p>
          <p className="font-value text-xs break-all text-quiet">SHA-256 {file.sha256}</p>
          {file.text !== null && (
            <pre
              tabIndex={0}
              aria-label={`Content of ${file.name}`}
              className="mt-1 max-h-52 overflow-auto border-l-2 border-ink bg-sheet px-3 py-2 font-value text-[13px] whitespace-pre-wrap"
            >
              {file.text}
            </pre>
          )}
        </article>
      ))}
    </section>
  );
}
