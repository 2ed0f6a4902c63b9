import { useQuery } from '@tanstack/react-query';
import { fails, type Schema } from '../api/client';
import { memoryUpgrades, soundness } from '../api/queries';
import { Failed } from '../shell/States';
import { moneyText } from '../dossiers/facts';
import { Photos } from '../dossiers/Photos';

/** What is sound, part by part, each with the numbers that say so; and the memory that could go in. */
export function SoundnessPanel({ tag }: { tag: string }) {
  const { data, error } = useQuery(soundness(tag));
  const memory = useQuery(memoryUpgrades(tag)).data;
  if (fails(error, data)) return <Failed error={error} />;
  if (!data) return null;
  return (
    <section aria-label="Soundness" className="border-b-[1.5px] border-ink pb-2">
      {data.stops.map((stop) => (
        <p key={stop.text} role="alert" className="mt-2 border-l-4 border-wall pl-3 font-semibold text-wall">
          {stop.text}
        </p>
      ))}
      <table className="mt-2 w-full text-sm">
        <tbody>
          {data.drives.map((drive) => (
            <Part
              key={drive.index}
              name={drive.index === 0 ? 'Drive' : `Drive ${drive.index + 1}`}
              what={drive.model}
              part={drive}
              none="its health was not read: probe as root, with smartctl"
            />
          ))}
          <Part name="Battery" part={data.battery} none="nobody looked" />
          <Part
            name="Memory"
            what={data.modules.map((m) => `${m.slot ?? '?'}: ${m.sizeMiB / 1024} GiB`).join(' · ')}
            part={data.memory}
            none="untested"
          />
          {data.other.reasons.length > 0 && <Part name="Besides" part={data.other} none="" />}
          {data.ports.length > 0 && (
            <tr className="border-t border-rule align-top">
              <th scope="row" className="w-20 py-1 text-left font-semibold">
                Ports
              </th>
              <td colSpan={2} className="py-1">
                {data.ports.join(' ')}
              </td>
            </tr>
          )}
        </tbody>
      </table>
      {memory && memory.upgrades.length > 0 && (
        <details>
          <summary className="min-h-9 cursor-pointer pt-1 font-semibold">
            {memory.upgrades.length === 1 ? 'One way' : `${memory.upgrades.length} ways`} to more memory,
            cheapest first
          </summary>
          <ul className="max-h-52 overflow-y-auto text-sm" tabIndex={0} aria-label="Ways to more memory">
            {memory.upgrades.map((upgrade) => (
              <li key={upgrade.cure.id} className="flex gap-3 border-t border-rule py-0.5">
                <b className="w-20 text-right">{upgrade.totalMiB / 1024} GiB</b>
                <span className="flex-1">
                  {upgrade.cure.does}
                  {upgrade.untested > 0 && <span className="text-setting"> · untested</span>}
                </span>
                <span className="font-value">{moneyText(upgrade.cure.money)}</span>
              </li>
            ))}
          </ul>
        </details>
      )}
      <Photos tag={tag} />
    </section>
  );
}

const inkOfVerdict: Record<Schema['Verdict'], string> = {
  unknown: 'text-unknown',
  sound: 'text-clear',
  watch: 'text-setting',
  replace: 'text-wall',
};

function Part({
  name,
  what,
  part,
  none,
}: {
  name: string;
  what?: string | null;
  part: { verdict: Schema['Verdict']; reasons: Schema['Reason'][] };
  none: string;
}) {
  return (
    <tr className="border-t border-rule align-top first:border-t-0">
      <th scope="row" className="w-20 py-1 text-left font-semibold">
        {name}
      </th>
      <td className={`w-16 py-1 font-bold ${inkOfVerdict[part.verdict]}`}>
        {part.verdict === 'unknown' ? 'untested' : part.verdict}
      </td>
      <td className="py-1">
        {what && <span className="text-quiet">{what} · </span>}
        {part.reasons.length === 0 && <span className="text-unknown">{none}</span>}
        {part.reasons.map((reason, i) => (
          <span key={reason.text} title={reason.source}>
            {i > 0 && ' · '}
            <span
              className={reason.verdict === part.verdict && part.verdict !== 'sound' ? 'font-semibold' : ''}
            >
              {reason.text}
            </span>
          </span>
        ))}
      </td>
    </tr>
  );
}
