import { fails } from '../api/client';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { fileOf, folderOf } from '../api/imageQueries';
import { Failed, Loading } from '../shell/States';
import { bytesText } from './words';

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
  if (fails(error, data)) return <Failed error={error} />;
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
