import { useQuery } from '@tanstack/react-query';
import { useId, useState } from 'react';
import { Link } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { factKeys, useWrite } from '../api/queries';
import { factText } from '../dossiers/facts';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** A table of machines: first what it would do, with every fault by line and column; then all of it or nothing. */
export function ByTable() {
  const id = useId();
  const keys = useQuery(factKeys).data ?? [];
  const [who] = useWho();
  const [text, setText] = useState<string | null>(null);
  const [name, setName] = useState('');
  const [mapped, setMapped] = useState<Record<string, string>>({});
  const send = (dryRun: boolean) => (input: { text: string; mapped: Record<string, string> }) =>
    take(
      api.POST('/api/machines/csv', {
        params: {
          query: {
            dryRun,
            by: who || nobody,
            map: Object.entries(input.mapped).map(([header, key]) => `${header}:${key}`),
          },
        },
        body: input.text as never,
        bodySerializer: (body: unknown) => body as string,
        headers: { 'Content-Type': 'text/csv' },
      }),
    );
  const preview = useWrite(send(true));
  const bringIn = useWrite(send(false));
  const look = (content: string, map: Record<string, string>) => {
    setText(content);
    setMapped(map);
    bringIn.reset();
    preview.mutate({ text: content, mapped: map });
  };
  const seen = preview.data;

  if (bringIn.data)
    return (
      <div>
        <p role="status" className="loud" data-loud>
          {bringIn.data.imported} {bringIn.data.imported === 1 ? 'machine' : 'machines'} taken in.
        </p>
        <p className="flex gap-6 pt-3">
          <Link to="/find" className="font-semibold underline underline-offset-4">
            Look at them
          </Link>
          <a
            className="font-semibold underline underline-offset-4"
            href={`/api/labels?${bringIn.data.first.map((m) => `tag=${m.tag}`).join('&')}`}
            target="_blank"
            rel="noreferrer"
          >
            Print their first labels
          </a>
        </p>
      </div>
    );
  return (
    <div className="flex flex-col gap-4">
      <div>
        <label htmlFor={id} className="block text-lg font-semibold">
          Choose a table (CSV in UTF-8)
        </label>
        <p className="pb-2 text-quiet">
          A line a machine, a column “tag”, and a column for each fact, headed by its key or its name. Amounts
          with units: 8 GB, 250 GB.
        </p>
        <input
          id={id}
          type="file"
          accept=".csv,text/csv"
          className="block w-full font-value text-sm file:mr-4 file:min-h-11 file:border-[1.5px] file:border-ink file:bg-transparent file:px-4 file:font-text file:text-ink"
          onChange={(event) => {
            const input = event.target;
            const file = input.files?.[0];
            if (!file) return;
            setName(file.name);
            void file.text().then((content) => {
              look(content, {});
              // The same file, mended, can be chosen again.
              input.value = '';
            });
          }}
        />
      </div>
      {name && <p className="font-value text-sm">{name}</p>}
      {preview.error && <Failed error={preview.error} />}
      {seen && text !== null && (
        <>
          <ul className="flex flex-wrap gap-x-5 gap-y-1" aria-label="Columns">
            {seen.columns.map((column) => (
              <li key={column.header} className="flex items-center gap-2">
                <b>{column.header}</b>
                {column.key && !(column.header in mapped) ? (
                  <span className="font-value text-sm text-quiet">{column.key}</span>
                ) : (
                  <select
                    aria-label={`What the column ${column.header} holds`}
                    className="h-9 max-w-48 border-[1.5px] border-ink bg-ground text-sm"
                    value={column.header in mapped ? (mapped[column.header] ?? '') || '-' : ''}
                    onChange={(event) => {
                      look(text, {
                        ...mapped,
                        [column.header]: event.target.value === '-' ? '' : event.target.value,
                      });
                    }}
                  >
                    <option value="" disabled>
                      what is it?
                    </option>
                    <option value="-">leave it out</option>
                    {keys
                      .filter((k) => !k.derived)
                      .map((k) => (
                        <option key={k.key} value={k.key}>
                          {k.label}
                        </option>
                      ))}
                  </select>
                )}
              </li>
            ))}
          </ul>
          {seen.faults.length > 0 ? (
            <div role="alert">
              <p className="font-semibold text-wall">
                {seen.faults.length} {seen.faults.length === 1 ? 'place' : 'places'} to mend; until then
                nothing is taken in.
              </p>
              <ul className="max-h-48 overflow-y-auto text-sm" tabIndex={0} aria-label="Faults">
                {seen.faults.map((fault, i) => (
                  <li key={i} className="border-t border-rule py-0.5">
                    <span className="font-value">
                      line {fault.line}
                      {fault.column && `, ${fault.column}`}
                    </span>{' '}
                    <b>{fault.what}</b> {fault.wanted}
                  </li>
                ))}
              </ul>
            </div>
          ) : (
            <ul className="text-sm" aria-label="First machines">
              {seen.first.slice(0, 5).map((m) => (
                <li key={m.tag} className="truncate border-t border-rule py-0.5">
                  <b>{m.tag}</b>{' '}
                  {Object.entries(m.facts as Record<string, Schema['FactValue']>)
                    .map(([key, value]) => factText({ key, value }, keys))
                    .join(' · ')}
                </li>
              ))}
            </ul>
          )}
          {bringIn.error && <Failed error={bringIn.error} />}
          <button
            type="button"
            disabled={seen.faults.length > 0 || seen.rows === 0 || bringIn.isPending}
            className="min-h-13 self-start bg-ink px-8 text-lg font-semibold text-ground"
            onClick={() => {
              bringIn.mutate({ text, mapped });
            }}
          >
            {bringIn.isPending
              ? 'Writing…'
              : `Take ${seen.rows} ${seen.rows === 1 ? 'machine' : 'machines'} in`}
          </button>
        </>
      )}
    </div>
  );
}
