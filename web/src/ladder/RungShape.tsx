import { inkOf, type Outcome } from './outcomes';

interface Props {
  outcome: Outcome;
  width: number;
  /** Height of the bar itself; the drawing stands 2.4 times as high. */
  bar?: number;
  /** Not judged yet, or not reached. */
  faint?: boolean;
}

/**
 * A rung, drawn so that its shape alone tells the outcome: in grey, and down to 28 × 12 px. Colour and the word beside it
 * say it again.
 */
export function RungShape({ outcome, width, bar = 10, faint = false }: Props) {
  const height = Math.round(bar * 2.4);
  return (
    <svg
      width={width}
      height={height}
      viewBox={`0 0 ${width} ${height}`}
      className={`${inkOf[outcome]} block shrink-0 ${faint ? 'opacity-40' : ''}`}
      data-rung-shape={outcome}
      aria-hidden="true"
    >
      {shapes[outcome](width, height, bar)}
    </svg>
  );
}

type Draw = (w: number, h: number, b: number) => React.ReactNode;

/** A plain bar from one place to another. */
const piece = (x: number, to: number, h: number, b: number) => (
  <rect x={x} y={(h - b) / 2} width={to - x} height={b} fill="currentColor" />
);

const shapes: Record<Outcome, Draw> = {
  clear: (w, h, b) => piece(0, w, h, b),

  caveat: (w, h, b) => piece(0, w, h, Math.max(2, b * 0.28)),

  // A knife switch, open: the lever stands up out of the notch.
  setting: (w, h, b) => {
    const notch = Math.max(9, Math.min(b * 1.7, w * 0.3));
    const left = w * 0.44;
    return (
      <>
        {piece(0, left, h, b)}
        {piece(left + notch, w, h, b)}
        <line
          x1={left - b * 0.1}
          y1={h / 2 + b * 0.3}
          x2={left + notch * 0.85}
          y2={h / 2 - b * 0.95}
          stroke="currentColor"
          strokeWidth={Math.max(2, b * 0.36)}
          strokeLinecap="round"
        />
      </>
    );
  },

  // A socket let into the bar: a block with two slots.
  driver: (w, h, b) => {
    const size = Math.max(11, b * 2);
    const x = w * 0.72 - size / 2;
    const top = Math.max(0, (h - size) / 2);
    const slot = Math.max(1.6, size * 0.15);
    const tall = Math.min(size, h) * 0.44;
    return (
      <>
        {piece(0, w, h, b * 0.9)}
        <rect x={x} y={top} width={size} height={Math.min(size, h)} rx={size * 0.18} fill="currentColor" />
        {[0.3, 0.7].map((at) => (
          <rect
            key={at}
            x={x + size * at - slot / 2}
            y={(h - tall) / 2}
            width={slot}
            height={tall}
            fill="var(--ground)"
          />
        ))}
      </>
    );
  },

  // A plug at one end, not in its socket yet: head and two prongs, then nothing.
  part: (w, h, b) => {
    const prong = Math.max(5, b * 0.95);
    const head = Math.max(5, b * 1.1);
    const end = w - prong - Math.max(3, w * 0.09);
    const thick = Math.max(1.8, b * 0.24);
    return (
      <>
        {piece(0, end - head, h, b)}
        <rect x={end - head} y={h / 2 - b * 0.86} width={head} height={b * 1.72} fill="currentColor" />
        {[-0.5, 0.5].map((at) => (
          <rect
            key={at}
            x={end}
            y={h / 2 + at * b - thick / 2}
            width={prong}
            height={thick}
            fill="currentColor"
          />
        ))}
      </>
    );
  },

  // Stitched: a seam between two edges.
  patch: (w, h, b) => {
    const edge = Math.max(1.2, b * 0.14);
    return (
      <>
        <rect
          x={edge / 2}
          y={(h - b * 1.1) / 2}
          width={w - edge}
          height={b * 1.1}
          fill="none"
          stroke="currentColor"
          strokeWidth={edge}
        />
        <line
          x1={b * 0.55}
          x2={w - b * 0.4}
          y1={h / 2}
          y2={h / 2}
          stroke="currentColor"
          strokeWidth={Math.max(2, b * 0.36)}
          strokeDasharray={`${Math.max(3, b * 0.75)} ${Math.max(2, b * 0.45)}`}
        />
      </>
    );
  },

  // A double outline: one name over another.
  spoof: (w, h, b) => {
    const line = Math.max(1.3, b * 0.17);
    const outer = Math.min(h - line, b * 1.5);
    const gap = Math.max(2.6, b * 0.42);
    const frame = (inset: number, tall: number) => (
      <rect
        x={line / 2 + inset}
        y={(h - tall) / 2}
        width={w - line - 2 * inset}
        height={tall}
        fill="none"
        stroke="currentColor"
        strokeWidth={line}
      />
    );
    return (
      <>
        {frame(0, outer)}
        {frame(gap, Math.max(1.4, outer - 2 * gap))}
      </>
    );
  },

  // Teeth of a chip's edge, above and below.
  reflash: (w, h, b) => {
    const count = Math.max(4, Math.round(w / (b * 1.5)));
    const step = w / count;
    const tooth = step * 0.46;
    const rise = Math.max(2, b * 0.42);
    return (
      <>
        {piece(0, w, h, b * 0.8)}
        {Array.from({ length: count }, (_, i) => (
          <rect
            key={i}
            x={i * step + (step - tooth) / 2}
            y={h / 2 - b * 0.4 - rise}
            width={tooth}
            height={b * 0.8 + 2 * rise}
            fill="currentColor"
          />
        ))}
      </>
    );
  },

  // Dotted outline: there may be a rung, nobody has looked.
  unknown: (w, h, b) => {
    const dot = Math.max(1.5, b * 0.2);
    return (
      <>
        {[(h - b * 0.9) / 2, (h + b * 0.9) / 2].map((y) => (
          <line
            key={y}
            x1={dot}
            x2={w - dot}
            y1={y}
            y2={y}
            stroke="currentColor"
            strokeWidth={dot}
            strokeDasharray={`0.1 ${dot * 2.1}`}
            strokeLinecap="round"
          />
        ))}
      </>
    );
  },

  // Broken off: splintered ends and a gap.
  wall: (w, h, b) => {
    const gap = Math.max(7, w * 0.16);
    const splinter = Math.max(3, b * 0.75);
    const top = (h - b) / 2;
    const left = (w - gap) / 2;
    const right = (w + gap) / 2;
    return (
      <>
        <path
          d={`M0 ${top}H${left + splinter * 0.35}L${left - splinter * 0.5} ${top + b * 0.4}L${left + splinter * 0.1} ${top + b * 0.62}L${left - splinter} ${top + b}H0Z`}
          fill="currentColor"
        />
        <path
          d={`M${w} ${top}H${right + splinter}L${right - splinter * 0.1} ${top + b * 0.38}L${right + splinter * 0.5} ${top + b * 0.6}L${right - splinter * 0.35} ${top + b}H${w}Z`}
          fill="currentColor"
        />
      </>
    );
  },
};
