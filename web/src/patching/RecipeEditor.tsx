import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { Link, useNavigate, useParams } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { image, preview, recipe as recipeQuery } from '../api/imageQueries';
import { useWrite } from '../api/queries';
import { Failed, Loading } from '../shell/States';
import { nobody, useWho } from '../shell/who';
import { Content, Tree } from '../images/Files';
import { Difference } from './Difference';

/** The recipe beside the image's files, with the difference that it makes, worked out as one types. */
export function RecipeEditor() {
  const id = Number(useParams()['id']);
  const recipeId = useParams()['recipe'] ?? 'new';
  const sheet = useQuery(image(id));
  const stored = useQuery({ ...recipeQuery(recipeId), enabled: recipeId !== 'new' });
  if (sheet.error ?? stored.error) return <Failed error={sheet.error ?? stored.error} />;
  if (!sheet.data || (recipeId !== 'new' && !stored.data)) return <Loading />;
  return (
    <Editing
      key={`${stored.data?.id ?? 'new'}-${stored.data?.version ?? 0}`}
      about={sheet.data.image}
      text={stored.data?.text ?? blank(sheet.data.image)}
      version={stored.data?.version ?? 0}
    />
  );
}

const blank = (about: Schema['StoredImage']) =>
  JSON.stringify(
    {
      id: `${about.system ?? 'system'}-mine`,
      name: 'What it does, in a few words',
      about: '',
      acts: 'image',
      for: {
        system: about.system ?? '',
        builds: about.build ? [about.build] : [],
        files: [],
      },
      lifts: [],
      costs: [],
      operations: [
        {
          op: 'replaceText',
          path: 'setup/gates.conf',
          find: 'what is there',
          with: 'what is to be there',
          count: 1,
        },
      ],
    },
    null,
    2,
  ) + '\n';

/** The beginnings of operations, to be filled in. */
const forms: readonly [name: string, form: object][] = [
  ['Replace text', { op: 'replaceText', find: '', with: '', count: 1 }],
  ['Insert lines', { op: 'insertLines', after: '', lines: [''] }],
  ['Remove lines', { op: 'removeLines', lines: [''] }],
  ['Set in INI', { op: 'setIni', section: '', key: '', old: '', value: '' }],
  ['Patch JSON', { op: 'patchJson', patch: [{ op: 'replace', path: '', value: '' }] }],
  ['Set in XML', { op: 'setXml', xPath: '', old: '', value: '', count: 1 }],
  ['Set in a property list', { op: 'setPropertyList', keys: [''], old: '', value: '' }],
  ['Add a file', { op: 'addFile', text: '' }],
  ['Add an archive', { op: 'addArchive', path: 'setup/answers.cpio', name: '', text: '' }],
  ['Replace a file', { op: 'replaceFile', oldSha256: '', text: '' }],
  ['Remove a file', { op: 'removeFile', oldSha256: '' }],
  ['Rename a file', { op: 'renameFile', to: '' }],
  ['Replace bytes', { op: 'replaceBytes', offset: 0, old: '', new: '' }],
  ['Boot arguments', { op: 'appendArguments', command: 'linux', arguments: [''], count: 1 }],
];

function Editing({
  about,
  text: from,
  version,
}: {
  about: Schema['StoredImage'];
  text: string;
  version: number;
}) {
  const [who] = useWho();
  const go = useNavigate();
  const [text, setText] = useState(from);
  const [file, setFile] = useState<string | null>(null);
  const would = useQuery(preview(about.id, { draft: useDeferredValue(text) }));
  const save = useWrite(async () => {
    const read = JSON.parse(text) as { id?: unknown };
    const id = typeof read.id === 'string' ? read.id : '';
    return take(
      api.PUT('/api/recipes/{id}', {
        params: { path: { id } },
        body: { text, version, by: who || nobody },
      }),
    );
  });
  const add = (form: object) => {
    try {
      const read = JSON.parse(text) as { operations?: unknown[] };
      const { op, ...rest } = form as { op: string };
      read.operations = [...(read.operations ?? []), { op, path: file ?? '', ...rest }];
      setText(JSON.stringify(read, null, 2) + '\n');
    } catch {
      // What is no JSON cannot be added to; the refusal beside it says where.
    }
  };
  return (
    <div className="flex flex-1 flex-col pb-6">
      <header className="flex items-end gap-5 border-b-[1.5px] border-ink pt-2 pb-1.5">
        <div className="min-w-0">
          <p className="text-sm">
            <Link to={`/images/${about.id}`} className="underline underline-offset-4">
              {about.name}
            </Link>
          </p>
          <h1 className="font-name text-[36px] leading-none font-bold" data-loud>
            A recipe for it
          </h1>
        </div>
        <button
          type="button"
          disabled={save.isPending || would.isError}
          className="ml-auto min-h-11 bg-ink px-5 font-semibold text-ground"
          onClick={() => {
            save.mutate(undefined, {
              onSuccess: (saved) => {
                void go(`/images/${about.id}/recipe/${saved.id}`, { replace: true });
              },
            });
          }}
        >
          Save the recipe
        </button>
      </header>
      {save.error && <Failed error={save.error} />}
      {save.data && <p role="status">Saved as version {save.data.version}.</p>}
      <div className="grid flex-1 grid-cols-1 gap-x-5 pt-2 lg:grid-cols-[250px_minmax(0,1fr)_minmax(0,1fr)]">
        <div className="min-w-0">
          <Tree id={about.id} open={setFile} chosen={file} />
          <div className="pt-2">
            <Content id={about.id} path={file} />
          </div>
        </div>
        <div className="flex min-w-0 flex-col">
          <h2 className="caption">The recipe</h2>
          <textarea
            aria-label="Recipe as JSON"
            spellCheck={false}
            className="min-h-[420px] flex-1 border-[1.5px] border-quiet bg-sheet p-2 font-value text-[13px] leading-[1.45]"
            value={text}
            onChange={(event) => {
              setText(event.target.value);
            }}
          />
          <ul className="flex flex-wrap gap-1.5 pt-2" aria-label="Add an operation">
            {forms.map(([name, form]) => (
              <li key={name}>
                <button
                  type="button"
                  className="min-h-8 border border-quiet px-2 text-[13px] hover:border-ink"
                  onClick={() => {
                    add(form);
                  }}
                >
                  {name}
                </button>
              </li>
            ))}
          </ul>
        </div>
        <section aria-label="Difference" className="min-w-0">
          <h2 className="caption">What it changes</h2>
          {would.error ? (
            <Failed error={would.error} />
          ) : would.data?.alreadyApplied ? (
            <p>Already applied: nothing would change.</p>
          ) : (
            would.data?.files.map((f) => <Difference key={f.path} file={f} />)
          )}
        </section>
      </div>
    </div>
  );
}
