import { About } from './AboutImage';
import { Content, Tree } from './Files';
import { FindingList, Starts, ToScale } from './Findings';
import { Manifest, RecipesOfImage } from '../patching/RecipesOfImage';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useParams } from 'react-router';
import { image, inspection } from '../api/imageQueries';
import { systems } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { Failed, Loading } from '../shell/States';
import { dayInWords } from '../shell/time';
import { bytesText, trustNames } from './words';

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
          {about.from && `, ${about.from}`}
          {about.sourceUntil && `, to be had there until ${dayInWords(about.sourceUntil)}`} · put here by{' '}
          {about.by}
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
            <RecipesOfImage about={about} />
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
