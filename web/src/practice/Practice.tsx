import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { useEffect, useRef, useState } from 'react';
import { Link, useParams } from 'react-router';
import { fails, type Schema } from '../api/client';
import { howFar } from '../api/diagnosisQueries';
import { Cause, CheckToMake } from '../diagnosis/Parts';
import { Ladder } from '../ladder/Ladder';
import { rungs } from '../ladder/rungs';
import { Act, Otherwise } from '../runs/Act';
import { Failed, Loading } from '../shell/States';
import { Ended } from './Ended';
import { keepMoves, type Move, movesOf, play, practice } from './moves';

type Sheet = Schema['PracticeSheet'];
type Tell = (kind: Schema['PracticeMoveKind'], what?: string) => void;

/** A machine that is practised on: its screen at the left, the step or the search at the right. */
export function Practice() {
  const { id = '' } = useParams();
  return <Playing key={id} id={id} />;
}

function Playing({ id }: { id: string }) {
  const client = useQueryClient();
  const [moves, setMoves] = useState(() => movesOf(id));
  const { data, error } = useQuery(practice(id, moves));
  const next = useMutation({
    mutationFn: (all: Move[]) => play(id, all),
    onSuccess: (sheet, all) => {
      client.setQueryData(practice(id, all).queryKey, sheet);
      keepMoves(id, all);
      setMoves(all);
    },
  });
  const again = () => {
    next.reset();
    keepMoves(id, []);
    setMoves([]);
  };
  if (fails(error, data))
    return (
      <>
        <Failed error={error} />
        <button type="button" className="min-h-11 underline underline-offset-4" onClick={again}>
          From the beginning
        </button>
      </>
    );
  if (!data) return <Loading />;
  const tell: Tell = (kind, what) => {
    next.mutate([...moves, { kind, what: what ?? null }]);
  };
  return (
    <div className="grid flex-1 gap-x-7 pt-3 lg:grid-cols-[52px_540px_minmax(0,1fr)]">
      <Where sheet={data} />
      <div>
        <p className="flex items-baseline gap-3 border-b-2 border-quiet pb-1">
          <b className="font-name text-[26px] leading-none">{data.tag}</b>
          <span>{data.machine}</span>
          <span className="ml-auto text-quiet tabular-nums">minute {data.minutes}</span>
        </p>
        <Screen lines={data.screen} />
        {data.beside.length > 0 && (
          <p className="pt-1 text-sm text-quiet">Beside it on the bench: {data.beside.join(', ')}.</p>
        )}
        {data.stage === 'finding' ? (
          <ItMayBe sheet={data} tell={tell} busy={next.isPending} />
        ) : (
          <Log log={data.log} decisive={data.debriefing?.decisiveAt ?? null} />
        )}
      </div>
      <section aria-label="Practice" className="flex min-w-0 flex-col">
        <header className="flex gap-4 border-b-2 border-quiet pb-1 text-quiet">
          <span>
            Practice: {data.title} · step {data.place} of {data.of}
          </span>
          <button type="button" className="ml-auto underline underline-offset-4" onClick={again}>
            From the beginning
          </button>
          <Link className="underline underline-offset-4" to="/practice">
            All of them
          </Link>
        </header>
        {data.log.length === 0 && <p className="pt-2 text-lg">{data.about}</p>}
        <Now
          key={`${data.stage} ${data.step?.id ?? ''} ${data.moment?.asks ?? ''}`}
          sheet={data}
          tell={tell}
          busy={next.isPending}
        />
        {next.error && <Failed error={next.error} />}
      </section>
    </div>
  );
}

/** The ladder, filled up to where the machine stands. */
function Where({ sheet }: { sheet: Sheet }) {
  const place = rungs.findIndex((r) => r.name === sheet.rung);
  const broken = sheet.stage === 'finding' || (sheet.stage === 'ended' && !sheet.finished);
  return (
    <div className="hidden pt-1 lg:block" title={sheet.rung}>
      <Ladder
        width={52}
        step={46}
        outcomes={rungs.map((_, i) => {
          if (i === place && broken) return 'wall';
          return i < place || (i === place && sheet.finished) ? 'clear' : 'unknown';
        })}
      />
      <p className="caption pt-1 text-center">{sheet.rung}</p>
    </div>
  );
}

/** The machine's own screen, drawn in text. */
function Screen({ lines }: { lines: string[] }) {
  return (
    <pre
      role="img"
      aria-label={`On the screen: ${lines.join(' ').trim()}`}
      className="mt-2 h-[272px] overflow-hidden rounded-[2px] border-[10px] border-[#2b2f2e] bg-[#0c1413] p-3 font-value text-[13px] leading-[1.45] text-[#d7e2d6]"
    >
      {lines.join('\n')}
    </pre>
  );
}

/** What was done, the last first. */
function Log({ log, decisive }: { log: Schema['PracticeEntry'][]; decisive: number | null }) {
  if (log.length === 0) return null;
  return (
    <section aria-label="What was done" className="pt-3">
      <h2 className="caption border-b border-rule">What was done</h2>
      <ol
        className="max-h-[300px] overflow-y-auto text-[14.5px]"
        tabIndex={0}
        aria-label="Moves, the last first"
      >
        {log
          .map((entry, i) => ({ ...entry, i }))
          .reverse()
          .map((e) => (
            <li
              key={e.i}
              className={`grid grid-cols-[52px_minmax(0,1fr)] gap-x-2 border-b border-rule py-0.5 ${e.i === decisive ? 'border-l-4 border-l-ink pl-2' : ''}`}
            >
              <span className="text-quiet tabular-nums">{e.atMinute} min</span>
              <span>
                {e.words} {e.says && <b className={e.harm > 0 ? 'text-wall' : ''}>{e.says}</b>}
                {e.harm > 0 && <span className="text-wall"> −{e.harm}</span>}
              </span>
            </li>
          ))}
      </ol>
    </section>
  );
}

function Now({ sheet, tell, busy }: { sheet: Sheet; tell: Tell; busy: boolean }) {
  if (sheet.debriefing) return <Ended told={sheet.debriefing} />;
  if (sheet.stage === 'finding') return <Finding sheet={sheet} tell={tell} busy={busy} />;
  if (sheet.moment) return <Moment moment={sheet.moment} tell={tell} busy={busy} />;
  return sheet.step ? <TheStep sheet={sheet} step={sheet.step} tell={tell} busy={busy} /> : null;
}

/** A heading that takes the focus when what stands under it changes. */
function Loud({ children, small = false }: { children: React.ReactNode; small?: boolean }) {
  const heading = useRef<HTMLHeadingElement>(null);
  useEffect(() => {
    heading.current?.focus({ preventScroll: true });
  }, []);
  return (
    <h1
      ref={heading}
      tabIndex={-1}
      data-loud
      className={`pt-2 font-name leading-[1.06] font-bold outline-none ${small ? 'text-[32px]' : 'text-[36px]'}`}
    >
      {children}
    </h1>
  );
}

function Moment({ moment, tell, busy }: { moment: Schema['MomentSheet']; tell: Tell; busy: boolean }) {
  return (
    <>
      <p className="border-l-4 border-ink pt-2 pl-3 text-lg">{moment.sees}</p>
      <Loud>{moment.asks}</Loud>
      <div className="flex flex-col items-start gap-2 pt-3">
        {moment.choices.map((choice) => (
          <Act
            key={choice}
            busy={busy}
            onClick={() => {
              tell('chosen', choice);
            }}
          >
            {choice}
          </Act>
        ))}
      </div>
    </>
  );
}

function TheStep({
  sheet,
  step,
  tell,
  busy,
}: {
  sheet: Sheet;
  step: Schema['Step'];
  tell: Tell;
  busy: boolean;
}) {
  const [tag, setTag] = useState('');
  const [far, setFar] = useState(false);
  const danger = step.kind === 'confirm';
  const several = step.kind === 'choose' || step.kind === 'trial' ? step.options : [];
  return (
    <>
      <Loud small={step.text.length > 110}>{step.text}</Loud>
      {step.caution && (
        <p className="mt-2 border-l-4 border-setting pl-3 text-lg">
          <b>Caution.</b> {step.caution}
        </p>
      )}
      {step.command && <p className="pt-2 font-value">{step.command}</p>}
      {step.expect && (
        <p className="pt-2 text-lg">
          <span className="caption mr-3">See</span>
          {step.expect}
        </p>
      )}
      {danger && (
        <form
          className="mt-3"
          onSubmit={(event) => {
            event.preventDefault();
            tell('done', tag);
          }}
        >
          <label className="block max-w-md">
            <span>Scan or type the tag to go on</span>
            <input
              data-scan="field"
              autoComplete="off"
              spellCheck={false}
              value={tag}
              className="block h-14 w-full border-b-[3px] border-ink bg-transparent font-value text-[32px] uppercase"
              onChange={(event) => {
                setTag(event.target.value);
              }}
            />
          </label>
        </form>
      )}
      <div className="flex flex-wrap items-center gap-3 pt-4 pb-2">
        {several.length > 0 ? (
          several.map((option) => (
            <Act
              key={option}
              busy={busy}
              onClick={() => {
                tell('done', option);
              }}
            >
              {step.kind === 'trial' ? `This started it: ${option}` : option}
            </Act>
          ))
        ) : (
          <Act
            main
            busy={busy || (danger && tag.trim() === '')}
            onClick={() => {
              tell('done', danger ? tag : undefined);
            }}
          >
            {step.kind === 'wait'
              ? 'It has ended'
              : danger
                ? 'Do it'
                : step.kind === 'check'
                  ? 'As it should be'
                  : 'Done'}
          </Act>
        )}
        <Act
          busy={busy}
          onClick={() => {
            setFar(!far);
          }}
        >
          It stopped
        </Act>
      </div>
      {far && <HowFar tell={tell} busy={busy} />}
      {!far && step.branches.length > 0 && (
        <Otherwise
          branches={step.branches}
          busy={busy}
          take={(when) => {
            tell('otherwise', when);
          }}
        />
      )}
      <div className="mt-auto border-t border-rule pt-2 text-quiet">
        {sheet.next.map((text, i) => (
          <p key={text} className="flex gap-3">
            <span className="caption w-10 shrink-0 pt-0.5">{i === 0 ? 'next' : ''}</span>
            {text}
          </p>
        ))}
      </div>
    </>
  );
}

/** How far did it get? From the bottom, in words of what one sees. */
function HowFar({ tell, busy }: { tell: Tell; busy: boolean }) {
  const { data } = useQuery(howFar);
  return (
    <section aria-label="How far did it get?">
      <h2 className="font-name text-[24px] font-bold">How far did it get?</h2>
      <ol className="flex flex-col-reverse border-t border-rule">
        {data?.map(({ rung, sees }) => (
          <li key={rung} className="border-b border-rule">
            <button
              type="button"
              disabled={busy}
              className="flex min-h-10 w-full items-center gap-3 text-left text-[15px] leading-tight hover:bg-sheet"
              onClick={() => {
                tell('stopped', rung);
              }}
            >
              <span className="caption w-[74px] shrink-0">{rung}</span>
              {sees}
            </button>
          </li>
        ))}
      </ol>
    </section>
  );
}

function Finding({ sheet, tell, busy }: { sheet: Sheet; tell: Tell; busy: boolean }) {
  return (
    <>
      <Loud>What do you look at?</Loud>
      <div className="flex flex-wrap gap-x-6">
        <button
          type="button"
          disabled={busy}
          className="min-h-9 underline underline-offset-4"
          onClick={() => {
            tell('back');
          }}
        >
          Back to the step
        </button>
        {!sheet.helped && (
          <button
            type="button"
            disabled={busy}
            className="min-h-9 underline underline-offset-4"
            onClick={() => {
              tell('help');
            }}
          >
            Let the fault finder help
          </button>
        )}
        <button
          type="button"
          disabled={busy}
          className="min-h-9 underline underline-offset-4"
          onClick={() => {
            tell('giveUp');
          }}
        >
          Give the machine up
        </button>
      </div>
      {sheet.answers.length > 0 && (
        <ul aria-label="What was looked at" className="border-t border-rule pt-1 text-[15px]">
          {sheet.answers.map((a) => (
            <li key={a.check}>
              {a.text} <b>{a.seenText}</b>
            </li>
          ))}
        </ul>
      )}
      <h2 className="caption mt-3 border-t-[1.5px] border-ink pt-1">
        One can look{sheet.helped && ', what tells most in a minute first'}
      </h2>
      {sheet.checks.map((check) => (
        <CheckToMake
          key={check.check}
          check={check}
          busy={busy}
          small
          look={() => {
            tell('check', check.check);
          }}
        />
      ))}
    </>
  );
}

/** What it may be: which one it is the hand decides. */
function ItMayBe({ sheet, tell, busy }: { sheet: Sheet; tell: Tell; busy: boolean }) {
  return (
    <>
      <h2 className="caption mt-3 border-b-[1.5px] border-ink">It may be</h2>
      <ol aria-label="Causes">
        {sheet.causes.map((cause) => (
          <Cause
            key={cause.cause}
            cause={cause}
            sure={false}
            blind={!sheet.helped}
            act={cause.mend.ends ? 'That is it: stop here' : 'That is it: mend it'}
            busy={busy}
            mend={() => {
              tell('mend', cause.cause);
            }}
          />
        ))}
      </ol>
    </>
  );
}
