import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import { routeFiles, routes } from '../api/queries';
import { Failed, Loading } from '../shell/States';
import { systemName } from './facts';
import { InstallerImage } from './InstallerImage';
import { useMachine } from './MachinePage';

/** What the chosen route needs before one walks to the bench: the image, proved in a twin, and files to take along. */
export function PrepareView() {
  return (
    <section aria-label="Prepare">
      <InstallerImage />
      <div className="border-t-[1.5px] border-ink pt-2 lg:-ml-[532px]">
        <RouteFiles />
      </div>
    </section>
  );
}

/** The files of the chosen route with their checksums, to read and to download. */
function RouteFiles() {
  const { sheet, systems, aim } = useMachine();
  const all = useQuery(routes(sheet.tag));
  const [search] = useSearchParams();
  const route =
    all.data?.find((r) => r.id === search.get('route')) ?? all.data?.find((r) => r.system === aim.system);
  const files = useQuery({ ...routeFiles(sheet.tag, route?.id ?? ''), enabled: route !== undefined });
  if (all.error ?? files.error) return <Failed error={all.error ?? files.error} />;
  if (!all.data) return <Loading />;
  if (!route) return <p className="pt-2">No route leads to this aim. Choose another under Routes.</p>;
  return (
    <>
      <h2 className="font-name text-[32px] leading-none font-bold" data-loud>
        {systemName(systems.find((s) => s.id === route.system)) || 'Parts and recycling'}, {route.school}
      </h2>
      {files.data?.length === 0 && (
        <p className="pt-2">
          Nothing has to be made for this route: the maker’s own image goes onto the stick as it is.
        </p>
      )}
      {files.data?.map((file) => (
        <article key={file.name} className="border-b border-rule py-3">
          <h3 className="flex items-baseline gap-4">
            <b className="font-value text-lg">{file.name}</b>
            <span className="text-sm text-quiet">{file.sizeBytes} bytes</span>
            <a
              className="ml-auto flex min-h-9 items-center font-semibold underline underline-offset-4"
              href={`/api/machines/${sheet.tag}/routes/${route.id}/files/${file.name}`}
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
    </>
  );
}
