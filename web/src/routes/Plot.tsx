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
  const exactX = (r: Schema['Route']) => left + 12 + (r.money / mostMoney) * (width - left - 30);
  const exactY = (r: Schema['Route']) => height - bottom - 10 - (r.risk / mostRisk) * (height - bottom - 26);
  const size = (r: Schema['Route']) => 3 + Math.min(r.supportMonths ?? 60, 60) / 14;
  // Many routes cost the same: they are moved apart a little, so that each can be seen and reached.
  const places = apart(
    [...drawn].sort(
      (a, b) => Number(b.id === chosen) - Number(a.id === chosen) || Number(b.front) - Number(a.front),
    ),
    (r) => [exactX(r), exactY(r)],
  );
  const x = (r: Schema['Route']) => places.get(r.id)?.[0] ?? exactX(r);
  const y = (r: Schema['Route']) => places.get(r.id)?.[1] ?? exactY(r);
  const named = drawn.find((r) => r.id === chosen);
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
        <g key={part} className="fill-quiet text-[12px]">
          <text x={left + 12 + part * (width - left - 30)} y={height - 8} textAnchor="middle">
            {moneyText(Math.round((part * mostMoney) / 100) * 100).replace('.00', '')}
          </text>
          <text x={left - 6} y={height - bottom - 6 - part * (height - bottom - 26)} textAnchor="end">
            {Math.round(part * mostRisk * 100)} %
          </text>
        </g>
      ))}
      <text x={left + 6} y={12} className="fill-quiet text-[12px]">
        risk
      </text>
      <polyline
        points={edge.map((r) => `${exactX(r)},${exactY(r)}`).join(' ')}
        className="stroke-ink"
        fill="none"
        strokeWidth={1.2}
        strokeDasharray="2 3"
      />
      {named && (
        <text
          x={x(named) + (x(named) > width * 0.6 ? -1 : 1) * (size(named) + 7)}
          y={y(named) - size(named) - 3}
          textAnchor={x(named) > width * 0.6 ? 'end' : 'start'}
          className="fill-ink text-[12px] font-semibold"
        >
          {name(named)}
        </text>
      )}
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

/** Marks nearer than this lie on one another. */
const gap = 11;

/** A place for each, as near to its own as the others leave room: around it in rings. The first keeps its own. */
function apart(routes: Schema['Route'][], place: (route: Schema['Route']) => [number, number]) {
  const placed = new Map<string, [number, number]>();
  const free = ([x, y]: [number, number]) =>
    [...placed.values()].every(([ox, oy]) => Math.hypot(ox - x, oy - y) >= gap - 0.01);
  for (const route of routes) {
    const [x, y] = place(route);
    let at: [number, number] = [x, y];
    for (let ring = 1; !free(at) && ring < 7; ring++)
      for (let i = 0; i < 6 * ring && !free(at); i++) {
        const angle = (i / (6 * ring)) * 2 * Math.PI;
        at = [x + Math.cos(angle) * gap * ring, y + Math.sin(angle) * gap * ring];
        // Nothing leaves the plot for being moved.
        if (at[0] < left + 6 || at[1] > height - bottom - 4 || at[1] < 6) at = [x, y];
      }
    placed.set(route.id, at);
  }
  return placed;
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
