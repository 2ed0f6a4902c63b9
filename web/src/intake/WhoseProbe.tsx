import { Refusal } from '../api/client';
import type { Probe, useImport } from '../api/queries';
import { Failed } from '../shell/States';
import { nobody, useWho } from '../shell/who';

/**
 * A probe that was not taken: the machine is here already, or something in it differs. Nothing was changed; what may be done is
 * asked, with the difference in words.
 */
export function WhoseProbe({ bring }: { bring: ReturnType<typeof useImport> }) {
  const [who] = useWho();
  const { error, variables: probe } = bring;
  if (!error) return null;
  if (!(error instanceof Refusal)) return <Failed error={error} />;
  const again = (change: Partial<Probe>) => () => {
    bring.mutate({ ...probe, ...change });
  };
  const known = error.where === 'assetTag' && error.status === 409;
  const foreign = error.where === 'files' && error.status === 409;
  if (!known && !foreign) return <Failed error={error} />;
  return (
    <div role="alert" className="border-l-4 border-wall py-1 pl-4">
      <p className="text-lg font-semibold">
        {known ? `${probe.tag.toUpperCase()} is here already.` : error.message}
      </p>
      <p className="text-quiet">{known ? 'Nothing was stored.' : error.wanted}</p>
      <div className="flex flex-wrap gap-3 pt-2">
        {known && <Way says="Add this probe to it" go={again({ known: true })} />}
        {error.mayBe && (
          <Way says={`It is this machine, with ${error.mayBe}`} go={again({ sameBy: who || nobody })} />
        )}
        {error.whose && (
          <Way says={`It is ${error.whose}: take it there`} go={again({ tag: error.whose, known: true })} />
        )}
      </div>
    </div>
  );
}

function Way({ says, go }: { says: string; go: () => void }) {
  return (
    <button type="button" className="min-h-11 border-[1.5px] border-ink px-4 font-semibold" onClick={go}>
      {says}
    </button>
  );
}
