import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { images, send } from '../api/imageQueries';
import { systems, useWrite } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Choose, Write } from '../pieces/fields';
import { Bar, JobLine } from '../jobs/JobLine';
import { ShelfNav } from '../shell/ShelfNav';
import { MakeOne } from './MakeOne';
import { YesNo } from './YesNo';
import { bytesText, startNames, trustNames } from './words';
import { counted } from '../pieces/counted';

/** The installer images: what each one is, whether its checksum is right, and how it starts. */
export function Images() {
  const { data, error } = useQuery(images);
  const known = useQuery(systems);
  if (error ?? known.error) return <Failed error={error ?? known.error} />;
  if (!data || !known.data) return <Loading />;
  const bad = data.images.filter((i) => i.checksum.says === 'differs').length;
  return (
    <div className="flex flex-1 flex-col">
      <ShelfNav />
      <div className="grid flex-1 grid-cols-1 gap-x-8 pt-3 lg:grid-cols-[minmax(0,1fr)_300px]">
        <div>
          <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
            {data.images.length === 0
              ? 'No image yet.'
              : bad > 0
                ? `${bad} of ${counted(data.images.length, 'image')} ${bad === 1 ? 'is' : 'are'} not what the list says.`
                : `${data.images.length} ${data.images.length === 1 ? 'image' : 'images'} to start from.`}
          </h1>
          <p className="pt-1 text-quiet">
            Kept in <span className="font-value text-sm">{data.folder}</span>, with{' '}
            {bytesText(data.freeBytes)} free.
          </p>
          {data.install.length > 0 && (
            <p role="note" className="border-l-4 border-setting pl-3">
              Patching and twins need Debian packages that are not installed:{' '}
              <b className="font-value">{data.install.join(' ')}</b>. Everything else works.
            </p>
          )}
          <table className="mt-3 w-full border-collapse text-left">
            <caption className="sr-only">Images and how they start</caption>
            <thead>
              <tr className="border-b-[1.5px] border-ink align-bottom">
                <th scope="col" className="caption py-1 font-normal">
                  Image
                </th>
                {startNames.map(([key, name]) => (
                  <th key={key} scope="col" className="caption w-[66px] py-1 font-normal whitespace-pre-line">
                    {name.replace(' ', '\n')}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {data.images.map((sheet) => (
                <Row key={sheet.image.id} sheet={sheet} systems={known.data} />
              ))}
            </tbody>
          </table>
        </div>
        <aside className="flex flex-col gap-6 border-l border-rule pl-6">
          <Put systems={known.data} folder={data.unnamed} />
          <MakeOne systems={known.data} />
          <Checksums />
        </aside>
      </div>
    </div>
  );
}

function Row({ sheet, systems: known }: { sheet: Schema['ImageSheet']; systems: Schema['SystemEntry'][] }) {
  const { image, checksum, starts } = sheet;
  const system = known.find((s) => s.id === image.system);
  return (
    <tr className="border-b border-rule align-top">
      <th scope="row" className="min-w-0 py-1.5 pr-4 font-normal">
        <Link
          to={`/images/${image.id}`}
          className="inline-flex min-h-6 items-center font-value text-[15px] font-semibold break-all underline decoration-rule decoration-2 underline-offset-4 hover:decoration-ink"
        >
          {image.name}
        </Link>
        <span className="block text-sm text-quiet">
          {system ? systemName(system) : 'system not said'}
          {image.build && `, build ${image.build}`} · {bytesText(image.sizeBytes)} · by{' '}
          {trustNames[image.trust] ?? image.trust} ·{' '}
          {image.sha256 === null ? (
            <b className="text-setting">{bytesText(image.received)} of it here</b>
          ) : checksum.says === 'matches' ? (
            <span className="text-clear">checksum as listed</span>
          ) : checksum.says === 'differs' ? (
            <b className="text-wall">not the checksum that is listed</b>
          ) : (
            'no list names it'
          )}
        </span>
      </th>
      {startNames.map(([key]) => (
        <td key={key} className="py-2">
          {starts && <YesNo can={starts[key].can} />}
        </td>
      ))}
    </tr>
  );
}

function Put({
  systems: known,
  folder,
}: {
  systems: Schema['SystemEntry'][];
  folder: Schema['FolderFile'][];
}) {
  const [who] = useWho();
  const [file, setFile] = useState<File | null>(null);
  const [named, setNamed] = useState('');
  const [system, setSystem] = useState('');
  const [build, setBuild] = useState('');
  const [from, setFrom] = useState('');
  const [trust, setTrust] = useState<Schema['Trust']>('maker');
  const [sent, setSent] = useState<number | null>(null);
  const [job, setJob] = useState<number | null>(null);
  const [put, setPut] = useState('');
  const add = useWrite(async () => {
    const about = {
      system: system || null,
      build: build || null,
      from,
      trust,
      notes: '',
      sourceUntil: null,
      by: who || nobody,
    };
    if (!file) {
      const answer = await take(
        api.POST('/api/images', { body: { ...about, name: named, sizeBytes: 0, file: named } }),
      );
      if ('kind' in answer) setJob(answer.id);
      return;
    }
    // The same file that broke off goes on where it was.
    const all = await take(api.GET('/api/images'));
    const open = all.images.find(
      (i) => i.image.sha256 === null && i.image.name === file.name && i.image.sizeBytes === file.size,
    );
    let id = open?.image.id;
    if (id === undefined) {
      const made = await take(
        api.POST('/api/images', { body: { ...about, name: file.name, sizeBytes: file.size, file: null } }),
      );
      if (!('image' in made)) return;
      id = made.image.id;
    }
    const sheet = await send(id, file, setSent);
    setPut(
      sheet.image.id === id
        ? `${sheet.image.name} is on the shelf.`
        : `It is here already, as ${sheet.image.name}.`,
    );
    setSent(null);
    setFile(null);
  });
  return (
    <form
      aria-label="Put an image on the shelf"
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        setPut('');
        add.mutate(undefined);
      }}
      onDragOver={(event) => {
        event.preventDefault();
      }}
      onDrop={(event) => {
        event.preventDefault();
        setFile(event.dataTransfer.files[0] ?? null);
      }}
    >
      <h2 className="loud" data-loud>
        Put one on it
      </h2>
      <label className="block">
        <span className="caption block">Drop a file here, or choose one</span>
        <input
          type="file"
          aria-label="Image file"
          className="mt-1 w-full text-sm file:mr-3 file:min-h-9 file:border-[1.5px] file:border-ink file:bg-transparent file:px-3 file:text-ink"
          onChange={(event) => {
            setFile(event.target.files?.[0] ?? null);
            setNamed('');
          }}
        />
        {file && <b className="block font-value text-sm break-all">{file.name}</b>}
      </label>
      {folder.length > 0 && (
        <Choose label="Or a file in the folder" value={named} set={setNamed}>
          <option value="">none</option>
          {folder.map((f) => (
            <option key={f.name} value={f.name}>
              {f.name}, {bytesText(f.sizeBytes)}
            </option>
          ))}
        </Choose>
      )}
      <Choose label="Installs" value={system} set={setSystem}>
        <option value="">not said</option>
        {known.map((s) => (
          <option key={s.id} value={s.id}>
            {systemName(s)}
          </option>
        ))}
      </Choose>
      <div className="flex gap-3">
        <Write label="Build" value={build} set={setBuild} />
        <Choose
          label="Made by"
          value={trust}
          set={(value) => {
            setTrust(value as Schema['Trust']);
          }}
        >
          {Object.entries(trustNames).map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Choose>
      </div>
      <Write label="Where it came from" value={from} set={setFrom} />
      {sent !== null && file && (
        <p>
          {bytesText(sent)} of {bytesText(file.size)} sent
          <Bar part={sent / file.size} />
        </p>
      )}
      {put && <p role="status">{put}</p>}
      {job !== null && <JobLine id={job} />}
      {add.error && <Failed error={add.error} />}
      <button
        disabled={add.isPending || (!file && !named)}
        className="mt-1 min-h-11 bg-ink text-lg font-semibold text-ground"
      >
        On the shelf
      </button>
    </form>
  );
}

function Checksums() {
  const [text, setText] = useState('');
  const [from, setFrom] = useState('');
  const read = useWrite(() => take(api.POST('/api/images/checksums', { body: { text, from } })));
  return (
    <form
      aria-label="Read a checksum list"
      className="flex flex-col gap-2"
      onSubmit={(event) => {
        event.preventDefault();
        read.mutate(undefined);
      }}
    >
      <h2 className="caption">Checksum list (SHA256SUMS)</h2>
      <textarea
        aria-label="Checksum list"
        className="h-20 border-[1.5px] border-quiet bg-transparent p-2 font-value text-xs"
        value={text}
        onChange={(event) => {
          setText(event.target.value);
        }}
      />
      <Write label="Its source" value={from} set={setFrom} />
      {read.data && <p role="status">{read.data.lines} lines read and compared.</p>}
      {read.error && <Failed error={read.error} />}
      <button
        disabled={read.isPending || !text || !from}
        className="min-h-9 border-[1.5px] border-ink font-semibold"
      >
        Read and compare
      </button>
    </form>
  );
}
