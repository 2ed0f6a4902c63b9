import { RungShape } from './RungShape';
import { inkOf, outcomes, saysOf } from './outcomes';
import { rungs } from './rungs';

/** What the shapes and the rungs say, for whoever stands at a bench for the first time. */
export function Key() {
  return (
    <div className="grid flex-1 grid-cols-1 gap-x-12 pt-5 lg:grid-cols-2">
      <section aria-labelledby="shapes">
        <h1 id="shapes" className="font-name text-[40px] leading-none font-bold" data-loud>
          How a rung stands
        </h1>
        <p className="pt-2 pb-3 text-quiet">
          From best to worst. A rung has the worst of its findings, a system the worst of its rungs.
        </p>
        <ul>
          {outcomes.map((outcome) => (
            <li key={outcome} className="flex min-h-13 items-center gap-5 border-b border-rule">
              <RungShape outcome={outcome} width={128} bar={12} />
              <RungShape outcome={outcome} width={28} bar={5} />
              <b className={`w-20 ${inkOf[outcome]}`}>{outcome}</b>
              <span className="flex-1">{saysOf[outcome]}</span>
            </li>
          ))}
        </ul>
      </section>
      <section aria-labelledby="rungs">
        <h2 id="rungs" className="font-name text-[40px] leading-none font-bold" data-loud>
          What a rung holds
        </h2>
        <p className="pt-2 pb-3 text-quiet">
          From “may we touch it” at the bottom to “still updated in two years” at the top.
        </p>
        <ol className="flex flex-col-reverse">
          {rungs.map(({ name, holds }) => (
            <li key={name} className="flex min-h-13 items-center gap-5 border-b border-rule">
              <b className="w-20 text-right">{name}</b>
              <span className="flex-1">{holds}</span>
            </li>
          ))}
        </ol>
      </section>
    </div>
  );
}
