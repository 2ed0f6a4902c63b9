import { Switch } from '@headlessui/react';
import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, take } from '../api/client';
import { benchListener, useWrite } from '../api/queries';
import { countdown, useNow } from '../runs/clock';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/** A live system on the bench network fetches the probe and posts what it found, by a code that is good for one machine. */
export function ByCommand() {
  const listener = useQuery(benchListener).data;
  const [who] = useWho();
  const by = who || nobody;
  const [tag, setTag] = useState('');
  const now = useNow();
  const turn = useWrite((on: boolean) => take(api.PUT('/api/bench-listener', { body: { on, by } })));
  const ask = useWrite(() =>
    take(api.POST('/api/probe-codes', { params: { query: tag.trim() === '' ? {} : { tag } } })),
  );
  const code = ask.data;
  return (
    <div className="flex flex-col gap-5">
      <div className="flex items-center gap-4">
        <Switch
          checked={listener?.on ?? false}
          onChange={(on: boolean) => {
            turn.mutate(on);
          }}
          className="group flex h-8 w-16 shrink-0 items-center border-2 border-ink p-1 data-checked:bg-ink"
        >
          <span className="sr-only">Hear the bench network</span>
          <span className="h-full w-6 bg-ink transition-transform group-data-checked:translate-x-7 group-data-checked:bg-ground motion-reduce:transition-none" />
        </Switch>
        <p>
          <b>{listener?.on ? 'The bench network is heard' : 'The bench network is not heard'}</b>{' '}
          <span className="text-quiet">
            {listener?.on
              ? `at port ${listener.port}, for the probe and for bundles by code; nothing else is served there.`
              : 'Switch it on while machines are taken in; until then only this computer reaches the address below.'}
          </span>
        </p>
      </div>
      {turn.error && <Failed error={turn.error} />}
      <form
        className="flex items-end gap-5"
        onSubmit={(event) => {
          event.preventDefault();
          ask.mutate(undefined);
        }}
      >
        <label className="block w-64">
          <span className="caption">Asset tag, or leave it open</span>
          <input
            data-scan="field"
            value={tag}
            placeholder="later"
            autoComplete="off"
            spellCheck={false}
            className="block h-13 w-full border-b-[3px] border-ink bg-transparent font-value text-[28px] uppercase placeholder:text-rule placeholder:normal-case"
            onChange={(event) => {
              setTag(event.target.value);
            }}
          />
        </label>
        <button disabled={ask.isPending} className="min-h-13 bg-ink px-6 text-lg font-semibold text-ground">
          Make a code
        </button>
      </form>
      {ask.error && <Failed error={ask.error} />}
      {code && (
        <div aria-live="polite">
          <p className="caption">Type on the machine, in a live system</p>
          <p className="border-y-[1.5px] border-ink bg-sheet py-3 font-value text-[22px] break-all select-all">
            {code.command}
          </p>
          <p className="pt-1.5 text-quiet">
            Good for one machine, for {countdown(code.expiresAt, now)} more. Where there is no wget:{' '}
            <code className="font-value text-ink">{code.command.replace('wget -qO-', 'curl -s')}</code>
          </p>
        </div>
      )}
      <StickMaker by={by} />
    </div>
  );
}

/** The file that goes onto a probe stick, so that it posts by itself what it reads. */
function StickMaker({ by }: { by: string }) {
  const [name, setName] = useState('');
  const make = useWrite((stick: string) =>
    take(api.POST('/api/probe-sticks', { body: { name: stick, by } })),
  );
  return (
    <details className="border-t border-rule pt-1">
      <summary className="min-h-9 cursor-pointer font-semibold">
        With a probe stick, from machine to machine
      </summary>
      <p className="max-w-2xl text-quiet">
        A stick made by <code className="font-value text-ink">probe/make-stick.sh</code> starts on any
        machine, reads it and keeps the bundle. With this file on it, it also posts the bundle while the bench
        network is heard. Its key is shown this once.
      </p>
      <form
        className="flex items-center gap-4 pt-2"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate(name);
        }}
      >
        <label className="flex items-center gap-2">
          Name of the stick
          <input
            className="h-10 w-48 border-b-[1.5px] border-ink bg-transparent"
            value={name}
            placeholder="red stick"
            onChange={(event) => {
              setName(event.target.value);
            }}
          />
        </label>
        <button
          disabled={make.isPending || !name.trim()}
          className="min-h-10 border-[1.5px] border-ink px-4 font-semibold"
        >
          Make its file
        </button>
        {make.data && (
          <a
            className="min-h-10 content-center font-semibold underline underline-offset-4"
            download={make.data.fileName}
            href={`data:text/plain;charset=utf-8,${encodeURIComponent(make.data.content)}`}
          >
            Save {make.data.fileName}
          </a>
        )}
      </form>
      {make.error && <Failed error={make.error} />}
    </details>
  );
}
