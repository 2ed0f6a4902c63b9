import { useId, useState } from 'react';
import type { Schema } from '../api/client';
import { api, take } from '../api/client';
import { formOf, useWrite } from '../api/queries';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import type { Run } from './run';

type Tell = (kind: string, data?: Record<string, string>) => void;

interface Aside {
  name: string;
  ask: string;
  kind: string;
  field: string;
}

const note: Aside = { name: 'Note', ask: 'What is worth keeping?', kind: 'note', field: 'text' };
const hand: Aside = { name: 'Hand on', ask: 'Who goes on with it?', kind: 'handed', field: 'to' };
const rest: Aside = { name: 'Lay aside', ask: 'Why, and until when?', kind: 'paused', field: 'text' };
const otherway: Aside = {
  name: 'In another way',
  ask: 'How was it done instead?',
  kind: 'deviated',
  field: 'text',
};
const out: Aside = { name: 'Leave out', ask: 'Why does it not apply here?', kind: 'skipped', field: 'text' };

/** What can be said of a step beside that it is done: kept, handed on, left out, taken back. One of them is open at a time. */
export function Asides({
  run,
  step,
  tell,
  busy,
}: {
  run: Run;
  step: Schema['Step'];
  tell: Tell;
  busy: boolean;
}) {
  const [open, setOpen] = useState<string | null>(null);
  const halted = run.state.stopped || run.state.paused !== null;
  const fixed = step.kind === 'confirm' || step.wants === 'probe';
  const asides = [
    note,
    hand,
    ...(halted ? [] : [rest]),
    ...(halted || fixed ? [] : [otherway]),
    ...(halted || fixed || step.carries ? [] : [out]),
  ];
  const back = halted ? undefined : run.steps.find((s) => s.id === run.state.takesBack);
  const close = () => {
    setOpen(null);
  };
  const picked = asides.find((a) => a.name === open);
  return (
    <section aria-label="Beside it" className="border-t border-rule">
      <div className="flex flex-wrap items-center gap-x-5">
        {asides.map((aside) => (
          <Small
            key={aside.name}
            pressed={open === aside.name}
            onClick={() => {
              setOpen(open === aside.name ? null : aside.name);
            }}
          >
            {aside.name}
          </Small>
        ))}
        <Photograph run={run} tell={tell} />
        {step.kind !== 'confirm' && (
          <Small
            pressed={open === 'words'}
            onClick={() => {
              setOpen(open === 'words' ? null : 'words');
            }}
          >
            Change its words
          </Small>
        )}
        {back && (
          <Small
            disabled={busy}
            title={back.text}
            onClick={() => {
              tell('undone');
            }}
          >
            {back.id === step.id ? 'It has not begun' : 'Take the last step back'}
          </Small>
        )}
      </div>
      {picked && (
        <Words
          key={picked.name}
          name={picked.name}
          ask={picked.ask}
          busy={busy}
          keep={(text) => {
            tell(picked.kind, { [picked.field]: text });
            close();
          }}
        />
      )}
      {open === 'words' && <Reword step={step} tell={tell} busy={busy} close={close} />}
    </section>
  );
}

function Words({
  name,
  ask,
  busy,
  keep,
}: {
  name: string;
  ask: string;
  busy: boolean;
  keep: (text: string) => void;
}) {
  const [text, setText] = useState('');
  return (
    <form
      aria-label={name}
      className="flex items-end gap-3 pb-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (text.trim()) keep(text.trim());
      }}
    >
      <label className="block flex-1">
        <span className="caption block">{ask}</span>
        <input
          autoFocus
          maxLength={500}
          value={text}
          className="h-11 w-full border-b-2 border-ink bg-transparent"
          onChange={(event) => {
            setText(event.target.value);
          }}
        />
      </label>
      <button
        disabled={busy || !text.trim()}
        className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
      >
        Keep it
      </button>
    </form>
  );
}

/** The step in other words on this machine; a better one may be offered to the catalogue. */
function Reword({
  step,
  tell,
  busy,
  close,
}: {
  step: Schema['Step'];
  tell: Tell;
  busy: boolean;
  close: () => void;
}) {
  const [words, setWords] = useState(step.text);
  const [why, setWhy] = useState('');
  const [offer, setOffer] = useState(false);
  const ready = words.trim().length > 2 && words.trim() !== step.text && why.trim().length > 2;
  return (
    <form
      aria-label="Change its words"
      className="pb-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (!ready) return;
        tell('edited', {
          step: step.id,
          words: words.trim(),
          text: why.trim(),
          ...(offer ? { offer: 'yes' } : {}),
        });
        close();
      }}
    >
      <label className="block">
        <span className="caption block">As it should read on this machine</span>
        <textarea
          autoFocus
          rows={2}
          maxLength={400}
          value={words}
          className="block w-full border-[1.5px] border-ink bg-transparent p-1"
          onChange={(event) => {
            setWords(event.target.value);
          }}
        />
      </label>
      <div className="flex flex-wrap items-end gap-4 pt-1">
        <label className="block min-w-64 flex-1">
          <span className="caption block">Why</span>
          <input
            maxLength={500}
            value={why}
            className="h-11 w-full border-b-2 border-ink bg-transparent"
            onChange={(event) => {
              setWhy(event.target.value);
            }}
          />
        </label>
        <label className="flex min-h-11 items-center gap-2">
          <input
            type="checkbox"
            checked={offer}
            className="size-5 accent-ink"
            onChange={(event) => {
              setOffer(event.target.checked);
            }}
          />
          Offer it to the catalogue
        </label>
        <button disabled={busy || !ready} className="min-h-11 border-[1.5px] border-ink px-4 font-semibold">
          Keep it
        </button>
      </div>
    </form>
  );
}

/** A photograph goes to the machine's others, and the record of the run says at which step it was taken. */
function Photograph({ run, tell }: { run: Run; tell: Tell }) {
  const id = useId();
  const [who] = useWho();
  const attach = useWrite(async (files: File[]) => {
    const kept = await take(
      api.POST('/api/machines/{tag}/photos', {
        params: { path: { tag: run.tag } },
        ...formOf({ by: who || nobody }, files),
      }),
    );
    const photo = kept.at(-1);
    if (photo) tell('photo', { photo: String(photo.id) });
  });
  return (
    <span className="relative flex min-h-11 items-center focus-within:underline">
      <label htmlFor={id} className="font-semibold underline-offset-4 hover:underline">
        Photograph
      </label>
      <input
        id={id}
        type="file"
        accept="image/jpeg,image/png,image/webp"
        className="absolute inset-0 cursor-pointer opacity-0"
        onChange={(event) => {
          const files = [...(event.target.files ?? [])];
          event.target.value = '';
          if (files.length > 0) attach.mutate(files);
        }}
      />
      {attach.error && <Failed error={attach.error} />}
    </span>
  );
}

function Small({
  pressed,
  disabled,
  title,
  onClick,
  children,
}: {
  pressed?: boolean;
  disabled?: boolean;
  title?: string;
  onClick: () => void;
  children: React.ReactNode;
}) {
  return (
    <button
      type="button"
      disabled={disabled}
      title={title}
      aria-expanded={pressed}
      className={`min-h-11 font-semibold underline-offset-4 hover:underline ${pressed ? 'underline' : ''}`}
      onClick={onClick}
    >
      {children}
    </button>
  );
}
