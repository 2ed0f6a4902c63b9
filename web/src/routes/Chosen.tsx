import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import type { Schema } from '../api/client';
import { release, useBegin, workItems } from '../api/queries';
import { RungShape } from '../ladder/RungShape';
import { labelOf, moneyText } from '../dossiers/facts';
import { useMachine } from '../dossiers/MachinePage';
import { OpenQuestions } from '../preparation/OpenQuestions';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { percent, schoolSays, support, useRouteName } from './words';

/** A route opened: what it costs, what is done, what it brings with it, and the button that begins it. */
export function Chosen({ route }: { route: Schema['Route'] }) {
  const { sheet } = useMachine();
  const name = useRouteName();
  const work = useQuery(workItems(sheet.tag, route.id)).data;
  return (
    <section aria-label="Chosen route">
      <h2 className="pt-1.5 font-name text-[32px] leading-none font-bold" data-loud>
        {name(route)}
      </h2>
      <p className="pt-1">
        <b>{route.school}.</b> {schoolSays[route.school]}
      </p>
      <dl className="grid grid-cols-3 gap-x-3 gap-y-1 py-1.5">
        <Big label="Money" value={moneyText(route.money)} />
        <Big label="Hands on" value={`${route.handsOnMinutes} min`} />
        <Big label="In all" value={`${route.elapsedMinutes} min`} />
        <Big label="Risk" value={percent(route.risk)} />
        <Big label="Support" value={support(route)} />
        <Big label="Fit" value={`${route.fit}`} />
      </dl>
      {work?.routeId === route.id && <OpenQuestions asks={work.asks} brief />}
      <Begin route={route} tag={sheet.tag} />
      <a
        className="flex min-h-11 items-center font-semibold underline underline-offset-4"
        href={`/api/machines/${sheet.tag}/routes/${route.id}/sheet`}
        target="_blank"
        rel="noreferrer"
      >
        Its sheet, for print
      </a>
      <h3 className="caption pt-2">What is done</h3>
      <ol>
        {route.cures.map((cure) => (
          <li key={cure.id} className="flex items-center gap-3 py-0.5">
            <RungShape outcome={cure.kind} width={40} bar={7} />
            <span>
              <b>{cure.does}</b>
              <span className="text-quiet">
                {' '}
                · at {cure.rung}
                {cure.money > 0 && ` · ${moneyText(cure.money)}`}
                {cure.afterInstall && ' · after the installation'}
                {cure.runsOn !== 'machine' && ` · ${where[cure.runsOn]}`}
              </span>
            </span>
          </li>
        ))}
        {route.cures.length === 0 && <li className="text-quiet">Nothing has to be changed.</li>}
      </ol>
      {route.worth && (
        <p className="pt-2">
          <b>Worth it?</b> {route.worth.text}
          {route.worth.perMonth !== null && ` ${moneyText(route.worth.perMonth)} a month of support.`}
          {route.worth.breakEvenMinutes !== null &&
            ` It breaks even at ${route.worth.breakEvenMinutes} min of work.`}
        </p>
      )}
      {!route.reversible && <p className="pt-1 font-semibold">Not all of it can be undone.</p>}
      {route.inPlace && (
        <details className="pt-2">
          <summary className="min-h-8 cursor-pointer">
            <b>
              {route.inPlace.possible === true
                ? `Can go over what is there; ${route.inPlace.keeps.join(' and ')} stay.`
                : route.inPlace.possible === null
                  ? 'Whether it can go over what is there is open.'
                  : 'Has to be installed clean.'}
            </b>
          </summary>
          <ul className="list-disc pl-5 text-sm">
            {route.inPlace.reasons.map((reason) => (
              <li key={reason}>{reason}</li>
            ))}
          </ul>
        </details>
      )}
      {route.caveats.length > 0 && (
        <>
          <h3 className="caption pt-2">What to know</h3>
          <ul aria-label="What to know of this route" className="list-disc pl-4 text-sm">
            {route.caveats.map((text) => (
              <li key={text}>{text}</li>
            ))}
          </ul>
        </>
      )}
      <Parts title={`Why ${Math.round(route.score)} of 100`} parts={route.scoreParts} />
      {route.fitParts.length > 0 && <Parts title={`Why a fit of ${route.fit}`} parts={route.fitParts} />}
    </section>
  );
}

const where: Record<Schema['RunsOn'], string> = {
  machine: '',
  outgoing: 'in the system that is on it',
  steppingStone: 'with a stepping-stone system',
  otherComputer: 'on another computer',
};

function Parts({ title, parts }: { title: string; parts: Schema['ScorePart'][] }) {
  return (
    <>
      <h3 className="caption pt-2">{title}</h3>
      <ul className="text-sm">
        {parts.map((part) => (
          <li key={part.name} className="flex items-center gap-2">
            <span className="w-20 shrink-0 text-quiet">{part.name}</span>
            <span aria-hidden="true" className="h-2 w-24 shrink-0 border border-quiet">
              <span
                className="block h-full bg-ink"
                style={{ width: `${part.most > 0 ? (part.points / part.most) * 100 : 0}%` }}
              />
            </span>
            <span>
              {part.points} of {part.most}: {part.says}
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

function Begin({ route, tag }: { route: Schema['Route']; tag: string }) {
  const begin = useBegin(tag);
  const { keys } = useMachine();
  const [who] = useWho();
  const go = useNavigate();
  const [sure, setSure] = useState(false);
  const [because, setBecause] = useState('');
  // What a person may not override speaks first. A machine that ends needs no sound drive.
  const stops = (useQuery(release(tag)).data?.stops ?? []).filter(
    (stop) => stop.retiring || route.school !== 'retire',
  );
  const open = stops.find((stop) => !stop.mayOverride) ?? stops[0];
  return (
    <>
      {begin.error && <Failed error={begin.error} />}
      {route.assumes.length > 0 && (
        <p className="mt-1 border-l-4 border-setting pl-3">
          <b>Not measured yet:</b> {route.assumes.map((key) => labelOf(key, keys)).join(', ')}. The first
          steps measure it, and the risk counts it in.
        </p>
      )}
      {open && (
        <div role="alert" className="mt-1 border-l-4 border-wall pl-3">
          <p className="font-semibold text-wall">{open.text}</p>
          {open.mayOverride ? (
            <label className="block pt-1">
              <span className="caption">To begin all the same, say why; your name goes with it</span>
              <input
                className="block h-10 w-full border-b-[1.5px] border-ink bg-transparent"
                value={because}
                onChange={(event) => {
                  setBecause(event.target.value);
                }}
              />
            </label>
          ) : (
            <Link
              to={`/machines/${tag}/facts?rung=${open.rung}`}
              className="flex min-h-9 items-center font-semibold underline underline-offset-4"
            >
              To the rung {open.rung}
            </Link>
          )}
        </div>
      )}
      <div className="flex items-center gap-4 pt-1">
        <button
          type="button"
          disabled={begin.isPending || (open ? !open.mayOverride || because.trim() === '' : false)}
          className="min-h-11 bg-ink px-6 font-semibold text-ground"
          onClick={() => {
            if (route.school === 'retire' && !sure) {
              setSure(true);
              return;
            }
            const by = who || nobody;
            begin.mutate(
              { routeId: route.id, by, override: open ? { reason: because.trim(), by } : null },
              { onSuccess: () => void go(`/machines/${tag}/run`) },
            );
          }}
        >
          {sure ? 'Yes, end this machine' : open ? 'Begin all the same' : 'Begin the run'}
        </button>
      </div>
    </>
  );
}

function Big({ label, value }: { label: string; value: string }) {
  return (
    <div>
      <dt className="caption">{label}</dt>
      <dd className="font-name text-lg leading-tight font-bold whitespace-nowrap [font-stretch:85%]">
        {value}
      </dd>
    </div>
  );
}
