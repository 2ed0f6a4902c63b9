import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, fails, type Schema, take } from '../api/client';
import { drivesOf, useFirstDrive } from '../api/queries';
import { useMachine } from '../dossiers/MachinePage';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

const forms = ['2.5 inch', '3.5 inch', 'M.2', 'mSATA', '44-pin', '40-pin', '68-pin'];
const buses = [
  ['sata', 'SATA'],
  ['nvme', 'NVMe'],
  ['ata', 'parallel ATA'],
  ['scsi', 'SCSI'],
] as const;
const busOf = (bus: string) => buses.find(([value]) => value === bus)?.[1] ?? bus;

/** Its drives and the places for them: which one gets the system and why, and whether another would go in. */
export function Drives() {
  const { sheet } = useMachine();
  const { data, error } = useQuery(drivesOf(sheet.tag, sheet.version));
  if (fails(error, data)) return <Failed error={error} />;
  if (!data || (data.drives.length < 2 && data.slots.length === 0)) return null;
  return (
    <section aria-label="Drives and their places" className="mt-3 border-t-[1.5px] border-ink pt-1">
      {data.drives.length > 1 && <Which drives={data.drives} />}
      {data.slots.length > 0 && (
        <>
          <h3 className="caption pt-1">Places for drives</h3>
          <ul>
            {data.slots.map((slot) => (
              <li key={slot.name} className="border-b border-rule py-1">
                <b className="inline-block first-letter:uppercase">{slot.name}</b>: {slot.form},{' '}
                {slot.buses.map(busOf).join(' or ')}
                {slot.lengthsMm.length > 0 && `, ${slot.lengthsMm.join(' or ')} mm`}
                {slot.key && `, notch ${slot.key}`}.{' '}
                <span className="text-sm text-quiet">
                  {slot.shares && `${slot.shares}. `}
                  {slot.note}
                </span>
              </li>
            ))}
          </ul>
          <Fit />
        </>
      )}
      {data.notes.length > 0 && (
        <>
          <h3 className="caption pt-1">Of its board</h3>
          <ul>
            {data.notes.map((note) => (
              <li key={note.text}>{note.text}</li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** One of several drives gets the system; the others are unplugged while it is divided. */
function Which({ drives }: { drives: Schema['DriveCandidate'][] }) {
  const { sheet } = useMachine();
  const [who] = useWho();
  const first = useFirstDrive(sheet.tag);
  return (
    <fieldset disabled={first.isPending}>
      <legend className="caption pt-1">Which drive gets the system</legend>
      {drives.map((drive) => (
        <label
          key={drive.index}
          className="grid min-h-11 grid-cols-[1.5rem_minmax(0,1fr)] items-center border-b border-rule"
        >
          <input
            type="radio"
            name="first-drive"
            className="size-4 accent-ink"
            checked={drive.index === 0}
            onChange={() => {
              first.mutate({ index: drive.index, by: who || nobody });
            }}
          />
          <span>
            <b>{drive.name}</b>
            {drive.port && <span className="font-value text-sm"> {drive.port}</span>}
            {drive.best && <b className="text-clear"> — the rules would take it</b>}
            <span className="block text-sm text-quiet first-letter:uppercase">
              {[...drive.speaks, ...drive.against.map((a) => `but ${a}`)].join('; ')}
            </span>
          </span>
        </label>
      ))}
      <p className="text-sm text-quiet">
        Whatever is chosen: see on which drive the person’s files lie. The others are unplugged while this one
        is divided.
      </p>
      {first.error && <Failed error={first.error} />}
    </fieldset>
  );
}

const chooser = 'ml-2 min-h-9 border-b-[1.5px] border-ink bg-ground';

/** A drive that somebody has in the hand, held against the places. */
function Fit() {
  const { sheet } = useMachine();
  const [form, setForm] = useState('M.2');
  const [bus, setBus] = useState('nvme');
  const [length, setLength] = useState('80');
  const [notch, setNotch] = useState('M');
  const card = form === 'M.2';
  const asked = {
    form,
    bus,
    lengthMm: card && length ? Number(length) : null,
    key: card && notch ? notch : null,
  };
  const { data, error } = useQuery({
    queryKey: ['machine', sheet.tag, 'fit', asked, sheet.version],
    queryFn: () =>
      take(
        api.POST('/api/machines/{tag}/drives/fit', {
          params: { path: { tag: sheet.tag } },
          body: asked,
        }),
      ),
    placeholderData: (before) => before,
  });
  const pick = (
    label: string,
    value: string,
    set: (to: string) => void,
    options: readonly (readonly [string, string])[],
  ) => (
    <label>
      {label}
      <select
        className={chooser}
        value={value}
        onChange={(event) => {
          set(event.target.value);
        }}
      >
        {options.map(([v, says]) => (
          <option key={v} value={v}>
            {says}
          </option>
        ))}
      </select>
    </label>
  );
  return (
    <details>
      <summary className="min-h-11 cursor-pointer content-center font-semibold">
        Would a drive in the hand go in?
      </summary>
      <p className="flex flex-wrap items-center gap-x-6 gap-y-1">
        {pick(
          'Form',
          form,
          setForm,
          forms.map((f) => [f, f] as const),
        )}
        {pick('Bus', bus, setBus, buses)}
        {card &&
          pick('Length', length, setLength, [
            ['', 'not measured'],
            ...['30', '42', '60', '80', '110'].map((l) => [l, `${l} mm`] as const),
          ])}
        {card &&
          pick('Notch', notch, setNotch, [
            ['', 'not looked at'],
            ['M', 'M'],
            ['B', 'B'],
            ['B+M', 'B and M'],
          ])}
      </p>
      {fails(error, data) && <Failed error={error} />}
      <ul aria-label="Where it goes in" aria-live="polite">
        {data?.map((fit) => (
          <li
            key={fit.slot.name}
            className="grid grid-cols-[6rem_minmax(0,1fr)] gap-x-3 border-b border-rule py-1"
          >
            <b
              className={
                fit.fits ? 'text-clear' : fit.fits === null || fit.adapter ? 'text-unknown' : 'text-wall'
              }
            >
              {fit.fits ? 'goes in' : fit.fits === null ? 'perhaps' : fit.adapter ? 'by adapter' : 'no'}
            </b>
            <span>
              <b>{fit.slot.name}.</b> {fit.says}
            </span>
          </li>
        ))}
      </ul>
    </details>
  );
}
