import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, Refusal, type Schema, take } from '../api/client';
import { fileOf, folderOf, image, inspection, preview, recipes } from '../api/imageQueries';
import { systems, useWrite } from '../api/queries';
import { systemName } from '../machine/facts';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Choose, Write } from './fields';
import { Difference, JobLine, YesNo } from './parts';
import { bytesText, startNames, trustNames } from './words';

/** One image: how it starts, what lies where on it, its files, and the recipes that fit it. */
export function ImagePage() {
  const id = Number(useParams()['id']);
  const sheet = useQuery(image(id));
  const whole = sheet.data?.image.whole ?? false;
  const seen = useQuery({ ...inspection(id), enabled: whole });
  const known = useQuery(systems);
  const [file, setFile] = useState<string | null>(null);
  if (sheet.error ?? seen.error) return <Failed error={sheet.error ?? seen.error} />;
  if (!sheet.data || !known.data) return <Loading />;
  const { image: about, checksum, manifest } = sheet.data;
  return (
    <div className="flex flex-1 flex-col pb-8">
      <header className="border-b-[1.5px] border-ink pt-2 pb-1.5">
        <p className="text-sm">
          <Link to="/shelf/images" className="underline underline-offset-4">
            All images
          </Link>
        </p>
        <h1 className="font-name text-[44px] leading-none font-bold break-all" data-loud>
          {about.name}
        </h1>
        <p className="pt-1">
          {systemName(known.data.find((s) => s.id === about.system)) || 'System not said'}
          {about.build && `, build ${about.build}`} · {bytesText(about.sizeBytes)} · by{' '}
          {trustNames[about.trust] ?? about.trust}
          {about.from && `, ${about.from}`} · put here by {about.by}
        </p>
        <p className="font-value text-xs break-all text-quiet">
          SHA-256 {about.sha256 ?? 'not yet'}{' '}
          {checksum.says === 'matches' && <span className="text-clear">as in {checksum.from}</span>}
          {checksum.says === 'differs' && (
            <b className="text-wall">
              {checksum.from} lists {checksum.listed}
            </b>
          )}
        </p>
      </header>
      <About key={about.version} about={about} systems={known.data} />
      {!whole && (
        <p className="py-4 text-lg">It is not whole: drop the same file on the shelf again to go on.</p>
      )}
      {seen.data && (
        <div className="grid grid-cols-1 gap-x-8 pt-3 lg:grid-cols-[430px_minmax(0,1fr)]">
          <div>
            <Starts seen={seen.data} />
            <ToScale seen={seen.data} />
            <FindingList seen={seen.data} />
          </div>
          <div className="min-w-0">
            {manifest && <Manifest sheet={sheet.data} manifest={manifest} />}
            <Recipes about={about} />
            <section
              aria-label="Files"
              className="grid grid-cols-1 gap-x-5 pt-3 sm:grid-cols-[240px_minmax(0,1fr)]"
            >
              <Tree id={id} open={setFile} chosen={file} />
              <Content id={id} path={file} />
            </section>
          </div>
        </div>
      )}
    </div>
  );
}

/** What is said of an image, to be changed; and the way off the shelf. */
function About({
  about,
  systems: known,
}: {
  about: Schema['StoredImage'];
  systems: Schema['SystemEntry'][];
}) {
  const [who] = useWho();
  const go = useNavigate();
  const [open, setOpen] = useState(false);
  const [said, setSaid] = useState({
    name: about.name,
    system: about.system ?? '',
    build: about.build ?? '',
    from: about.from,
    trust: about.trust as Schema['Trust'],
    notes: about.notes,
  });
  const change = useWrite(() =>
    take(
      api.PUT('/api/images/{id}', {
        params: { path: { id: about.id } },
        body: {
          version: about.version,
          image: {
            ...said,
            system: said.system || null,
            build: said.build || null,
            sizeBytes: about.sizeBytes,
            file: null,
            by: who || nobody,
          },
        },
      }),
    ),
  );
  const remove = useWrite(async () => {
    const { error, response } = await api.DELETE('/api/images/{id}', { params: { path: { id: about.id } } });
    if (error) throw new Refusal(response.status, error);
  });
  const set = (to: Partial<typeof said>) => {
    setSaid({ ...said, ...to });
  };
  return (
    <div className="pt-1">
      {about.notes && !open && <p className="whitespace-pre-line">{about.notes}</p>}
      <button
        type="button"
        aria-expanded={open}
        className="min-h-6 text-sm underline underline-offset-4"
        onClick={() => {
          setOpen(!open);
        }}
      >
        Change what is said of it
      </button>
      {open && (
        <form
          aria-label="What is said of it"
          className="grid grid-cols-2 gap-x-5 gap-y-2 border-b border-rule pb-3 lg:grid-cols-4"
          onSubmit={(event) => {
            event.preventDefault();
            change.mutate(undefined, {
              onSuccess: () => {
                setOpen(false);
              },
            });
          }}
        >
          <Write
            label="File name"
            value={said.name}
            set={(name) => {
              set({ name });
            }}
          />
          <Choose
            label="Installs"
            value={said.system}
            set={(system) => {
              set({ system });
            }}
          >
            <option value="">not said</option>
            {known.map((s) => (
              <option key={s.id} value={s.id}>
                {systemName(s)}
              </option>
            ))}
          </Choose>
          <Write
            label="Build"
            value={said.build}
            set={(build) => {
              set({ build });
            }}
          />
          <Choose
            label="Made by"
            value={said.trust}
            set={(trust) => {
              set({ trust: trust as Schema['Trust'] });
            }}
          >
            {Object.entries(trustNames).map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Choose>
          <Write
            label="Where it came from"
            value={said.from}
            set={(from) => {
              set({ from });
            }}
          />
          <label className="col-span-2 block">
            <span className="caption block">Notes</span>
            <textarea
              className="h-16 w-full border-[1.5px] border-quiet bg-transparent p-1"
              value={said.notes}
              onChange={(event) => {
                set({ notes: event.target.value });
              }}
            />
          </label>
          <div className="flex items-end gap-4">
            <button disabled={change.isPending} className="min-h-11 bg-ink px-5 font-semibold text-ground">
              Save
            </button>
            <button
              type="button"
              disabled={remove.isPending}
              className="min-h-11 text-wall underline underline-offset-4"
              onClick={() => {
                remove.mutate(undefined, {
                  onSuccess: () => {
                    void go('/shelf/images');
                  },
                });
              }}
            >
              Take it off the shelf, with its file
            </button>
          </div>
          {change.error && <Failed error={change.error} />}
          {remove.error && <Failed error={remove.error} />}
        </form>
      )}
    </div>
  );
}

function Starts({ seen }: { seen: Schema['Inspection'] }) {
  return (
    <section aria-label="How it starts">
      <h2 className="caption">How it starts</h2>
      <ul>
        {startNames.map(([key, name]) => (
          <li
            key={key}
            className="grid grid-cols-[92px_70px_minmax(0,1fr)] items-baseline border-b border-rule py-1"
          >
            <b>{name}</b>
            <YesNo can={seen.starts[key].can} />
            <span className="text-[13.5px] text-quiet">{seen.starts[key].why}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What lies where, along the whole image; what is thinner than a hair gets one. */
function ToScale({ seen }: { seen: Schema['Inspection'] }) {
  const stretches = [
    ...seen.fileSystems
      .filter((f) => f.in === 'disc')
      .map((f) => ({ name: f.kind, at: 0, size: seen.sizeBytes, row: 0 })),
    ...seen.partitions
      .filter((p) => p.type !== 'ee')
      .map((p) => ({
        name: `${p.table === 'gpt' ? 'GPT' : 'MBR'} ${p.number}${p.name ? `, ${p.name}` : ''}`,
        at: p.offsetBytes,
        size: p.sizeBytes,
        row: p.table === 'gpt' ? 1 : 2,
      })),
    ...seen.elTorito.map((e) => ({
      name: `El Torito ${e.platform === 'bios' ? 'BIOS' : e.platform.toUpperCase()}`,
      at: e.offset,
      size: e.loadSectors * 512,
      row: 3,
    })),
  ];
  const rows = [0, 1, 2, 3].filter((row) => stretches.some((s) => s.row === row));
  return (
    <section aria-label="What lies where" className="pt-3">
      <h2 className="caption">What lies where, to scale</h2>
      {rows.map((row) => (
        <div key={row} className="relative mt-1 h-[18px] border border-rule">
          {stretches
            .filter((s) => s.row === row)
            .map((s, i) => (
              <span
                key={i}
                title={`${s.name}: ${bytesText(s.size)} from ${s.at}`}
                className="absolute inset-y-0 overflow-hidden border-x-[1.5px] border-ink bg-rule/60 px-1 text-[11px] leading-4 whitespace-nowrap"
                style={{
                  left: `${(s.at / seen.sizeBytes) * 100}%`,
                  width: `max(3px, ${(s.size / seen.sizeBytes) * 100}%)`,
                }}
              >
                {s.size / seen.sizeBytes > 0.12 ? s.name : ''}
              </span>
            ))}
        </div>
      ))}
      <p className="pt-1 text-sm text-quiet">
        0 to {bytesText(seen.sizeBytes)}
        {seen.largestFile &&
          `; largest file ${seen.largestFile.path}, ${bytesText(seen.largestFile.sizeBytes)}`}
      </p>
      <ul className="text-sm">
        {seen.loaders.map((l) => (
          <li key={l.in + l.path}>
            <span className="font-value text-[13px]">{l.path}</span> in {l.in}:{' '}
            {l.machine ?? 'no UEFI program'}
            {l.hasSignature ? ', signed' : ', not signed'}
          </li>
        ))}
      </ul>
    </section>
  );
}

function FindingList({ seen }: { seen: Schema['Inspection'] }) {
  if (seen.findings.length === 0) return <p className="pt-3 text-clear">Nothing on it is damaged.</p>;
  return (
    <section aria-label="Findings" className="pt-3">
      <h2 className="caption">Findings</h2>
      <ul>
        {seen.findings.map((f, i) => (
          <li key={i} className={`border-l-4 pl-2 ${f.fault ? 'border-wall' : 'border-setting'}`}>
            {f.what} <span className="text-sm text-quiet">{f.where}</span>
          </li>
        ))}
      </ul>
    </section>
  );
}

function Manifest({ sheet, manifest }: { sheet: Schema['ImageSheet']; manifest: Schema['PatchManifest'] }) {
  const go = useNavigate();
  const undo = useWrite(() =>
    take(api.POST('/api/images/{id}/undo', { params: { path: { id: sheet.image.id } } })),
  );
  return (
    <section aria-label="Manifest" className="border-l-4 border-patch pl-3">
      <p>
        Patched here by {manifest.by} with{' '}
        <b>
          {manifest.recipeId}
          {manifest.recipeVersion > 0 && `, version ${manifest.recipeVersion}`}
        </b>
        : {manifest.files.map((f) => `${f.path} ${f.change}`).join(', ')}.
      </p>
      <p className="font-value text-xs break-all text-quiet">made from SHA-256 {manifest.oldSha256}</p>
      <button
        type="button"
        className="mt-1 min-h-9 border-[1.5px] border-quiet px-3 text-sm hover:border-ink"
        onClick={() => {
          undo.mutate(undefined, {
            onSuccess: (original) => {
              void go(`/images/${original.image.id}`);
            },
          });
        }}
      >
        Undo: give the original back
      </button>
      {undo.error && <Failed error={undo.error} />}
    </section>
  );
}

/** The recipes for the image's system: what each changes, line by line, before it is applied. */
function Recipes({ about }: { about: Schema['StoredImage'] }) {
  const all = useQuery({ ...recipes(about.system ?? undefined), enabled: about.system !== null });
  const [chosen, setChosen] = useState<string | null>(null);
  const list = all.data?.filter((r) => r.acts === 'image') ?? [];
  const recipe = list.find((r) => r.id === chosen);
  return (
    <section aria-label="Recipes">
      <h2 className="caption">Recipes for it</h2>
      {about.system === null && <p>Say which system it installs, and the recipes for that are listed.</p>}
      {about.system !== null && list.length === 0 && (
        <p className="text-quiet">There is none for this system.</p>
      )}
      <ul className="flex flex-wrap gap-2 pt-1">
        {list.map((r) => (
          <li key={r.id}>
            <button
              type="button"
              aria-pressed={chosen === r.id}
              className={`min-h-9 border-[1.5px] px-3 text-left ${chosen === r.id ? 'border-ink bg-sheet font-bold' : 'border-quiet hover:border-ink'}`}
              onClick={() => {
                setChosen(chosen === r.id ? null : r.id);
              }}
            >
              {r.name}
            </button>
          </li>
        ))}
        <li>
          <Link
            to={`/images/${about.id}/recipe/${chosen ?? 'new'}`}
            className="flex min-h-9 items-center px-1 font-semibold underline underline-offset-4"
          >
            {recipe ? 'Change this recipe' : 'Write a recipe'}
          </Link>
        </li>
      </ul>
      {recipe && <Applying key={recipe.id} about={about} recipe={recipe} />}
    </section>
  );
}

function Applying({ about, recipe }: { about: Schema['StoredImage']; recipe: Schema['RecipeSheet'] }) {
  const [who] = useWho();
  const would = useQuery(preview(about.id, { recipe: recipe.id }));
  const [job, setJob] = useState<number | null>(null);
  const apply = useWrite(async () => {
    const answer = await take(
      api.POST('/api/images/{id}/patch', {
        params: { path: { id: about.id } },
        body: { recipe: recipe.id, draft: null, by: who || nobody },
      }),
    );
    if (answer.job) setJob(answer.job.id);
    return answer;
  });
  return (
    <div className="pt-2">
      <p>{recipe.about}</p>
      <Costs recipe={recipe} />
      {would.error && <Failed error={would.error} />}
      {would.data?.alreadyApplied && <p className="pt-2 font-bold">Already applied: nothing would change.</p>}
      {would.data?.because && <p className="border-l-4 border-setting pl-3">{would.data.because}</p>}
      <div className="pt-2">
        {would.data?.files.map((f) => (
          <Difference key={f.path} file={f} />
        ))}
      </div>
      {would.data && !would.data.alreadyApplied && job === null && (
        <button
          type="button"
          disabled={apply.isPending}
          className="min-h-11 bg-ink px-5 text-lg font-semibold text-ground"
          onClick={() => {
            apply.mutate(undefined);
          }}
        >
          Make the patched image
        </button>
      )}
      {apply.error && <Failed error={apply.error} />}
      {job !== null && (
        <JobLine
          id={job}
          done={(done) =>
            done.result?.imageId ? (
              <Link
                to={`/images/${done.result.imageId}`}
                className="inline-flex min-h-11 items-center font-semibold underline underline-offset-4"
              >
                Look at the patched image
              </Link>
            ) : null
          }
        />
      )}
    </div>
  );
}

export function Costs({ recipe }: { recipe: Schema['RecipeSheet'] }) {
  return (
    <>
      {recipe.lifts.length > 0 && (
        <p className="text-sm">
          <span className="text-quiet">Lifts </span>
          <b className="text-patch">{recipe.lifts.map((l) => l.split('/')[1]).join(', ')}</b>
        </p>
      )}
      {recipe.costs.length > 0 && (
        <ul className="text-sm" aria-label="What it costs">
          {recipe.costs.map((c) => (
            <li key={c} className="border-l-4 border-caveat pl-2">
              {c}
            </li>
          ))}
        </ul>
      )}
    </>
  );
}

/** The files of an image, a folder at a time. */
export function Tree({
  id,
  open,
  chosen,
}: {
  id: number;
  open: (path: string) => void;
  chosen: string | null;
}) {
  const [folder, setFolder] = useState('');
  const { data, error } = useQuery(folderOf(id, folder));
  if (error) return <Failed error={error} />;
  return (
    <div>
      <h2 className="caption">{data?.fileSystem ?? 'Files'}</h2>
      <ul className="max-h-80 overflow-auto" aria-label={`Files in /${folder}`}>
        {folder && (
          <Entry
            name="one up"
            act={() => {
              setFolder(folder.split('/').slice(0, -1).join('/'));
            }}
          />
        )}
        {data?.entries.map((e) => (
          <Entry
            key={e.path}
            name={(e.path.split('/').at(-1) ?? '') + (e.kind === 'folder' ? '/' : '')}
            size={e.kind === 'file' ? bytesText(e.sizeBytes) : ''}
            chosen={chosen === e.path}
            act={() => {
              if (e.kind === 'folder') setFolder(e.path);
              else open(e.path);
            }}
          />
        ))}
      </ul>
    </div>
  );
}

function Entry({
  name,
  size,
  chosen = false,
  act,
}: {
  name: string;
  size?: string;
  chosen?: boolean;
  act: () => void;
}) {
  return (
    <li>
      <button
        type="button"
        aria-pressed={chosen}
        className={`flex min-h-7 w-full items-baseline justify-between gap-2 border-b border-rule text-left font-value text-[13.5px] hover:bg-sheet ${chosen ? 'bg-sheet font-bold' : ''}`}
        onClick={act}
      >
        <span className="truncate">{name}</span>
        <span className="text-xs whitespace-nowrap text-quiet">{size}</span>
      </button>
    </li>
  );
}

export function Content({ id, path }: { id: number; path: string | null }) {
  const { data, error } = useQuery({ ...fileOf(id, path ?? ''), enabled: path !== null });
  if (path === null) return <p className="pt-5 text-quiet">Choose a file to read it.</p>;
  if (error) return <Failed error={error} />;
  if (!data) return <Loading />;
  return (
    <div className="min-w-0">
      <h2 className="font-value text-sm font-bold">{data.path}</h2>
      <p className="font-value text-xs break-all text-quiet">
        {data.sha256 ? `SHA-256 ${data.sha256}` : 'too large to be hashed here'}
      </p>
      {data.text === null ? (
        <p className="pt-1 text-quiet">It is no text.</p>
      ) : (
        <pre
          tabIndex={0}
          aria-label={`Content of ${data.path}`}
          className="max-h-72 overflow-auto border-l-2 border-ink bg-sheet px-3 py-1 font-value text-[13px]"
        >
          {data.text}
        </pre>
      )}
    </div>
  );
}
