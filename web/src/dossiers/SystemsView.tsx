import { useState } from 'react';
import { Rails } from '../ladder/Ladder';
import { RungShape } from '../ladder/RungShape';
import { inkOf } from '../ladder/outcomes';
import { pitch } from '../ladder/rungs';
import { systemName } from './facts';
import { speaker } from './LadderColumn';
import { useMachine } from './MachinePage';
import { RungSheet } from './RungSheet';

/** Every system as a ladder on the same ten heights: a matrix that is read by climbing. */
export function SystemsView() {
  const { all, systems, aim, open, setOpen, setAim } = useMachine();
  const [every, setEvery] = useState(false);
  const walls = all.filter((a) => a.outcome === 'wall' && a.system !== aim.system);
  // What this machine cannot get at all is named below; its ladders would only make the others narrower.
  const shown = every ? all : all.filter((a) => !walls.includes(a));
  const roomy = shown.length <= 3 && !open;
  // Nine ladders and more side by side: as narrow as a rung can be read, their names written upwards.
  const tight = !roomy && shown.length > 8;
  const width = open ? 34 : tight ? 32 : 62;
  return (
    <div className="relative" style={{ minHeight: pitch * 10 + 170 }}>
      <ul className={`flex ${tight ? 'overflow-x-auto' : ''}`} aria-label="Systems">
        {/* An opened rung compares the systems in words; their ladders would lie under its sheet. */}
        {shown
          .filter((a) => !open || a.system === aim.system)
          .map((assessment) => {
            const system = systems.find((s) => s.id === assessment.system);
            const chosen = assessment.system === aim.system;
            return (
              <li
                key={assessment.system}
                className={`${chosen ? 'border-x-[1.5px] border-ink bg-sheet' : ''} ${tight ? 'px-[5px]' : 'px-3'} ${roomy ? 'flex-1' : ''}`}
              >
                <div className="relative" style={{ height: pitch * 10, width: roomy ? undefined : width }}>
                  <div className="absolute inset-y-0 left-0" style={{ width }}>
                    <Rails light />
                  </div>
                  <ol className="absolute inset-0" aria-label={systemName(system)}>
                    {assessment.rungs.map((rung, i) => (
                      <li
                        key={rung.rung}
                        className="absolute inset-x-0 flex items-center"
                        style={{ bottom: i * pitch, height: pitch }}
                        title={speaker(rung)?.text}
                      >
                        <span className="ml-0.5">
                          <RungShape outcome={rung.outcome} width={width - 4} bar={open || tight ? 7 : 10} />
                        </span>
                        <span className={roomy ? 'ml-3 min-w-0 text-[13px] leading-[1.25]' : 'sr-only'}>
                          <span className="line-clamp-2">
                            <b className={inkOf[rung.outcome]}>{rung.outcome}</b>
                            <Numbers rung={rung} />
                          </span>
                        </span>
                      </li>
                    ))}
                  </ol>
                </div>
                <button
                  type="button"
                  aria-pressed={chosen}
                  data-system={assessment.system}
                  title={system?.fullName}
                  className={`mt-1 min-h-11 text-left leading-tight hover:underline ${tight && !open ? 'h-40 w-full' : 'w-full'}`}
                  style={{ maxWidth: roomy ? undefined : tight && !open ? width + 4 : width + 20 }}
                  onClick={() => {
                    setAim(assessment.system);
                  }}
                >
                  {tight && !open ? (
                    <span className="block h-full [writing-mode:vertical-rl]">
                      <b className="block font-name text-[13px] whitespace-nowrap [font-stretch:80%]">
                        {system?.name} {shortRelease(system?.release)}
                      </b>
                      <span className="block font-value text-xs text-quiet">
                        {system?.supportEnds?.slice(0, 7) ?? 'rolling'}
                      </span>
                    </span>
                  ) : (
                    <>
                      <b
                        className={open ? 'block text-xs' : 'block font-name text-[14px] [font-stretch:80%]'}
                      >
                        {system?.name}
                      </b>
                      <span className={`block truncate ${open ? 'text-xs' : 'text-sm'}`}>
                        {system?.release ?? ''}
                      </span>
                      <span className="block font-value text-xs text-quiet">
                        {system?.supportEnds?.slice(0, 7) ?? 'rolling'}
                      </span>
                    </>
                  )}
                </button>
              </li>
            );
          })}
      </ul>
      {walls.length > 0 && !open && (
        <p className="pt-2 text-sm text-quiet">
          {every
            ? 'All systems are shown. '
            : `Nothing gets ${walls.map((w) => systemName(systems.find((s) => s.id === w.system))).join(', ')} onto it. `}
          <button
            type="button"
            className="min-h-9 underline underline-offset-4"
            onClick={() => {
              setEvery(!every);
            }}
          >
            {every ? 'Only what it could get' : `Show all ${all.length}`}
          </button>
        </p>
      )}
      {open && (
        <RungSheet
          key={open}
          rung={open}
          compare
          onClose={() => {
            setOpen(null);
          }}
        />
      )}
    </div>
  );
}

const shortRelease = (release: string | null | undefined) => release?.replace('release ', 'r') ?? '';

/** Needed against found in numbers, the kind of the requirement, and the mildest cure with its price. */
function Numbers({ rung }: { rung: Parameters<typeof speaker>[0] }) {
  const finding = speaker(rung);
  if (!finding) return <span className="text-quiet"> · nothing asked</span>;
  if (rung.outcome === 'clear' && rung.rung !== 'upkeep')
    return (
      <span className="text-quiet">
        {' '}
        · {rung.findings.length} {rung.findings.length === 1 ? 'holds' : 'hold'}
      </span>
    );
  const kind = `${finding.kind}${finding.advisory ? ', advisory' : ''}`;
  return (
    <>
      <span className="text-quiet">{` · ${kind} · `}</span>
      {finding.text}
    </>
  );
}
