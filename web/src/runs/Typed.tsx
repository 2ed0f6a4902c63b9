import { useState } from 'react';
import { api, type Schema, take } from '../api/client';
import { useWrite } from '../api/queries';
import { Failed } from '../shell/States';
import type { Run } from './run';

const longest = 20_000;

/** A command, how it gets to the machine without being typed, and what it printed held against what it should. */
export function Typed({
  run,
  step,
  bring,
  busy,
}: {
  run: Run;
  step: Schema['Step'];
  bring: (text: string) => void;
  busy: boolean;
}) {
  const [text, setText] = useState('');
  const courier = useWrite(() =>
    take(api.POST('/api/runs/{id}/courier', { params: { path: { id: run.id } } })),
  );
  return (
    <div className="mt-3">
      <p className="caption">Type</p>
      <pre className="overflow-x-auto border-l-2 border-ink bg-sheet px-3 py-2 font-value text-base whitespace-pre-wrap">
        {step.command}
      </pre>
      <p>
        It prints <b className="font-value">{step.expect}</b>.
      </p>
      <form
        className="flex flex-wrap items-end gap-4 pt-2"
        onSubmit={(event) => {
          event.preventDefault();
          // What is printed last decides.
          if (text.trim()) bring(text.slice(-longest));
        }}
      >
        <label className="block min-w-80 flex-1">
          <span className="caption">What it printed</span>
          <textarea
            rows={2}
            spellCheck={false}
            value={text}
            className="block w-full border-[1.5px] border-quiet bg-transparent p-1 font-value text-sm"
            onChange={(event) => {
              setText(event.target.value);
            }}
          />
        </label>
        <button
          disabled={busy || !text.trim()}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
        >
          Compare it
        </button>
        <button
          type="button"
          disabled={courier.isPending}
          className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
          onClick={() => {
            courier.mutate(undefined);
          }}
        >
          Send it over
        </button>
      </form>
      {courier.error && <Failed error={courier.error} />}
      {courier.data && (
        <figure className="flex items-center gap-5 pt-3">
          <img
            src={`/c/${courier.data.code}/qr.svg`}
            alt={`QR code of ${courier.data.address}`}
            className="size-28 bg-white"
          />
          <figcaption>
            <b className="font-value text-lg break-all">{courier.data.address}</b>
            <span className="block text-quiet">
              The command stands there as it is, for the machine’s own browser or a phone, with the line that
              sends back what it printed.
              {!courier.data.listening &&
                ' Only this computer reaches it: switch the bench network on under Take in.'}
            </span>
          </figcaption>
        </figure>
      )}
      {run.state.output && <Verdict output={run.state.output} expect={step.expect ?? ''} />}
    </div>
  );
}

function Verdict({ output, expect }: { output: Schema['StepOutput']; expect: string }) {
  const ink = { done: 'text-clear', notYet: 'text-setting', wrong: 'text-wall' }[output.verdict];
  return (
    <p role="status" className={`mt-2 border-l-4 border-current pl-3 ${ink}`}>
      <b>
        {output.verdict === 'done'
          ? 'As it should be.'
          : output.verdict === 'notYet'
            ? 'It still works.'
            : `Wrong: it should print “${expect}”.`}
      </b>{' '}
      <span className="font-value">{output.line}</span>
    </p>
  );
}
