import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { fails, type Schema } from '../api/client';
import { measured } from '../api/queries';
import { FactQuestion } from '../dossiers/FactQuestion';
import { useMachine } from '../dossiers/MachinePage';
import { Failed } from '../shell/States';

/** How well the finished machine runs, in numbers, beside others of its model. */
export function Measures() {
  const { sheet } = useMachine();
  const { data, error } = useQuery(measured(sheet.tag));
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return null;
  return (
    <>
      <h3 className="caption pt-4">Measured, beside others of its model</h3>
      <ul aria-label="Measured">
        {data.map((one) => (
          <Row key={one.key} one={one} />
        ))}
      </ul>
    </>
  );
}

function Row({ one }: { one: Schema['Measured'] }) {
  const { sheet, keys } = useMachine();
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  return (
    <li className="border-b border-rule py-1">
      <div className="flex min-h-9 flex-wrap items-center gap-x-4">
        <span className="w-72 shrink-0">{one.label}</span>
        {one.says ? (
          <b className={`w-28 font-value ${one.worse ? 'text-wall' : ''}`}>{one.says}</b>
        ) : (
          <span className="w-28 text-quiet">not yet</span>
        )}
        <span className="min-w-0 flex-1 text-quiet">
          {one.others === 0
            ? 'no other was measured'
            : `theirs ${one.middle}, ${one.others} ${one.others === 1 ? 'machine' : 'machines'}`}
          {one.worse && (
            <>
              {': much worse. '}
              <Link
                className="font-semibold text-ink underline underline-offset-4"
                to={`/machines/${sheet.tag}/fault`}
              >
                Find out why
              </Link>
            </>
          )}
        </span>
        {one.byHand && (
          <button
            type="button"
            aria-expanded={open}
            className="min-h-9 underline underline-offset-4"
            onClick={() => {
              setOpen(!open);
            }}
          >
            {one.says ? 'Again' : 'Measure'}
            <span className="sr-only"> {one.label}</span>
          </button>
        )}
      </div>
      {open && (
        <FactQuestion
          tag={sheet.tag}
          factKey={one.key}
          keys={keys}
          loud
          onDone={() => {
            setOpen(false);
            void client.invalidateQueries({ queryKey: measured(sheet.tag).queryKey });
          }}
        />
      )}
    </li>
  );
}
