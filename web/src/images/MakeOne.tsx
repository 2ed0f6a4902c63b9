import { useState } from 'react';
import type { Schema } from '../api/client';
import { makeImage } from '../api/imageQueries';
import { useWrite } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { Choose, Write } from '../pieces/fields';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** Some installers are handed out as a kernel and an archive: an image that starts in every way is made of the two. */
export function MakeOne({ systems }: { systems: Schema['SystemEntry'][] }) {
  const [who] = useWho();
  const [kernel, setKernel] = useState<File | null>(null);
  const [archive, setArchive] = useState<File | null>(null);
  const [name, setName] = useState('');
  const [line, setLine] = useState('');
  const [system, setSystem] = useState('');
  const [build, setBuild] = useState('');
  const make = useWrite(() =>
    kernel && archive
      ? makeImage(kernel, archive, { name, line, system, build, by: who || nobody })
      : Promise.reject(new Error('Kernel and archive first.')),
  );
  return (
    <details>
      <summary className="min-h-9 cursor-pointer underline underline-offset-4">
        Make one of a kernel and an archive
      </summary>
      <form
        aria-label="Make an image"
        className="flex flex-col gap-2 pt-1"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate(undefined);
        }}
      >
        <Given label="Kernel (bzImage)" set={setKernel} />
        <Given label="Archive that it unpacks (cpio, plain or packed)" set={setArchive} />
        <Write label="Name of the image" value={name} set={setName} />
        <Write label="What the kernel is told" value={line} set={setLine} />
        <Choose label="It installs" value={system} set={setSystem}>
          <option value="">not said</option>
          {systems.map((s) => (
            <option key={s.id} value={s.id}>
              {systemName(s)}
            </option>
          ))}
        </Choose>
        <Write label="Its build" value={build} set={setBuild} />
        {make.data && <p role="status">{make.data.image.name} is on the shelf.</p>}
        {make.error && <Failed error={make.error} />}
        <button
          disabled={make.isPending || !kernel || !archive || name.trim() === ''}
          className="mt-1 min-h-11 border-[1.5px] border-ink font-semibold"
        >
          {make.isPending ? 'It is being made' : 'Make it'}
        </button>
      </form>
    </details>
  );
}

function Given({ label, set }: { label: string; set: (file: File | null) => void }) {
  return (
    <label className="block">
      <span className="caption block">{label}</span>
      <input
        type="file"
        className="mt-1 w-full text-sm file:mr-3 file:min-h-9 file:border-[1.5px] file:border-ink file:bg-transparent file:px-3 file:text-ink"
        onChange={(event) => {
          set(event.target.files?.[0] ?? null);
        }}
      />
    </label>
  );
}
