import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { api, type Schema, take } from '../api/client';
import { useWrite } from '../api/queries';
import { systemName } from '../dossiers/facts';
import { Failed } from '../shell/States';
import { Choose, Write } from '../pieces/fields';
import { Listing } from './Listing';
import { Keep } from './Keep';
import { wanted } from './wanted';

export function AnswerBuilder({ systems: known }: { systems: Schema['SystemEntry'][] }) {
  const able = known.filter((s) => s.installer?.answers);
  const [search] = useSearchParams();
  const [system, setSystem] = useState(wanted(able, search.get('system')));
  const rules = able.find((s) => s.id === system)?.installer?.answers;
  const [tag, setTag] = useState(search.get('tag') ?? '');
  const [answers, setAnswers] = useState<Schema['Answers']>({
    account: 'reader',
    password: '',
    region: 'Eddlestow',
    keyboard: 'en',
    privacy: {},
    encryption: false,
    computerName: 'MILL-{number}',
    skipAccountStep: true,
    skipNetworkStep: false,
  });
  const set = (to: Partial<Schema['Answers']>) => {
    setAnswers({ ...answers, ...to });
  };
  const build = useWrite(() =>
    take(api.POST('/api/answer-files', { body: { system, answers, tag: tag || null } })),
  );
  return (
    <form
      aria-label="Answer file"
      className="pt-3"
      onSubmit={(event) => {
        event.preventDefault();
        build.mutate(undefined);
      }}
    >
      <div className="grid grid-cols-2 gap-x-5 gap-y-2">
        <Choose
          label="System"
          value={system}
          set={(id) => {
            setSystem(id);
            set({ privacy: {} });
          }}
        >
          {able.map((s) => (
            <option key={s.id} value={s.id}>
              {systemName(s)}
            </option>
          ))}
        </Choose>
        <Write label="For the machine (empty: for many)" value={tag} set={setTag} scan />
        <div>
          <Write
            label="Local account"
            value={answers.account}
            set={(account) => {
              set({ account });
            }}
          />
          <p className="text-xs text-quiet">{rules?.accountRule}</p>
        </div>
        <div>
          <Write
            label="First password"
            value={answers.password}
            set={(password) => {
              set({ password });
            }}
          />
          {answers.password === '' && (
            <p className="text-xs text-setting">Empty: whoever opens the lid is in.</p>
          )}
        </div>
        <Write
          label="Region"
          value={answers.region}
          set={(region) => {
            set({ region });
          }}
        />
        <Write
          label="Keyboard"
          value={answers.keyboard}
          set={(keyboard) => {
            set({ keyboard });
          }}
        />
        <Write
          label="Computer name ({tag}, {number})"
          value={answers.computerName}
          set={(computerName) => {
            set({ computerName });
          }}
        />
        <Tick
          label="Encrypt the drive"
          value={answers.encryption}
          set={(encryption) => {
            set({ encryption });
          }}
        />
        <Tick
          label="Pass over the account step"
          value={answers.skipAccountStep}
          set={(skipAccountStep) => {
            set({ skipAccountStep });
          }}
        />
        <Tick
          label="Pass over the network step"
          value={answers.skipNetworkStep}
          set={(skipNetworkStep) => {
            set({ skipNetworkStep });
          }}
        />
      </div>
      <fieldset className="pt-2">
        <legend className="caption">Privacy, one by one; what is not ticked is answered with no</legend>
        {Object.entries(rules?.privacy ?? {}).map(([id, words]) => (
          <Tick
            key={id}
            label={words}
            value={answers.privacy[id] ?? false}
            set={(yes) => {
              set({ privacy: { ...answers.privacy, [id]: yes } });
            }}
          />
        ))}
      </fieldset>
      <button
        disabled={build.isPending}
        className="mt-2 min-h-11 border-[1.5px] border-ink px-5 font-semibold"
      >
        Build the answer file
      </button>
      {build.error && <Failed error={build.error} />}
      {build.data && (
        <div className="pt-2">
          <ul aria-label="What to know">
            {build.data.warnings.map((w) => (
              <li key={w} className="border-l-4 border-setting pl-2">
                {w}
              </li>
            ))}
          </ul>
          <h3 className="caption pt-2">{build.data.path}</h3>
          <Listing label="Answer file" text={build.data.text} />
          <Keep recipe={build.data.recipe} />
        </div>
      )}
    </form>
  );
}

function Tick({ label, value, set }: { label: string; value: boolean; set: (value: boolean) => void }) {
  return (
    <label className="flex min-h-8 items-center gap-2">
      <input
        type="checkbox"
        className="size-5 accent-ink"
        checked={value}
        onChange={(event) => {
          set(event.target.checked);
        }}
      />
      {label}
    </label>
  );
}
