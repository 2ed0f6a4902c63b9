import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { fails, Refusal, type Schema } from '../api/client';
import { boardOf, checkBoard, setBoard, useEnterFact } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { RungShape } from '../ladder/RungShape';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** A small board: what it starts from, what feeds it, and its text of settings with what of it counts. */
export function BoardView() {
  const { sheet } = useMachine();
  const { data, error } = useQuery(boardOf(sheet.tag, sheet.version));
  if (error instanceof Refusal && error.status === 422)
    return (
      <section aria-label="Board">
        <h2 className="loud" data-loud>
          No small board.
        </h2>
        <p className="pt-1 text-lg">
          {error.message} <span className="text-quiet">{error.wanted}</span>
        </p>
      </section>
    );
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  return (
    <section aria-label="Board" className="min-w-0">
      <p className="caption">{data.board.name}</p>
      <h2 className="font-name text-[40px] leading-[1.05] font-bold" data-loud>
        {data.board.supplyMilliamps / 1000} A at 5 V.
      </h2>
      <p className="pt-1">
        {data.board.largeSupplyMilliamps / 1000} A with a drive at its ports or a raised clock. Its image
        takes {data.board.assembleMinutes} min and more to put together on another computer.
      </p>
      <Facts board={data.board} />
      <Settings key={data.text} sheet={data} />
    </section>
  );
}

function Facts({ board }: { board: Schema['SmallBoard'] }) {
  const { systems } = useMachine();
  return (
    <dl className="mt-2 grid grid-cols-[9rem_minmax(0,1fr)] gap-x-3 gap-y-1 border-t-[1.5px] border-ink pt-1">
      <dt className="caption pt-1">Ports</dt>
      <dd>
        {board.ports.map((port) => (
          <span key={port.name} className="block">
            <b className="inline-block first-letter:uppercase">{port.name}</b>
            {port.firstStage && <b className="text-clear"> — it starts from here</b>}
            {port.advice && <span className="text-sm text-quiet"> {port.advice}</span>}
          </span>
        ))}
      </dd>
      <dt className="caption pt-1">System on</dt>
      <dd>
        {board.storage.map((text) => (
          <span key={text} className="block">
            {text}
          </span>
        ))}
      </dd>
      <dt className="caption pt-1">Proved</dt>
      <dd>
        {board.builds.map((b) => (
          <span key={b.system} className="block">
            {systemName(systems.find((s) => s.id === b.system)) || b.system}
            {b.build > 0 && `, build ${b.build}`}{' '}
            <span className="text-sm text-quiet">
              {b.evidence.source}, {b.evidence.date}
            </span>
          </span>
        ))}
      </dd>
      {board.capMenu && (
        <>
          <dt className="caption pt-1">Memory</dt>
          <dd>
            Capped at {board.capMiB / 1024} GiB from the factory. {board.capMenu}
          </dd>
        </>
      )}
      {board.fault && (
        <>
          <dt className="caption pt-1">First start</dt>
          <dd>
            {board.fault.sees} <span className="font-value text-sm">{board.fault.commands.join(' · ')}</span>.{' '}
            {board.fault.then}
          </dd>
        </>
      )}
    </dl>
  );
}

/** The text of settings: typed as it is or key by key; beside it what counts, and what each line means for heat and supply. */
function Settings({ sheet }: { sheet: Schema['BoardSheet'] }) {
  const machine = useMachine();
  const [who] = useWho();
  const [text, setText] = useState(sheet.text);
  const [key, setKey] = useState(sheet.board.keys[0]?.key ?? '');
  const [value, setValue] = useState('');
  const checked = useQuery(checkBoard(sheet.board.id, text));
  const keep = useEnterFact(machine.sheet.tag);
  const [failed, setFailed] = useState<unknown>(null);
  const known = sheet.board.keys.find((k) => k.key === key);
  const verdict = checked.data ?? sheet.verdict;
  const walls = verdict.findings.some((f) => f.outcome === 'wall');
  return (
    <div className="mt-3 border-t-[1.5px] border-ink pt-1">
      <div className="grid grid-cols-1 gap-x-6 xl:grid-cols-[minmax(0,1fr)_minmax(0,1fr)]">
        <div>
          <label>
            <span className="caption block">config.txt on its first partition</span>
            <textarea
              className="h-64 w-full border-[1.5px] border-ink bg-sheet p-2 font-value text-[13px]"
              spellCheck={false}
              value={text}
              onChange={(event) => {
                setText(event.target.value);
              }}
            />
          </label>
          <form
            className="flex flex-wrap items-end gap-3"
            onSubmit={(event) => {
              event.preventDefault();
              setBoard(sheet.board.id, text, key, value)
                .then((after) => {
                  setText(after.text);
                  setFailed(null);
                })
                .catch(setFailed);
            }}
          >
            <label>
              <span className="caption block">Key</span>
              <select
                className="h-9 border-b-2 border-ink bg-ground"
                value={key}
                onChange={(event) => {
                  setKey(event.target.value);
                }}
              >
                {sheet.board.keys.map((k) => (
                  <option key={k.key} value={k.key}>
                    {k.key}
                  </option>
                ))}
              </select>
            </label>
            <label>
              <span className="caption block">
                Value
                {known?.least !== null &&
                  known?.least !== undefined &&
                  `, ${known.least} to ${known.most ?? ''}`}
                {known?.unit && ` ${known.unit}`}
              </span>
              <input
                className="h-9 w-40 border-b-2 border-ink bg-transparent font-value"
                value={value}
                onChange={(event) => {
                  setValue(event.target.value);
                }}
              />
            </label>
            <button
              disabled={value.trim() === ''}
              className="min-h-11 border-[1.5px] border-ink px-4 disabled:opacity-50"
            >
              Set it
            </button>
          </form>
          {failed !== null && <Failed error={failed} />}
        </div>
        <div>
          <p className="caption">What counts on this board</p>
          <table className="w-full">
            <tbody>
              {verdict.effective.map((e) => (
                <tr key={e.key} className="border-t border-rule">
                  <td className="py-0.5 pr-3 font-value text-sm">{e.key}</td>
                  <td className="pr-3 font-value">
                    <b>{e.value}</b> {e.unit}
                  </td>
                  <td className="text-sm text-quiet">
                    {e.about ?? 'not known here'}, line {e.line}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <ul aria-label="What to know of its lines" aria-live="polite" className="pt-2">
            {verdict.findings.map((f) => (
              <li key={`${f.line} ${f.text}`} className="flex items-start gap-3 py-0.5">
                <span className="pt-1.5">
                  <RungShape outcome={f.outcome} width={28} bar={6} />
                </span>
                <span>
                  <b>Line {f.line}.</b> {f.text}
                </span>
              </li>
            ))}
          </ul>
        </div>
      </div>
      <p className="flex flex-wrap items-center gap-4 pt-1">
        <button
          type="button"
          disabled={keep.isPending || walls || text === sheet.text}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold disabled:opacity-50"
          onClick={() => {
            keep.mutate({
              key: 'board.settings',
              value: text,
              source: 'written on its page',
              by: who || nobody,
            });
          }}
        >
          Keep these settings
        </button>
        <a
          className="flex min-h-11 items-center font-semibold underline underline-offset-4"
          href={`data:text/plain;charset=utf-8,${encodeURIComponent(text)}`}
          download="config.txt"
        >
          Download config.txt
        </a>
        <span className="text-sm text-quiet">
          {walls
            ? 'What the board does not take is mended first.'
            : sheet.own
              ? 'Written for this machine.'
              : 'The usual settings; nobody wrote any yet.'}
        </span>
      </p>
      {keep.error && <Failed error={keep.error} />}
    </div>
  );
}
