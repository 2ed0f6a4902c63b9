import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { memoryUpgrades, whatIf } from '../api/queries';
import { RungShape } from '../ladder/RungShape';
import { inkOf } from '../ladder/outcomes';
import { labelOf, moneyText, systemName } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { Failed } from '../shell/States';

/** Parts fitted and facts changed on paper: every system before and after. Nothing is stored. */
export function WhatIfPanel() {
  const { sheet, all, systems, keys } = useMachine();
  const [fitted, setFitted] = useState<string[]>([]);
  const [facts, setFacts] = useState<Record<string, unknown>>({});
  const [key, setKey] = useState('tpm.version');
  const [value, setValue] = useState('');
  const kits = useQuery(memoryUpgrades(sheet.tag)).data?.upgrades ?? [];
  const then = useQuery(whatIf(sheet.tag, facts, fitted));

  // Whatever some finding would be mended by, and every memory kit: each once.
  const offered = [
    ...all
      .flatMap((a) => a.rungs.flatMap((r) => r.findings.flatMap((f) => f.cures)))
      .filter((c) => c.kind === 'part' || c.kind === 'setting'),
    ...kits.map((k) => k.cure),
  ].filter((c, i, list) => list.findIndex((o) => o.id === c.id) === i);
  const definition = keys.find((d) => d.key === key);
  const changed = Object.keys(facts).length + fitted.length > 0;
  return (
    <section aria-label="What if" className="grid grid-cols-[minmax(0,1fr)_190px] gap-x-4">
      <div>
        <h3 className="caption pt-2">Fit or switch on paper</h3>
        <ul className="max-h-60 overflow-y-auto">
          {offered.map((cure) => (
            <li key={cure.id}>
              <label className="flex min-h-8 items-center gap-2 text-[15px]">
                <input
                  type="checkbox"
                  className="h-4 w-4 accent-ink"
                  checked={fitted.includes(cure.id)}
                  onChange={() => {
                    setFitted(
                      fitted.includes(cure.id) ? fitted.filter((f) => f !== cure.id) : [...fitted, cure.id],
                    );
                  }}
                />
                <span>
                  {cure.does}
                  {cure.money > 0 && <span className="text-quiet"> · {moneyText(cure.money)}</span>}
                </span>
              </label>
            </li>
          ))}
        </ul>
        <h3 className="caption pt-2">Change a fact on paper</h3>
        <form
          className="flex flex-wrap items-end gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (value !== '') setFacts({ ...facts, [key]: value });
          }}
        >
          <select
            aria-label="Fact"
            className="h-9 w-full border-b-[1.5px] border-ink bg-ground"
            value={key}
            onChange={(event) => {
              setKey(event.target.value);
              setValue('');
            }}
          >
            {keys
              .filter((d) => !d.derived && !d.detail && d.form !== 'words')
              .map((d) => (
                <option key={d.key} value={d.key}>
                  {d.label}
                </option>
              ))}
          </select>
          {definition && definition.choices.length > 0 ? (
            <select
              aria-label="Value"
              className="h-9 min-w-0 flex-1 border-b-[1.5px] border-ink bg-ground"
              value={value}
              onChange={(event) => {
                setValue(event.target.value);
              }}
            >
              <option value="">…</option>
              {definition.choices.map((c) => (
                <option key={c.value} value={c.value}>
                  {c.meaning}
                </option>
              ))}
            </select>
          ) : (
            <input
              aria-label="Value"
              className="h-9 min-w-0 flex-1 border-b-[1.5px] border-ink bg-transparent"
              placeholder={definition?.unit === 'MiB' ? '8 GiB' : definition?.unit === 'B' ? '240 GB' : ''}
              value={value}
              onChange={(event) => {
                setValue(event.target.value);
              }}
            />
          )}
          <button className="min-h-9 border-[1.5px] border-ink px-3">Suppose</button>
        </form>
        <ul>
          {Object.entries(facts).map(([k, v]) => (
            <li key={k} className="flex items-center gap-2 text-sm">
              {labelOf(k, keys)}: {String(v)}
              <button
                type="button"
                className="min-h-8 underline"
                onClick={() => {
                  setFacts(Object.fromEntries(Object.entries(facts).filter(([name]) => name !== k)));
                }}
              >
                take back
              </button>
            </li>
          ))}
        </ul>
        {then.error && <Failed error={then.error} />}
      </div>
      <div>
        <h3 className="caption pt-2">{changed ? 'Before and after' : 'As it is'}</h3>
        <ul aria-label="Systems before and after">
          {all.map((before) => {
            const after = then.data?.find((a) => a.system === before.system) ?? before;
            const moved = after.outcome !== before.outcome;
            return (
              <li key={before.system} className="flex items-center gap-2 py-[3px]">
                <RungShape outcome={before.outcome} width={28} bar={5} faint={moved} />
                {moved && <RungShape outcome={after.outcome} width={28} bar={5} />}
                <span className="min-w-0 truncate text-[13px]">
                  {moved && <b className={inkOf[after.outcome]}>{after.outcome} </b>}
                  {systemName(systems.find((s) => s.id === before.system))}
                </span>
              </li>
            );
          })}
        </ul>
      </div>
    </section>
  );
}
