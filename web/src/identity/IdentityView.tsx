import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { fails, type Schema } from '../api/client';
import { donorsOf, identitiesOf, identityDiff, identityLevels, useGiveIdentity } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { RungShape } from '../ladder/RungShape';
import { Failed, Loading } from '../shell/States';
import { dayOf } from '../shell/time';
import { nobody, useWho } from '../shell/who';

/** Which later model the machine may pass for: the donors by how near they are, how much of one is taken, and what was given. */
export function IdentityView() {
  const { sheet, aim, systems } = useMachine();
  const system = systems.find((s) => s.id === aim.system);
  const donors = useQuery({ ...donorsOf(sheet.tag, aim.system, sheet.version), enabled: aim.system !== '' });
  const given = useQuery(identitiesOf(sheet.tag));
  const [donor, setDonor] = useState<string | null>(null);
  if (aim.system === '')
    return <p className="text-lg">Choose an aim first: a donor is chosen for a system.</p>;
  if (fails(donors.error, donors.data)) return <Failed error={donors.error} />;
  if (fails(given.error, given.data)) return <Failed error={given.error} />;
  if (!donors.data || !given.data) return <Loading />;
  const list = donors.data;
  const first = list.find((d) => d.own) ?? list[0];
  const chosen = list.find((d) => d.id === donor) ?? first;
  return (
    <section aria-label="Identity" className="min-w-0">
      <p className="caption">Identity for {systemName(system)}</p>
      <h2 className="font-name text-[40px] leading-[1.05] font-bold" data-loud>
        {first ? `${first.model}: ${first.score} of 100.` : 'No model to pass for.'}
      </h2>
      {first ? (
        <p className="pt-1">
          {first.own
            ? 'The nearest model of its own line that the system supports.'
            : 'None of its own line is supported; these need a boot kit beside the identity.'}
        </p>
      ) : (
        <p className="flex items-center gap-3 pt-1 text-lg">
          <RungShape outcome="wall" width={36} bar={8} />
          {systemName(system)} supports no model that the catalogue knows: an identity opens nothing here.
        </p>
      )}
      {given.data.map((identity) => (
        <Given key={identity.id} identity={identity} />
      ))}
      {chosen && <Donors list={list} chosen={chosen} choose={setDonor} />}
      {chosen && <Give donor={chosen} again={given.data.length > 0} />}
      <Processor />
    </section>
  );
}

/** The donors, each with the five things that make it near or far, and what goes wrong with a far one. */
function Donors({
  list,
  chosen,
  choose,
}: {
  list: Schema['DonorSheet'][];
  chosen: Schema['DonorSheet'];
  choose: (id: string) => void;
}) {
  const row = (d: Schema['DonorSheet']) => (
    <label
      key={d.id}
      className="grid min-h-11 grid-cols-[1.5rem_3rem_minmax(0,1fr)] items-start gap-x-2 border-b border-rule py-1.5"
    >
      <input
        type="radio"
        name="donor"
        className="mt-1.5 size-4 accent-ink"
        checked={d.id === chosen.id}
        onChange={() => {
          choose(d.id);
        }}
      />
      <b className="font-name text-2xl leading-7 tabular-nums">{d.score}</b>
      <span>
        <b>{d.model}</b>
        {!d.own && <span className="text-quiet"> — another line</span>}
        <span className="grid grid-cols-5 gap-x-3 pt-1">
          {d.parts.map((part) => (
            <Gauge key={part.what} part={part} />
          ))}
        </span>
        {d.id === chosen.id &&
          d.breaks.map((text) => (
            <span key={text} className="mt-1 flex items-center gap-3 text-sm">
              <RungShape outcome="caveat" width={28} bar={6} />
              {text}
            </span>
          ))}
      </span>
    </label>
  );
  const own = list.filter((d) => d.own);
  const others = list.filter((d) => !d.own);
  return (
    <fieldset className="mt-2">
      <legend className="caption">Donors, the nearest first</legend>
      {own.map(row)}
      {own.length === 0
        ? others.map(row)
        : others.length > 0 && (
            <details>
              <summary className="min-h-9 cursor-pointer content-center">
                {others.length} of other lines, only with a boot kit
              </summary>
              {others.map(row)}
            </details>
          )}
    </fieldset>
  );
}

/** One part of a score: a rule of its full length, inked as far as it goes. */
const Gauge = ({ part }: { part: Schema['DonorPart'] }) => (
  <span className="min-w-0">
    <span aria-hidden className="block h-1.5 border border-rule">
      <span className="block h-full bg-spoof" style={{ width: `${(part.points / part.most) * 100}%` }} />
    </span>
    <span className="block text-xs leading-4">
      <b>
        {part.what} {part.points}
      </b>{' '}
      <span className="text-quiet">
        of {part.most}: {part.says}
      </span>
    </span>
  </span>
);

function Give({ donor, again }: { donor: Schema['DonorSheet']; again: boolean }) {
  const { sheet } = useMachine();
  const [who] = useWho();
  const wanted = sheet.facts.find((f) => f.key === 'plan.identity')?.value;
  const [level, setLevel] = useState<Schema['IdentityLevel']>(
    wanted === 'least' ? 'boardId' : wanted === 'model' ? 'model' : 'full',
  );
  const levels = useQuery(identityLevels).data ?? [];
  const give = useGiveIdentity(sheet.tag);
  return (
    <div className="pt-3">
      <fieldset>
        <legend className="caption">How much of it</legend>
        {levels.map((l) => (
          <label key={l.level} className="grid min-h-9 grid-cols-[1.5rem_minmax(0,1fr)] items-start py-1">
            <input
              type="radio"
              name="level"
              className="mt-1 size-4 accent-ink"
              checked={l.level === level}
              onChange={() => {
                setLevel(l.level);
              }}
            />
            <span>
              <b className="inline-block first-letter:uppercase">{l.changes}.</b>{' '}
              <span className="text-sm">
                Opens: {l.opens} <span className="text-quiet">Breaks: {l.breaks}</span>
              </span>
            </span>
          </label>
        ))}
      </fieldset>
      <p className="border-l-4 border-spoof pl-3">
        For the owner’s own machine only. The maker’s terms may forbid it: the owner decides. It is not for
        registering with anybody’s services, and no firmware update of its maker is run under it: that one has
        to see the old model.
      </p>
      <p className="pt-2">
        <button
          type="button"
          disabled={give.isPending}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
          onClick={() => {
            give.mutate({ donor: donor.id, level, by: who || nobody, processor: null });
          }}
        >
          Give it {again ? 'another' : 'this'} identity: {donor.model}
        </button>
      </p>
      {give.error && <Failed error={give.error} />}
    </div>
  );
}

/** What was given: the identity, its files, and field by field what it changes in the machine's own table. */
function Given({ identity }: { identity: Schema['IdentitySheet'] }) {
  const { sheet } = useMachine();
  const { data, error } = useQuery(identityDiff(sheet.tag, identity.id));
  const at = `/api/machines/${sheet.tag}/identity/${identity.id}`;
  const file = 'flex min-h-9 items-center font-semibold underline underline-offset-4';
  return (
    <article aria-label={`Identity ${identity.id}`} className="mt-3 border-l-4 border-spoof pl-3">
      <p className="text-lg">
        <b>Number {identity.id}</b>:{' '}
        {identity.processor ?? identity.model ?? `board ${identity.boardId ?? ''}`}
        {identity.serial && (
          <>
            {', serial '}
            <span className="font-value">{identity.serial}</span>
          </>
        )}
        .{' '}
        <span className="text-sm text-quiet">
          Given by {identity.by}, {dayOf(identity.at)}.
        </span>
      </p>
      {fails(error, data) && <Failed error={error} />}
      {data && (
        <details>
          <summary className="min-h-9 cursor-pointer content-center">
            {data.differences.length} {data.differences.length === 1 ? 'field' : 'fields'} of its table differ
            {data.made && ' (no probe brought a table: this one is made from the dossier)'}
          </summary>
          <table className="w-full border-t border-rule text-sm">
            <thead>
              <tr className="text-left">
                <th className="caption">type</th>
                <th className="caption">field</th>
                <th className="caption">as it is</th>
                <th className="caption">as it says</th>
              </tr>
            </thead>
            <tbody>
              {data.differences.map((d) => (
                <tr key={`${d.handle}-${d.field}`} className="border-t border-rule">
                  <td className="font-value">{d.type}</td>
                  <td>{d.field}</td>
                  <td className="font-value">{d.before ?? 'nothing'}</td>
                  <td className="font-value">{d.after}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {data.missing.length > 0 && <p>Its table has no place for: {data.missing.join(', ')}.</p>}
          <p className="text-sm text-quiet">The way back: {data.back}</p>
        </details>
      )}
      <p className="flex flex-wrap gap-x-6">
        <a className={file} href={`${at}/smbios.bin`} download>
          Its table with it
        </a>
        <a className={file} href={`${at}/smbios.bin?original=true`} download>
          Its own table
        </a>
        <a className={file} href={`${at}/plist`} download>
          Property list
        </a>
        <a className={file} href={`${at}/json`} download>
          JSON
        </a>
      </p>
    </article>
  );
}

/** A processor that is shown by a wrong name is cosmetic, and mended the same way. */
function Processor() {
  const { sheet } = useMachine();
  const [who] = useWho();
  const [name, setName] = useState('');
  const give = useGiveIdentity(sheet.tag);
  return (
    <details className="pt-2">
      <summary className="min-h-11 cursor-pointer content-center font-semibold">
        Its processor is shown by a wrong name
      </summary>
      <form
        className="flex flex-wrap items-end gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          give.mutate({ donor: null, level: 'processor', by: who || nobody, processor: name });
        }}
      >
        <label>
          <span className="caption block">Name of the processor</span>
          <input
            className="h-9 w-72 border-b-2 border-ink bg-transparent"
            value={name}
            onChange={(event) => {
              setName(event.target.value);
            }}
          />
        </label>
        <button
          disabled={give.isPending || name.trim() === ''}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold disabled:opacity-50"
        >
          Mend the name
        </button>
      </form>
      {give.error && <Failed error={give.error} />}
    </details>
  );
}
