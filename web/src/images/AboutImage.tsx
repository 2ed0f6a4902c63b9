import { useState } from 'react';
import { useNavigate } from 'react-router';
import { api, Refusal, type Schema, take } from '../api/client';
import { useWrite } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Choose, Write } from '../pieces/fields';
import { bytesText, trustNames } from './words';

/** What is said of an image, to be changed; and the way off the shelf. */
export function About({
  about,
  systems: known,
}: {
  about: Schema['StoredImage'];
  systems: Schema['SystemEntry'][];
}) {
  const [who] = useWho();
  const go = useNavigate();
  const [open, setOpen] = useState(false);
  const [asked, setAsked] = useState(false);
  const [said, setSaid] = useState({
    name: about.name,
    system: about.system ?? '',
    build: about.build ?? '',
    from: about.from,
    trust: about.trust as Schema['Trust'],
    notes: about.notes,
    sourceUntil: about.sourceUntil ?? '',
  });
  const change = useWrite(() =>
    take(
      api.PUT('/api/images/{id}', {
        params: { path: { id: about.id } },
        body: {
          version: about.version,
          image: {
            ...said,
            system: said.system || null,
            build: said.build || null,
            sourceUntil: said.sourceUntil || null,
            sizeBytes: about.sizeBytes,
            file: null,
            by: who || nobody,
          },
        },
      }),
    ),
  );
  const remove = useWrite(async (last: boolean) => {
    const { error, response } = await api.DELETE('/api/images/{id}', {
      params: { path: { id: about.id }, query: last ? { last } : {} },
    });
    if (error) throw new Refusal(response.status, typeof error === 'object' ? error : {});
  });
  const isLast = remove.error instanceof Refusal && remove.error.where === 'last';
  const set = (to: Partial<typeof said>) => {
    setSaid({ ...said, ...to });
  };
  return (
    <div className="pt-1">
      {about.notes && !open && <p className="whitespace-pre-line">{about.notes}</p>}
      <button
        type="button"
        aria-expanded={open}
        className="min-h-6 text-sm underline underline-offset-4"
        onClick={() => {
          setOpen(!open);
        }}
      >
        Change what is said of it
      </button>
      {open && (
        <form
          aria-label="What is said of it"
          className="grid grid-cols-2 gap-x-5 gap-y-2 border-b border-rule pb-3 lg:grid-cols-4"
          onSubmit={(event) => {
            event.preventDefault();
            change.mutate(undefined, {
              onSuccess: () => {
                setOpen(false);
              },
            });
          }}
        >
          <Write
            label="File name"
            value={said.name}
            set={(name) => {
              set({ name });
            }}
          />
          <Choose
            label="Installs"
            value={said.system}
            set={(system) => {
              set({ system });
            }}
          >
            <option value="">not said</option>
            {known.map((s) => (
              <option key={s.id} value={s.id}>
                {systemName(s)}
              </option>
            ))}
          </Choose>
          <Write
            label="Build"
            value={said.build}
            set={(build) => {
              set({ build });
            }}
          />
          <Choose
            label="Made by"
            value={said.trust}
            set={(trust) => {
              set({ trust: trust as Schema['Trust'] });
            }}
          >
            {Object.entries(trustNames).map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Choose>
          <Write
            label="Where it came from"
            value={said.from}
            set={(from) => {
              set({ from });
            }}
          />
          <label className="block">
            <span className="caption block">Can be fetched there until</span>
            <input
              type="date"
              className="h-9 w-full border-b-2 border-ink bg-transparent"
              value={said.sourceUntil}
              onChange={(event) => {
                set({ sourceUntil: event.target.value });
              }}
            />
          </label>
          <label className="col-span-2 block">
            <span className="caption block">Notes</span>
            <textarea
              className="h-16 w-full border-[1.5px] border-quiet bg-transparent p-1"
              value={said.notes}
              onChange={(event) => {
                set({ notes: event.target.value });
              }}
            />
          </label>
          <div className="flex items-end gap-4">
            <button disabled={change.isPending} className="min-h-11 bg-ink px-5 font-semibold text-ground">
              Save
            </button>
            {!asked ? (
              <button
                type="button"
                className="min-h-11 text-wall underline underline-offset-4"
                onClick={() => {
                  setAsked(true);
                }}
              >
                Take it off the shelf, with its file
              </button>
            ) : (
              <p className="flex flex-wrap items-center gap-x-3">
                <b className="text-wall">{bytesText(about.sizeBytes)} are deleted for good.</b>
                <button
                  type="button"
                  disabled={remove.isPending}
                  className="min-h-11 border-[1.5px] border-wall px-3 font-semibold text-wall"
                  onClick={() => {
                    remove.mutate(isLast, {
                      onSuccess: () => {
                        void go('/shelf/images');
                      },
                    });
                  }}
                >
                  {isLast ? 'Delete the last one' : 'Delete it'}
                </button>
                <button
                  type="button"
                  className="min-h-11 underline underline-offset-4"
                  onClick={() => {
                    setAsked(false);
                  }}
                >
                  Keep it
                </button>
              </p>
            )}
          </div>
          {change.error && <Failed error={change.error} />}
          {remove.error && <Failed error={remove.error} />}
        </form>
      )}
    </div>
  );
}
