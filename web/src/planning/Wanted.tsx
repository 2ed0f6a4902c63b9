import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { fails } from '../api/client';
import { atTheDoor, wanted } from '../api/queries';
import { moneyText } from '../dossiers/facts';
import { Failed, Loading } from '../shell/States';
import { counted } from '../pieces/counted';

/** From the open orders, what donors could bring; and a machine at the door, checked by what is written on it. */
export function Wanted() {
  const { data, error } = useQuery(wanted);
  const [model, setModel] = useState('');
  const door = useQuery(atTheDoor(model)).data;
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return <Loading />;
  const served = (order: string) => data.find((o) => o.order.name === order)?.missing === 0;
  const missing = data.reduce((sum, o) => sum + o.missing, 0);
  return (
    <div className="flex-1 pt-4">
      <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
        {missing === 0 ? 'Every order has its machines.' : `${counted(missing, 'machine')} wanted.`}
      </h1>
      <label className="block pt-3 print:hidden">
        <span className="caption block">At the door: what is written on it</span>
        <input
          className="h-12 w-full max-w-xl border-b-[3px] border-ink bg-transparent font-value text-2xl placeholder:text-rule"
          placeholder="Stile 14"
          value={model}
          onChange={(event) => {
            setModel(event.target.value);
          }}
        />
      </label>
      {model.trim() !== '' && door && (
        <ul aria-label="At the door" className="max-w-3xl pt-1 pb-2 print:hidden">
          {door.length === 0 && (
            <li className="py-1">
              The catalogue knows no such model. Take it in and probe it, or add the model to the catalogue.
            </li>
          )}
          {door.map((d) => (
            <li key={`${d.order} ${d.model.model}`} className="flex gap-4 border-b border-rule py-1">
              <b className="w-28 shrink-0 font-name text-xl">
                {served(d.order)
                  ? 'no'
                  : d.model.upTo > 0
                    ? moneyText(d.model.upTo)
                    : d.model.system
                      ? 'a gift'
                      : 'no'}
              </b>
              <span>
                {served(d.order) ? `${d.order} has its machines.` : d.model.text}{' '}
                <span className="text-sm text-quiet">{d.model.name}</span>
              </span>
            </li>
          ))}
        </ul>
      )}
      <div className="grid grid-cols-1 gap-x-10 lg:grid-cols-2">
        {data.map((o) => (
          <section key={o.order.id} aria-label={o.order.name} className="break-inside-avoid pt-4">
            <h2 className="flex items-baseline justify-between border-b-[1.5px] border-ink font-name text-2xl font-bold">
              {o.order.name}
              <span className="font-text text-base font-normal text-quiet">
                {o.missing === 0 ? 'has its machines' : `${o.missing} more wanted`}
              </span>
            </h2>
            <p className="text-sm text-quiet">{o.order.about}</p>
            {o.missing > 0 && o.models.length === 0 && <p>No model of the catalogue serves it.</p>}
            <ul>
              {(o.missing > 0 ? o.models.slice(0, 8) : []).map((m) => (
                <li key={m.model} className="flex items-baseline gap-3 border-b border-rule py-1">
                  <span className="min-w-0 flex-1">
                    <b>{m.name}</b>
                    <span className="block text-[13px] text-quiet">
                      {m.processor}
                      {m.board && `, board ${m.board}`}
                      {m.parts.length > 0 && ` · ${m.parts.join(', ')}`}
                    </span>
                  </span>
                  <b className="font-name text-lg whitespace-nowrap">
                    {m.upTo > 0 ? `up to ${moneyText(m.upTo)}` : 'as a gift'}
                  </b>
                </li>
              ))}
            </ul>
            {o.missing > 0 && o.processors.length > 0 && (
              <p className="pt-1 text-sm">
                <span className="caption">Processors</span> {o.processors.join(', ')}
              </p>
            )}
            {o.parts.length > 0 && (
              <p className="pt-1 text-sm">
                <span className="caption">Parts for machines that are here</span>{' '}
                {o.parts.map((p) => `${p.count} × “${p.does}” (${moneyText(p.money)})`).join('; ')}
              </p>
            )}
          </section>
        ))}
      </div>
      <p className="pt-3 text-quiet">
        Prices are what may be paid so that the finished machine costs no more than a bought one.
      </p>
    </div>
  );
}
