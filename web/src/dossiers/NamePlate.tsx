import type { Schema } from '../api/client';
import { factText, machineName } from './facts';
import { ForOrder, Stands } from './Place';

/** The machine's name plate, engraved and screwed on like a maker's rating plate. */
export function NamePlate({
  sheet,
  keys,
}: {
  sheet: Schema['MachineSheet'];
  keys: Schema['FactDefinition'][];
}) {
  const say = (key: string) => {
    const fact = sheet.facts.find((f) => f.key === key);
    return fact ? factText(fact, keys) : null;
  };
  const list = (...parts: (string | null)[]) => parts.filter((p) => p !== null).join(' · ') || null;
  const seen = say('memory.visibleMiB') && `${say('memory.visibleMiB')} seen`;
  const slots = say('memory.slots') && `${say('memory.slotsUsed')} of ${say('memory.slots')}`;
  return (
    <section aria-label="Name plate" className="mt-2.5 mb-1 border-[1.5px] border-ink bg-sheet p-1">
      <div className="relative flex items-center border border-rule px-9 py-1.5">
        <Screw place="top-1 left-1.5" turn={-40} />
        <Screw place="bottom-1 left-1.5" turn={12} />
        <Screw place="top-1 right-1.5" turn={55} />
        <Screw place="bottom-1 right-1.5" turn={-18} />
        <h1 className="pr-6 font-name text-[40px] leading-none font-bold whitespace-nowrap" data-loud>
          {sheet.tag}
        </h1>
        <dl className="grid flex-1 grid-cols-2 gap-x-6 gap-y-1 border-l border-rule pl-5 md:grid-cols-3">
          <Field
            label="Maker · model"
            value={machineName(say('identity.maker'), say('identity.model')) || null}
          />
          <Field label="Serial" value={say('identity.serial')} />
          <Field label="Processor" value={list(say('cpu.model'), say('cpu.level'))} />
          <Field
            label="Memory"
            value={list(
              slots
                ? `${say('memory.installedMiB') ?? '?'} in ${slots}`
                : (say('memory.installedMiB') ?? seen),
              say('memory.maxMiB') && `max ${say('memory.maxMiB')}`,
            )}
          />
          <Field
            label="Drive"
            value={list(say('storage.0.sizeBytes'), say('storage.0.bus'), say('storage.0.kind'))}
          />
          <Field
            label="Firmware"
            value={list(
              say('firmware.kind'),
              say('firmware.startedBy') && `started by ${say('firmware.startedBy')}`,
            )}
          />
        </dl>
        <div className="flex flex-col gap-1 border-l border-rule pl-5">
          <Stands sheet={sheet} />
          <ForOrder sheet={sheet} />
        </div>
      </div>
    </section>
  );
}

function Field({ label, value }: { label: string; value: string | null }) {
  return (
    <div className="min-w-0">
      <dt className="caption">{label}</dt>
      <dd className={`truncate ${value ? 'font-semibold' : 'text-unknown'}`} title={value ?? undefined}>
        {value ?? 'not measured'}
      </dd>
    </div>
  );
}

function Screw({ place, turn }: { place: string; turn: number }) {
  return (
    <svg
      width="11"
      height="11"
      viewBox="0 0 11 11"
      className={`absolute text-ink ${place}`}
      aria-hidden="true"
    >
      <circle cx="5.5" cy="5.5" r="4.6" fill="none" stroke="currentColor" />
      <path
        d="M2.6 4.9h5.8M2.6 6.1h5.8"
        stroke="currentColor"
        strokeWidth="0.8"
        transform={`rotate(${turn} 5.5 5.5)`}
      />
    </svg>
  );
}
