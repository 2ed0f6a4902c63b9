import { useEffect, useRef } from 'react';
import type { Schema } from '../api/client';
import { RungShape } from '../ladder/RungShape';
import { inkOf, outcomes } from '../ladder/outcomes';
import { rungs, type RungName } from '../ladder/rungs';
import { FactQuestion } from './FactQuestion';
import { FactRow } from './FactRow';
import { definitionOf, inConflict, moneyText, systemName } from './facts';
import { speaker } from './LadderColumn';
import { useMachine } from './MachinePage';
import { ReleasePanel } from '../release/ReleasePanel';
import { SoundnessPanel } from '../soundness/SoundnessPanel';

/** A rung opened: what is asked there, what would mend it, what nobody has measured yet, and its facts. */
export function RungSheet({
  rung,
  compare = false,
  onClose,
}: {
  rung: RungName;
  compare?: boolean;
  onClose: () => void;
}) {
  const { sheet, aim, all, systems, keys } = useMachine();
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    heading.current?.focus({ preventScroll: true });
  }, []);
  // An answered question leaves the sheet and would take the focus with it: it goes back to the head of the sheet.
  useEffect(() => {
    if (document.activeElement === document.body) heading.current?.focus({ preventScroll: true });
  }, [sheet.version]);
  useEffect(() => {
    const leave = (event: KeyboardEvent) => {
      if (event.key === 'Escape' && !event.defaultPrevented) onClose();
    };
    window.addEventListener('keydown', leave);
    return () => {
      window.removeEventListener('keydown', leave);
    };
  }, [onClose]);

  const index = rungs.findIndex((r) => r.name === rung);
  const standing = aim.rungs[index];
  if (!standing) return null;
  const findings = [...standing.findings].sort(
    (a, b) => outcomes.indexOf(b.outcome) - outcomes.indexOf(a.outcome),
  );
  const open = [...new Set(findings.flatMap((f) => f.undecidedBy))];
  // What wants a choice comes first.
  const facts = sheet.facts
    .filter((f) => definitionOf(f.key, keys)?.rung === rung)
    .sort((a, b) => Number(inConflict(b)) - Number(inConflict(a)));
  const others = sheet.unknown.filter(
    (key) =>
      definitionOf(key, keys)?.rung === rung && !open.includes(key) && !definitionOf(key, keys)?.derived,
  );

  return (
    <section
      aria-label={`Rung ${rung}`}
      className="inset-y-0 right-0 z-10 overflow-y-auto border-l-[1.5px] border-ink bg-sheet px-5 pb-4 lg:absolute lg:w-[min(560px,calc(100%-140px))]"
    >
      <header className="sticky top-0 flex items-center gap-3 border-b border-rule bg-sheet pt-2 pb-1.5">
        <h2
          ref={heading}
          tabIndex={-1}
          className="font-name text-[32px] leading-none font-bold outline-none"
          data-loud
        >
          {rung}
        </h2>
        <b className={inkOf[standing.outcome]} data-testid="rung-outcome">
          {standing.outcome}
        </b>
        <p className="min-w-0 flex-1 truncate text-sm text-quiet">holds when {rungs[index]?.holds}</p>
        <button type="button" onClick={onClose} className="min-h-11 px-2 font-semibold">
          Close
        </button>
      </header>

      {rung === 'release' && <ReleasePanel tag={sheet.tag} />}
      {rung === 'parts' && <SoundnessPanel tag={sheet.tag} />}

      {/* The release check asks its own questions, in an order that loses nothing. */}
      {(rung === 'release' ? [] : open).map((key) => (
        <FactQuestion key={key} tag={sheet.tag} factKey={key} keys={keys} loud />
      ))}

      <ul>
        {findings.map((finding) => (
          <FindingItem key={finding.requirement} finding={finding} />
        ))}
      </ul>

      {compare && all.length > 1 && (
        <>
          <h3 className="caption pt-3">Other systems at this rung</h3>
          <ul>
            {all
              .filter((a) => a.system !== aim.system)
              .map((assessment) => {
                const there = assessment.rungs[index];
                return (
                  there && (
                    <li key={assessment.system} className="flex items-center gap-3 py-1">
                      <RungShape outcome={there.outcome} width={40} bar={7} />
                      <span>
                        <b>{systemName(systems.find((s) => s.id === assessment.system))}</b>{' '}
                        <span className={`font-semibold ${inkOf[there.outcome]}`}>{there.outcome}</span>{' '}
                        {there.outcome !== 'clear' && speaker(there)?.text}
                      </span>
                    </li>
                  )
                );
              })}
          </ul>
        </>
      )}

      {facts.length > 0 && <h3 className="caption pt-3">Facts of this rung</h3>}
      {facts.map((fact) => (
        <FactRow key={fact.key} tag={sheet.tag} fact={fact} keys={keys} />
      ))}

      {rung !== 'release' && others.length > 0 && <h3 className="caption pt-3">Also not measured</h3>}
      {(rung === 'release' ? [] : others).map((key) => (
        <FactQuestion key={key} tag={sheet.tag} factKey={key} keys={keys} />
      ))}
    </section>
  );
}

function FindingItem({ finding }: { finding: Schema['Finding'] }) {
  const [mildest, ...more] = finding.cures;
  if (finding.outcome === 'clear')
    return (
      <li className="flex items-baseline gap-2 border-b border-rule py-1 last:border-0">
        <b className={inkOf.clear}>clear</b>
        <span className="caption w-16 shrink-0">{finding.kind}</span>
        <span className="flex-1">{finding.text}</span>
      </li>
    );
  return (
    <li className="border-b border-rule py-2 last:border-0">
      <p className="flex items-baseline gap-2">
        <b className={inkOf[finding.outcome]}>{finding.outcome}</b>
        <span className="caption">
          {finding.kind}
          {finding.advisory && ', advisory'}
        </span>
        <span className="ml-auto text-xs text-quiet">
          {finding.evidence.source}, {finding.evidence.date}, {finding.evidence.sure}
        </span>
      </p>
      <p>{finding.text}</p>
      {finding.ifLifted && <p className="text-sm text-quiet">If lifted: {finding.ifLifted}</p>}
      {finding.claims.length > 0 && (
        <div className="text-sm">
          <p className="text-quiet">Others say otherwise:</p>
          <ul className="list-disc pl-5">
            {finding.claims.map((claim) => (
              <li key={claim.says}>
                {claim.says}{' '}
                <span className="text-quiet">
                  ({claim.evidence.source}, {claim.evidence.date}, {claim.evidence.sure})
                </span>
              </li>
            ))}
          </ul>
          <p>
            <b>In force:</b> {finding.whyThis}
          </p>
        </div>
      )}
      {mildest && <CureItem cure={mildest} />}
      {more.length > 0 && (
        <details>
          <summary className="min-h-8 cursor-pointer pt-1 text-sm text-quiet">
            {more.length} {more.length === 1 ? 'other way' : 'other ways'}
          </summary>
          {more.map((cure) => (
            <CureItem key={cure.id} cure={cure} />
          ))}
        </details>
      )}
    </li>
  );
}

function CureItem({ cure }: { cure: Schema['Cure'] }) {
  return (
    <div className="mt-1 flex gap-3">
      <span className="pt-1">
        <RungShape outcome={cure.kind} width={36} bar={7} />
      </span>
      <div className="text-sm">
        <p>
          <b>{cure.does}</b> · {cure.money > 0 ? `${moneyText(cure.money)} · ` : ''}about{' '}
          {cure.handsOnMinutes} min
          {cure.waitMinutes > 0 && `, then ${cure.waitMinutes} min of waiting`} · at the rung {cure.rung}
        </p>
        {cure.how && <p className="text-quiet">{cure.how}</p>}
        {cure.caution && (
          <p className="border-l-4 border-setting pl-2">
            <b>Caution.</b> {cure.caution}
          </p>
        )}
      </div>
    </div>
  );
}
