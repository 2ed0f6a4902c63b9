import type { Schema } from '../api/client';
import { inkOf } from '../ladder/outcomes';
import { moneyText } from '../dossiers/facts';
import { percent, support, useRouteName } from './words';

const height = 176;
const width = 390;
const left = 44;
const bottom = 24;

/** The shape that a school is drawn with; the colour is that of its boldest cure. */
const ink: Record<Schema['School'], string> = {
  comply: inkOf.clear,
  lighten: inkOf.clear,
  stay: inkOf.caveat,
  patch: inkOf.patch,
  spoof: inkOf.spoof,
  reflash: inkOf.reflash,
  retire: inkOf.unknown,
};

/** Money against risk: lower left is better, a larger mark is longer support, and the line joins what nothing beats in both. */
export function Plot({
  routes,
  chosen,
  choose,
}: {
  routes: Schema['Route'][];
  chosen: string | undefined;
  choose: (route: Schema['Route']) => void;
}) {
  const name = useRouteName();
  const drawn = routes.filter((r) => r.school !== 'retire');
  const mostMoney = Math.max(2000, ...drawn.map((r) => r.money)) * 1.06;
  const mostRisk = Math.max(0.05, ...drawn.map((r) => r.risk)) * 1.1;
  const x = (r: Schema['Route']) => left + 12 + (r.money / mostMoney) * (width - left - 30);
  const y = (r: Schema['Route']) => height - bottom - 10 - (r.risk / mostRisk) * (height - bottom - 26);
  const size = (r: Schema['Route']) => 3.5 + Math.min(r.supportMonths ?? 60, 60) / 8.5;
  const edge = drawn
    .filter(
      (r) =>
        !drawn.some((o) => o.money <= r.money && o.risk <= r.risk && (o.money < r.money || o.risk < r.risk)),
    )
    .sort((a, b) => a.money - b.money);
  return (
    <svg
      viewBox={`0 0 ${width} ${height}`}
      className="mb-1 block h-[176px] w-full max-w-[460px]"
      role="group"
      aria-label="Routes by money and risk"
    >
      <line
        x1={left}
        x2={width}
        y1={height - bottom}
        y2={height - bottom}
        className="stroke-ink"
        strokeWidth={1.5}
      />
      <line x1={left} x2={left} y1={4} y2={height - bottom} className="stroke-ink" strokeWidth={1.5} />
      {[0, 0.5, 1].map((part) => (
        <g key={part} className="fill-quiet text-[11px]">
          <text x={left + 12 + part * (width - left - 30)} y={height - 8} textAnchor="middle">
            {moneyText(Math.round((part * mostMoney) / 100) * 100).replace('.00', '')}
          </text>
          <text x={left - 6} y={height - bottom - 6 - part * (height - bottom - 26)} textAnchor="end">
            {Math.round(part * mostRisk * 100)} %
          </text>
        </g>
      ))}
      <text x={left + 6} y={12} className="fill-quiet text-[11px]">
        risk
      </text>
      <polyline
        points={edge.map((r) => `${x(r)},${y(r)}`).join(' ')}
        className="stroke-ink"
        fill="none"
        strokeWidth={1.2}
        strokeDasharray="2 3"
      />
      {drawn.map((r) => (
        <g
          key={r.id}
          role="button"
          tabIndex={-1}
          aria-label={`${name(r)}, ${r.school}, ${moneyText(r.money)}, risk ${percent(r.risk)}, ${support(r)}`}
          className={`cursor-pointer ${ink[r.school]}`}
          onClick={() => {
            choose(r);
          }}
        >
          <title>{`${name(r)}, ${r.school}, ${moneyText(r.money)}, risk ${percent(r.risk)}, ${support(r)}`}</title>
          <Mark school={r.school} x={x(r)} y={y(r)} size={size(r)} filled={r.front} />
          {r.id === chosen && (
            <circle
              cx={x(r)}
              cy={y(r)}
              r={size(r) + 4}
              fill="none"
              className="stroke-ink"
              strokeWidth={1.5}
            />
          )}
        </g>
      ))}
    </svg>
  );
}

function Mark({
  school,
  x,
  y,
  size,
  filled,
}: {
  school: Schema['School'];
  x: number;
  y: number;
  size: number;
  filled: boolean;
}) {
  const look = { fill: filled ? 'currentColor' : 'var(--ground)', stroke: 'currentColor', strokeWidth: 1.6 };
  switch (school) {
    case 'patch':
      return <rect x={x - size} y={y - size} width={2 * size} height={2 * size} {...look} />;
    case 'spoof':
      return (
        <path
          d={`M${x} ${y - size * 1.3}L${x + size * 1.2} ${y}L${x} ${y + size * 1.3}L${x - size * 1.2} ${y}Z`}
          {...look}
        />
      );
    case 'reflash':
      return (
        <path d={`M${x} ${y - size * 1.2}L${x + size * 1.15} ${y + size}H${x - size * 1.15}Z`} {...look} />
      );
    case 'lighten':
      return <ellipse cx={x} cy={y} rx={size * 1.25} ry={size * 0.7} {...look} />;
    default:
      return <circle cx={x} cy={y} r={size} {...look} />;
  }
}
