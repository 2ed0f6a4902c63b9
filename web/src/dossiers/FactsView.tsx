import { pitch, rungs } from '../ladder/rungs';
import { definitionOf, factText, inConflict, labelOf } from './facts';
import { useMachine } from './MachinePage';
import { Log } from './Log';
import { MeasureNext } from '../planning/MeasureNext';
import { Probes } from './Probes';
import { RungSheet } from './RungSheet';

/** Every fact at the height of the rung that it decides. */
export function FactsView() {
  const { sheet, keys, open, setOpen } = useMachine();
  return (
    <div>
      <div className="relative" style={{ minHeight: pitch * 10 }}>
        <ol className="relative" style={{ height: pitch * 10 }} aria-label="Facts by rung, bottom first">
          {rungs.map(({ name }, i) => {
            // Details stand in the rung when it is opened; here they would hide what decides.
            const facts = sheet.facts.filter((f) => {
              const definition = definitionOf(f.key, keys);
              return definition?.rung === name && (!definition.detail || inConflict(f));
            });
            const unknown = sheet.unknown.filter((key) => definitionOf(key, keys)?.rung === name);
            return (
              <li
                key={name}
                className="absolute inset-x-0 flex items-center overflow-hidden border-b border-rule text-[13.5px]"
                style={{ bottom: i * pitch, height: pitch }}
              >
                <p className="line-clamp-2 leading-[1.4]">
                  {facts.map((fact) => (
                    <span key={fact.key} className="mr-2.5">
                      <span className="text-quiet">{labelOf(fact.key, keys)} </span>
                      <b className={`font-semibold ${inConflict(fact) ? 'text-wall' : ''}`}>
                        {factText(fact, keys)}
                        {inConflict(fact) && ' (sources disagree)'}
                        {sheet.notInCatalogue.includes(fact.key) && ' (not in the catalogue)'}
                      </b>{' '}
                    </span>
                  ))}
                  {unknown.length > 0 && (
                    <span className="text-unknown">
                      not measured:{' '}
                      {unknown
                        .map((key) => labelOf(key, keys).toLowerCase().replace('tpm', 'TPM'))
                        .join(', ')}
                    </span>
                  )}
                  {facts.length + unknown.length === 0 && (
                    <span className="text-quiet">no facts of its own</span>
                  )}
                </p>
              </li>
            );
          })}
        </ol>
        {open && (
          <RungSheet
            key={open}
            rung={open}
            onClose={() => {
              setOpen(null);
            }}
          />
        )}
      </div>
      {/* Under the ladder too: it is about the whole machine. */}
      <section aria-label="Measure next" className="border-t-[1.5px] border-ink pt-1.5 lg:-ml-[532px]">
        <h2 className="caption">Measure next</h2>
        <MeasureNext tag={sheet.tag} most={3} beside />
      </section>
      <Probes tag={sheet.tag} />
      <Log tag={sheet.tag} />
    </div>
  );
}
