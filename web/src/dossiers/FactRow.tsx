import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import type { Schema } from '../api/client';
import { factHistory, useEnterFact, useUnsay } from '../api/queries';
import { Failed } from '../shell/States';
import { dayAndTime, dayOf } from '../shell/time';
import { nobody, useWho } from '../shell/who';
import { FactQuestion } from './FactQuestion';
import { definitionOf, factText, inConflict, labelOf } from './facts';

interface Props {
  tag: string;
  fact: Schema['Fact'];
  keys: readonly Schema['FactDefinition'][];
}

/** A fact with its source and time; where sources disagree, the choice between them. */
export function FactRow({ tag, fact, keys }: Props) {
  const [editing, setEditing] = useState(false);
  const [past, setPast] = useState(false);
  const enter = useEnterFact(tag);
  const unsay = useUnsay(tag);
  const [who] = useWho();
  const said = fact.origin === 'entered' || fact.origin === 'chosen';
  const computed = definitionOf(fact.key, keys)?.derived;
  const choose = (value: Schema['FactValue']) => {
    enter.mutate({ key: fact.key, value, source: 'chosen', by: who || nobody });
  };
  return (
    <div className="border-b border-rule py-1 last:border-0">
      <div className="flex items-baseline gap-3">
        <span className="w-36 shrink-0 text-quiet">{labelOf(fact.key, keys)}</span>
        <b className="min-w-0 flex-1 font-semibold break-words">{factText(fact, keys)}</b>
        <span className="text-right text-xs text-quiet">
          {fact.origin === 'derived' ? 'computed: ' : ''}
          {fact.source}
          {fact.by && `, ${fact.by}`}, {dayOf(fact.takenAt)}
          {fact.origin === 'work' && <span className="block">not measured since</span>}
        </span>
        {!computed && (
          <button
            type="button"
            className="min-h-8 text-sm underline underline-offset-4"
            aria-label={`History of ${labelOf(fact.key, keys)}`}
            aria-expanded={past}
            onClick={() => {
              setPast(!past);
            }}
          >
            History
          </button>
        )}
        {!computed && (
          <button
            type="button"
            className="min-h-8 text-sm underline underline-offset-4"
            aria-label={`Correct ${labelOf(fact.key, keys)}`}
            aria-expanded={editing}
            onClick={() => {
              setEditing(!editing);
            }}
          >
            Correct
          </button>
        )}
        {said && (
          <button
            type="button"
            className="min-h-8 text-sm underline underline-offset-4"
            aria-label={`Take ${labelOf(fact.key, keys)} back`}
            onClick={() => {
              unsay.mutate({ key: fact.key, by: who || nobody });
            }}
          >
            Take back
          </button>
        )}
      </div>
      {Array.isArray(fact.value) && (
        <p className="font-value text-xs break-words text-quiet">{fact.value.join(' ')}</p>
      )}
      {inConflict(fact) && (
        <div className="my-1 border-l-4 border-wall pl-3">
          <p className="font-semibold text-wall">Sources disagree. Which one holds?</p>
          {[fact, ...fact.disagreeing].map((reading) => (
            <button
              key={`${reading.source} ${reading.takenAt}`}
              type="button"
              className="mr-2 min-h-9 border-[1.5px] border-ink px-2.5 text-sm"
              onClick={() => {
                choose(reading.value);
              }}
            >
              <b>{factText({ key: fact.key, value: reading.value }, keys)}</b> {reading.source}
            </button>
          ))}
        </div>
      )}
      {unsay.error && <Failed error={unsay.error} />}
      {past && <Past tag={tag} factKey={fact.key} keys={keys} />}
      {editing && (
        <FactQuestion
          tag={tag}
          factKey={fact.key}
          keys={keys}
          value={Array.isArray(fact.value) ? fact.value.join(' ') : String(fact.value)}
          onDone={() => {
            setEditing(false);
          }}
        />
      )}
    </div>
  );
}

/** Every reading that ever came in, latest first. */
function Past({ tag, factKey, keys }: { tag: string; factKey: string; keys: Props['keys'] }) {
  const { data, error } = useQuery(factHistory(tag, factKey));
  if (error) return <Failed error={error} />;
  return (
    <ol
      className="my-1 border-l-4 border-rule pl-3 text-sm"
      aria-label={`History of ${labelOf(factKey, keys)}`}
    >
      {data?.map((reading, i) => (
        <li key={i} className="flex gap-3">
          <span className="font-value text-quiet">{dayAndTime(reading.receivedAt)}</span>
          <b>
            {reading.value === null ? 'taken back' : factText({ key: factKey, value: reading.value }, keys)}
          </b>
          <span className="text-quiet">
            {reading.origin}, {reading.source}
            {reading.by && `, ${reading.by}`}
            {reading.takenBackBy && `, taken back by ${reading.takenBackBy}`}
          </span>
        </li>
      ))}
    </ol>
  );
}
