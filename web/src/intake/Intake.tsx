import { Tab, TabGroup, TabList, TabPanel, TabPanels } from '@headlessui/react';
import { useQuery } from '@tanstack/react-query';
import { useId, useState } from 'react';
import { Link } from 'react-router';
import { assessments, factKeys, machine, machines, soundness, useImport } from '../api/queries';
import { Ladder } from '../ladder/Ladder';
import { type Outcome } from '../ladder/outcomes';
import { pitch, rungs } from '../ladder/rungs';
import { FactQuestion } from '../dossiers/FactQuestion';
import { factText, machineName } from '../dossiers/facts';
import { ForOrder, Stands } from '../dossiers/Place';
import { MeasureNext } from '../planning/MeasureNext';
import { ReleasePanel } from '../release/ReleasePanel';
import { Arrivals } from './Arrivals';
import { ByCommand } from './ByCommand';
import { ByTable } from './ByTable';
import { oddTag } from './tags';
import { WhoseProbe } from './WhoseProbe';

const nothingKnown: Outcome[] = rungs.map(() => 'unknown');

/** Takes a machine in: tag, bundle, then the questions of the two lowest rungs, which only people can answer. */
export function Intake() {
  const [tag, setTag] = useState('');
  const [files, setFiles] = useState<File[]>([]);
  const bringIn = useImport();
  const taken = bringIn.data;

  return (
    <div className="grid flex-1 grid-cols-1 gap-x-6 pt-4 lg:grid-cols-[260px_minmax(0,1fr)]">
      <div className="hidden pb-2 lg:block">
        <IntakeLadder tag={taken?.tag} />
      </div>
      {taken ? (
        <Questions
          taken={taken}
          onNext={() => {
            setTag('');
            setFiles([]);
            bringIn.reset();
          }}
        />
      ) : (
        <div className="flex max-w-4xl flex-col">
          <h1 className="font-name text-[44px] leading-none font-bold" data-loud>
            Take machines in.
          </h1>
          <TabGroup>
            <TabList className="flex gap-6 border-b-[1.5px] border-ink pt-3">
              {['From a bundle', 'From the machine itself', 'From a table'].map((way) => (
                <Tab
                  key={way}
                  className="min-h-11 border-b-4 border-transparent text-[17px] text-quiet data-selected:border-ink data-selected:font-bold data-selected:text-ink"
                >
                  {way}
                </Tab>
              ))}
            </TabList>
            <TabPanels className="pt-5">
              <TabPanel tabIndex={-1}>
                <ByBundle tag={tag} setTag={setTag} files={files} setFiles={setFiles} bringIn={bringIn} />
              </TabPanel>
              <TabPanel tabIndex={-1}>
                <ByCommand />
              </TabPanel>
              <TabPanel tabIndex={-1}>
                <ByTable />
              </TabPanel>
            </TabPanels>
          </TabGroup>
          <Arrivals />
        </div>
      )}
    </div>
  );
}

interface ByBundleProps {
  tag: string;
  setTag: (tag: string) => void;
  files: File[];
  setFiles: (files: File[]) => void;
  bringIn: ReturnType<typeof useImport>;
}

function ByBundle({ tag, setTag, files, setFiles, bringIn }: ByBundleProps) {
  const known = (useQuery(machines).data ?? []).map((m) => m.tag);
  const [meant, setMeant] = useState('');
  const alike = tag.trim() && meant !== tag ? oddTag(tag, known) : null;
  return (
    <form
      className="flex flex-col gap-5"
      onSubmit={(event) => {
        event.preventDefault();
        if (alike === null) bringIn.mutate({ tag, files, known: false });
      }}
    >
      <label className="block">
        <span className="caption">Asset tag, typed or scanned</span>
        <input
          autoFocus
          data-scan="field"
          value={tag}
          placeholder="MR-0000"
          autoComplete="off"
          spellCheck={false}
          className="mt-2 block h-16 w-full border-b-[3px] border-ink bg-transparent font-value text-[40px] uppercase placeholder:text-rule"
          onChange={(event) => {
            setTag(event.target.value);
          }}
        />
      </label>
      <DropPlace files={files} take={setFiles} />
      <WhoseProbe bring={bringIn} />
      {alike !== null && files.length > 0 && (
        <p role="alert" className="flex flex-wrap items-center gap-3 border-l-4 border-setting pl-3">
          The shop’s tags look like {alike}. Is {tag.trim().toUpperCase()} meant?
          <button
            type="button"
            className="min-h-11 border-[1.5px] border-ink px-4 font-semibold"
            onClick={() => {
              setMeant(tag);
            }}
          >
            Yes, it is its tag
          </button>
        </p>
      )}
      <div className="flex items-center gap-5">
        <button
          disabled={bringIn.isPending || !tag.trim() || files.length === 0 || alike !== null}
          className="min-h-13 bg-ink px-8 text-lg font-semibold text-ground"
        >
          {bringIn.isPending ? 'Reading…' : 'Take in'}
        </button>
        <p className="text-quiet">
          Nothing is stored unless all of it can be read. The probe only reads; it changes nothing on the
          machine.
        </p>
      </div>
    </form>
  );
}

function DropPlace({ files, take }: { files: File[]; take: (files: File[]) => void }) {
  const [over, setOver] = useState(false);
  const id = useId();
  return (
    <div
      className={`border-2 border-dashed px-6 py-7 ${over ? 'border-ink bg-sheet' : 'border-quiet'}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => {
        setOver(false);
      }}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        take([...event.dataTransfer.files]);
      }}
    >
      <label htmlFor={id} className="block text-lg font-semibold">
        Drop the probe’s bundle here, or choose it
      </label>
      <p className="pb-3 text-quiet">
        One .tar.gz, or single files such as lscpu.json and smbios.bin. At most 64 MiB.
      </p>
      <input
        id={id}
        type="file"
        multiple
        className="block w-full font-value text-sm file:mr-4 file:min-h-11 file:border-[1.5px] file:border-ink file:bg-transparent file:px-4 file:font-text file:text-ink"
        onChange={(event) => {
          take([...(event.target.files ?? [])]);
        }}
      />
      {files.length > 0 && (
        <ul className="pt-2 font-value text-sm">
          {files.map((file) => (
            <li key={file.name}>
              {file.name} · {file.size.toLocaleString('en-GB')} bytes
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

function IntakeLadder({ tag }: { tag: string | undefined }) {
  const sheet = useQuery({ ...machine(tag ?? ''), enabled: tag !== undefined }).data;
  const all = useQuery({ ...assessments(tag ?? ''), enabled: tag !== undefined }).data;
  const outcomes = all?.find((a) => a.system === sheet?.aim)?.rungs.map((r) => r.outcome) ?? nothingKnown;
  return (
    <div className="flex">
      <ol className="flex flex-col-reverse pr-4">
        {rungs.map(({ name }, i) => (
          <li
            key={name}
            className="flex w-[88px] items-center justify-end text-base"
            style={{ height: pitch }}
          >
            <span aria-label={`${name}: ${outcomes[i] ?? 'unknown'}`}>{name}</span>
          </li>
        ))}
      </ol>
      <Ladder outcomes={outcomes} width={136} step={pitch} bar={12} />
    </div>
  );
}

function Questions({
  taken,
  onNext,
}: {
  taken: NonNullable<ReturnType<typeof useImport>['data']>;
  onNext: () => void;
}) {
  const sheet = useQuery(machine(taken.tag)).data;
  const keys = useQuery(factKeys).data;
  if (!sheet || !keys) return null;
  const say = (key: string) => {
    const fact = sheet.facts.find((f) => f.key === key);
    return fact ? factText(fact, keys) : null;
  };
  return (
    <section className="flex min-h-[520px] flex-col">
      <header className="flex items-baseline gap-5">
        <h1 className="font-name text-[40px] leading-none font-bold" data-loud>
          {taken.tag}
        </h1>
        <p role="status">
          Taken in, with {taken.facts.length} facts. The questions that only people can answer come first.
        </p>
        <span className="ml-auto flex gap-5">
          <Link
            to={`/machines/${taken.tag}/systems`}
            className="flex min-h-11 items-center font-semibold underline underline-offset-4"
          >
            What it could get
          </Link>
          <button
            type="button"
            onClick={onNext}
            className="min-h-11 font-semibold underline underline-offset-4"
          >
            Next machine
          </button>
        </span>
      </header>

      {/* What only people can answer comes first; what the probe left open is folded away below. */}
      <Group title="release">
        <ReleasePanel tag={taken.tag} />
      </Group>
      <Group title="parts">
        {['parts.battery', 'parts.storage']
          .filter((key) => sheet.unknown.includes(key))
          .map((key) => (
            <FactQuestion key={key} tag={taken.tag} factKey={key} keys={keys} />
          ))}
        {!['parts.battery', 'parts.storage'].some((key) => sheet.unknown.includes(key)) && (
          <p className="py-1 text-quiet">Battery and drive are looked at.</p>
        )}
        <Stops tag={taken.tag} />
      </Group>
      <div className="flex gap-10 border-t-[1.5px] border-ink py-2">
        <ForOrder sheet={sheet} />
        <Stands sheet={sheet} />
        <p className="self-end text-quiet">
          {[machineName(say('identity.maker'), say('identity.model')), say('cpu.model')]
            .filter(Boolean)
            .join(' · ')}
        </p>
      </div>
      <details open className="border-t border-rule pt-1">
        <summary className="min-h-9 cursor-pointer font-semibold">What to measure next</summary>
        <MeasureNext tag={taken.tag} most={4} />
      </details>
      {taken.warnings.length > 0 && (
        <details className="border-t border-rule pt-1">
          <summary className="min-h-9 cursor-pointer font-semibold">
            What the probe could not read: {taken.warnings.length}
          </summary>
          <ul className="list-disc pl-5 text-sm break-words">
            {taken.warnings.map((warning) => (
              <li key={warning} className="py-0.5">
                {warning}
              </li>
            ))}
          </ul>
        </details>
      )}
    </section>
  );
}

/** What forbids a run already: said at once, before anybody begins. */
function Stops({ tag }: { tag: string }) {
  const stops = useQuery(soundness(tag)).data?.stops ?? [];
  return stops.map((stop) => (
    <p key={stop.text} role="alert" className="border-l-4 border-wall pl-3 font-semibold text-wall">
      {stop.text}
    </p>
  ));
}

function Group({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section aria-label={`Questions of the rung ${title}`} className="pt-1 pb-2">
      <h2 className="caption">{title}</h2>
      {children}
    </section>
  );
}
