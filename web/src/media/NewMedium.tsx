import { useState } from 'react';
import { api, type Schema, take } from '../api/client';
import { useWrite } from '../api/queries';
import { Choose, Write } from '../pieces/fields';
import { Failed } from '../shell/States';

export const kinds: Record<string, string> = {
  stick: 'stick',
  card: 'card',
  cd: 'CD',
  dvd: 'DVD',
  dvdDouble: 'DVD, two layers',
  file: 'image file',
};

export function NewMedium() {
  const [label, setLabel] = useState('');
  const [kind, setKind] = useState<Schema['MediumKind']>('stick');
  const [gigabytes, setGigabytes] = useState('8');
  const add = useWrite(() =>
    take(
      api.POST('/api/media', {
        body: {
          label,
          kind,
          sizeBytes: Math.round(Number(gigabytes) * 1e9),
          usbGeneration: 3,
          writeBytesPerSecond: 20_000_000,
          readBytesPerSecond: 90_000_000,
          faults: null,
        },
      }),
    ),
  );
  const sized = kind === 'stick' || kind === 'card';
  return (
    <form
      aria-label="Put a medium on the shelf"
      className="pt-4"
      onSubmit={(event) => {
        event.preventDefault();
        add.mutate(undefined, {
          onSuccess: () => {
            setLabel('');
          },
        });
      }}
    >
      <h2 className="caption">Another one</h2>
      <div className="flex items-end gap-3">
        <Write label="Its label" value={label} set={setLabel} />
        <Choose
          label="Kind"
          value={kind}
          set={(value) => {
            setKind(value as Schema['MediumKind']);
          }}
        >
          {Object.entries(kinds).map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Choose>
        {sized && <Write label="GB" value={gigabytes} set={setGigabytes} />}
        <button
          disabled={!label || add.isPending}
          className="min-h-9 border-[1.5px] border-ink px-3 font-semibold"
        >
          Add
        </button>
      </div>
      {add.error && <Failed error={add.error} />}
    </form>
  );
}
