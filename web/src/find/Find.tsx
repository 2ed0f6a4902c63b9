import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useSearchParams } from 'react-router';
import { found, systems } from '../api/queries';
import { machineName } from '../dossiers/facts';
import { RungShape } from '../ladder/RungShape';
import { inkOf } from '../ladder/outcomes';
import { rungs } from '../ladder/rungs';
import { systemName } from '../dossiers/facts';
import { Pick } from '../shell/Picked';
import { tagsIn, usePicked } from '../shell/picked';
import { Failed } from '../shell/States';

const most = 60;

/** Where is it? Every word narrows: a part of tag, serial, model or order, a rung, an outcome, or where it is. */
export function Find() {
  const [search, setSearch] = useSearchParams();
  // What is typed stands at once; the address follows when it can.
  const [words, setWords] = useState(search.get('q') ?? '');
  const { data, error } = useQuery(found(words, most));
  const { pick } = usePicked();
  const known = useQuery(systems).data ?? [];
  return (
    <div className="flex flex-1 flex-col pt-4">
      <h1>
        <label htmlFor="find" className="font-name text-[44px] leading-none font-bold" data-loud>
          Where is…
        </label>
      </h1>
      <input
        id="find"
        autoFocus
        value={words}
        placeholder="stile setup, BW-14C8, seed library, waiting"
        autoComplete="off"
        spellCheck={false}
        className="mt-1 block h-13 w-full border-b-[3px] border-ink bg-transparent font-value text-[26px] placeholder:text-rule"
        onChange={(event) => {
          const next = event.target.value;
          setWords(next);
          setSearch(next === '' ? {} : { q: next }, { replace: true });
        }}
      />
      <p className="flex flex-wrap gap-x-6 pt-1.5 pb-3 text-quiet">
        <span>
          A part of tag, serial, model or order; a rung; an outcome; bench, shelf, in work, waits, stopped,
          ready, late, left.
        </span>
        <a className="ml-auto underline underline-offset-4" href="/api/machines.csv" download>
          All machines as a table
        </a>
        {data && data.length > 0 && (
          <button
            type="button"
            className="underline underline-offset-4"
            onClick={() => {
              pick(data.map((m) => m.tag));
            }}
          >
            Pick {data.length === 1 ? 'it' : `these ${data.length}`}
          </button>
        )}
      </p>
      <ScanList />
      {error && <Failed error={error} />}
      {data?.length === 0 && <p className="loud text-quiet">Nothing here fits “{words}”.</p>}
      <ul className="columns-1 gap-x-8 xl:columns-2">
        {data?.map((m) => (
          <li key={m.tag} className="flex break-inside-avoid items-center border-t border-rule">
            <Pick tag={m.tag} />
            <Link
              to={`/machines/${m.tag}/systems`}
              className="flex min-h-13 min-w-0 flex-1 items-center gap-4 py-1 hover:bg-sheet"
            >
              {/* Its ladder lying down: ten rungs, release at the left. */}
              <span
                className="flex shrink-0 gap-[3px]"
                role="img"
                aria-label={m.rungs.map((o, i) => `${rungs[i]?.name ?? ''} ${o}`).join(', ')}
              >
                {m.rungs.map((outcome, i) => (
                  <span key={rungs[i]?.name} className="-rotate-90">
                    <RungShape outcome={outcome} width={18} bar={7} />
                  </span>
                ))}
              </span>
              <span className="min-w-0 flex-1">
                <b className="text-lg">{m.tag}</b>{' '}
                <span>{machineName(m.maker, m.model) || 'model not known'}</span>
                <span className="block truncate text-sm text-quiet">
                  {m.bay ? `Bay ${m.bay}` : m.run?.finishedAt ? 'Door' : 'Shelf'}
                  {m.order && ` · ${m.order}`} · {m.next.text}
                </span>
              </span>
              <span className="shrink-0 text-right text-sm">
                <b className={inkOf[m.outcome]}>{m.outcome}</b>
                <span className="block text-quiet">{systemName(known.find((s) => s.id === m.aim))}</span>
              </span>
            </Link>
          </li>
        ))}
      </ul>
      {data?.length === most && <p className="pt-2 text-quiet">The first {most}; another word narrows it.</p>}
    </div>
  );
}

/** A list by scanner: each tag is picked and nothing opens; a machine that is not taken in yet gets its label too. */
function ScanList() {
  const { picked, pick } = usePicked();
  const [text, setText] = useState('');
  const [last, setLast] = useState('');
  return (
    <form
      className="flex flex-wrap items-end gap-4 pb-3"
      onSubmit={(event) => {
        event.preventDefault();
        const tags = tagsIn(text);
        if (tags.length === 0) return;
        const fresh = tags.filter((tag) => !picked.includes(tag));
        pick(tags);
        setLast(
          fresh.length === 0
            ? `${tags.join(', ')}: picked before.`
            : `${fresh.length === 1 ? (fresh[0] ?? '') : `${fresh.length} tags`} picked.`,
        );
        setText('');
      }}
    >
      <label className="w-full max-w-md">
        <span className="caption block">Or scan a list: each tag is picked, and nothing opens</span>
        <input
          data-scan="field"
          value={text}
          placeholder="MR-0417 MR-0422"
          autoComplete="off"
          spellCheck={false}
          className="h-10 w-full border-b-2 border-ink bg-transparent font-value text-lg uppercase placeholder:text-quiet"
          onChange={(event) => {
            setText(event.target.value);
          }}
        />
      </label>
      <button className="min-h-10 border-[1.5px] border-ink px-4 font-semibold">Pick</button>
      <span role="status" className="min-h-10 text-quiet">
        {last}
      </span>
    </form>
  );
}
