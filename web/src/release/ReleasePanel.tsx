import { useQuery } from '@tanstack/react-query';
import { useState } from 'react';
import { api, type Schema, take, fails } from '../api/client';
import { factKeys, machine, release, useUnsay, useWrite } from '../api/queries';
import { AttachPhotos } from '../dossiers/Photos';
import { factText, labelOf } from '../dossiers/facts';
import { Failed } from '../shell/States';
import { dayOf } from '../shell/time';
import { nobody, useWho } from '../shell/who';

/** The way to leave given, one question at a time; what stops it, the letter to whoever holds the machine, the erasing. */
export function ReleasePanel({ tag }: { tag: string }) {
  const { data, error } = useQuery(release(tag));
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return null;
  return (
    <div className="border-b-[1.5px] border-ink pb-3">
      {data.question ? (
        <Question key={data.question.id} tag={tag} question={data.question} />
      ) : (
        <p className="pt-3 text-lg font-semibold text-clear">
          Leave is given, and nothing holds the machine.
        </p>
      )}
      <LastAnswer tag={tag} />
      {data.letter && <Letter text={data.letter} />}
      {data.question === null && <Erased tag={tag} sheet={data} />}
    </div>
  );
}

/** A wrong click is taken back, and its question comes again. */
function LastAnswer({ tag }: { tag: string }) {
  const facts = useQuery(machine(tag)).data?.facts ?? [];
  const keys = useQuery(factKeys).data ?? [];
  const unsay = useUnsay(tag);
  const [who] = useWho();
  const last = facts
    .filter((f) => f.key.startsWith('release.') && (f.origin === 'entered' || f.origin === 'chosen'))
    .reduce<Schema['Fact'] | null>((a, b) => (a === null || b.takenAt >= a.takenAt ? b : a), null);
  if (!last) return null;
  return (
    <p className="pt-1.5 text-sm text-quiet">
      Said last: {labelOf(last.key, keys).toLowerCase()}, <b>{factText(last, keys)}</b>.{' '}
      <button
        type="button"
        disabled={unsay.isPending}
        className="min-h-9 underline underline-offset-4"
        onClick={() => {
          unsay.mutate({ key: last.key, by: who || nobody });
        }}
      >
        Not so, take it back
      </button>
      {unsay.error && <Failed error={unsay.error} />}
    </p>
  );
}

function useAnswer(tag: string) {
  const [who] = useWho();
  return useWrite((answers: Partial<Schema['ReleaseAnswers']>) =>
    take(
      api.PUT('/api/machines/{tag}/release', {
        params: { path: { tag } },
        body: { ...answers, by: who || nobody } as Schema['ReleaseAnswers'],
      }),
    ),
  );
}

function Question({ tag, question }: { tag: string; question: Schema['ReleaseQuestion'] }) {
  const answer = useAnswer(tag);
  const [saving, setSaving] = useState(false);
  const [paper, setPaper] = useState('');
  const field = (key: string) => key.replace('release.', '');
  return (
    <section aria-label="Release check">
      <h3 className={`loud pt-2.5 ${question.stops ? 'text-wall' : ''}`} data-loud>
        {question.asks}
      </h3>
      {question.note && <p className="pt-1 text-quiet">{question.note}</p>}
      {question.caution && (
        <p className="mt-1.5 border-l-4 border-setting pl-2">
          <b>Caution.</b> {question.caution}
        </p>
      )}
      {question.paper && (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-1 pt-2">
          <label className="flex min-w-80 flex-1 items-center gap-2">
            {question.paper.says}
            <input
              className="h-10 min-w-0 flex-1 border-b-[1.5px] border-ink bg-transparent placeholder:text-quiet"
              value={paper}
              maxLength={200}
              placeholder={question.paper.example}
              onChange={(event) => {
                setPaper(event.target.value);
              }}
            />
          </label>
          <span className="flex flex-wrap items-center gap-2">
            <AttachPhotos tag={tag} says="Its photo" note={question.paper.says} />
          </span>
        </div>
      )}
      <div className="flex flex-wrap gap-2 pt-2.5">
        {question.answers.map(({ says, key, value }) => (
          <button
            key={says}
            type="button"
            disabled={answer.isPending}
            className="min-h-11 border-[1.5px] border-ink px-3.5 font-semibold hover:bg-ink hover:text-ground"
            onClick={() => {
              // Saved data wants a place and a look; the other answers stand alone.
              if (value === 'saved') setSaving(true);
              else
                answer.mutate({
                  [field(key)]: value,
                  ...(question.paper && paper.trim() ? { [field(question.paper.key)]: paper.trim() } : {}),
                });
            }}
          >
            {says}
          </button>
        ))}
      </div>
      {saving && (
        <Saved
          busy={answer.isPending}
          save={(dataWhere, dataReopened) => {
            answer.mutate({ data: 'saved', dataWhere, dataReopened });
          }}
        />
      )}
      {answer.error && <Failed error={answer.error} />}
    </section>
  );
}

function Saved({ busy, save }: { busy: boolean; save: (where: string, reopened: boolean) => void }) {
  const [where, setWhere] = useState('');
  const [reopened, setReopened] = useState(false);
  return (
    <form
      className="flex flex-wrap items-center gap-x-4 gap-y-2 pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        save(where, reopened);
      }}
    >
      <label className="flex flex-1 items-center gap-2">
        Where is it?
        <input
          autoFocus
          className="h-10 min-w-0 flex-1 border-b-[1.5px] border-ink bg-transparent"
          value={where}
          placeholder="such as: owner's drive, blue case"
          onChange={(event) => {
            setWhere(event.target.value);
          }}
        />
      </label>
      <label className="flex min-h-11 items-center gap-2">
        <input
          type="checkbox"
          className="size-5 accent-(--ink)"
          checked={reopened}
          onChange={(event) => {
            setReopened(event.target.checked);
          }}
        />
        opened again from there
      </label>
      <button disabled={busy || !where.trim()} className="min-h-11 bg-ink px-4 font-semibold text-ground">
        Save
      </button>
    </form>
  );
}

function Letter({ text }: { text: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <details className="pt-3">
      <summary className="min-h-9 cursor-pointer font-semibold">
        The letter to the organisation, with both serial numbers
      </summary>
      <pre className="border border-rule bg-ground p-3 font-value text-xs whitespace-pre-wrap" tabIndex={0}>
        {text}
      </pre>
      <button
        type="button"
        className="mt-1 min-h-11 font-semibold underline underline-offset-4"
        onClick={() => {
          void navigator.clipboard.writeText(text).then(() => {
            setCopied(true);
          });
        }}
      >
        {copied ? 'Copied' : 'Copy the letter'}
      </button>
    </details>
  );
}

const methods = [
  ['clear', 'Clear', 'overwritten by ordinary writes'],
  ['purge', 'Purge', 'the drive’s own erase command'],
  ['destroy', 'Destroy', 'the drive is broken up'],
] as const;

function Erased({ tag, sheet }: { tag: string; sheet: Schema['ReleaseSheet'] }) {
  const answer = useAnswer(tag);
  const fact = (key: string) => sheet.facts.find((f) => f.key === key);
  const erased = fact('release.erased');
  const verified = fact('release.erasedVerified')?.value === 'yes';
  return (
    <section aria-label="Erasing" className="pt-2">
      <h3 className="caption">Erased, in the sense of NIST SP 800-88</h3>
      {erased ? (
        <p className="flex flex-wrap items-center gap-3">
          <b>{String(erased.value)}</b>
          <span className="text-quiet">
            {erased.by}, {dayOf(erased.takenAt)}
          </span>
          {verified ? (
            <b className="text-clear">verified</b>
          ) : (
            <button
              type="button"
              className="min-h-10 border-[1.5px] border-ink px-3 text-sm"
              onClick={() => {
                answer.mutate({ erasedVerified: true });
              }}
            >
              Sectors from all over it were read: nothing is left
            </button>
          )}
        </p>
      ) : (
        <div className="flex flex-wrap gap-2 pt-1">
          {methods.map(([value, name, how]) => (
            <button
              key={value}
              type="button"
              disabled={answer.isPending}
              className="min-h-10 border-[1.5px] border-quiet px-3 text-sm hover:border-ink"
              onClick={() => {
                answer.mutate({ erased: value });
              }}
            >
              <b>{name}</b>: {how}
            </button>
          ))}
        </div>
      )}
      {answer.error && <Failed error={answer.error} />}
    </section>
  );
}
