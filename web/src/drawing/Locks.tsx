import { Fragment } from "react";
import type { Drawing, DrawnWheel } from "./shapes";

type Lock = Drawing["locks"][number];

/** Locks draws lock points as what they are, in the hatch of the latch chart where they fix the timing and open where they only carry torque. */
export function Locks({
  drawing,
  px,
  hatch,
  only,
  selected,
  onSelect,
}: {
  drawing: Drawing;
  /** the size of a pixel of the page, mm */
  px: number;
  /** the id of the hatch */
  hatch: string;
  /** the locks that are drawn; all of them when left out */
  only?: string[];
  selected?: string;
  onSelect?: (ref: string) => void;
}) {
  const slots = new Map<string, string[]>();
  for (const l of drawing.locks) {
    const on = slots.get(l.wheel) ?? [];
    if (!on.includes(l.id)) on.push(l.id);
    slots.set(l.wheel, on);
  }
  const ids = [...new Set(drawing.locks.map((l) => l.id))].filter((id) => !only || only.includes(id));
  return (
    <>
      {ids.map((id) => {
        const at = drawing.locks
          .filter((l) => l.id === id)
          .flatMap((l) => {
            const wheel = drawing.wheels.find((w) => w.id === l.wheel);
            return wheel ? [{ lock: l, wheel }] : [];
          });
        if (at.length === 0) return null;
        const { lock } = at[0];
        const on = selected === `locks/${id}`;
        const look = {
          fill: lock.position ? `url(#${hatch})` : "var(--white)",
          stroke: on ? "var(--color-paint-edge)" : "var(--color-marking)",
          strokeWidth: (on ? 2.6 : 1.5) * px,
        };
        const drawn = spans(lock, at) ? (
          <Bar from={at[0].wheel} to={at[at.length - 1].wheel} px={px} look={look} />
        ) : (
          at.map(({ wheel }) => {
            const all = slots.get(wheel.id) ?? [];
            return (
              <Shape key={wheel.id} kind={lock.kind} wheel={wheel} px={px} look={look} place={all.indexOf(id)} of={all.length} />
            );
          })
        );
        if (!onSelect) return <Fragment key={id}>{drawn}</Fragment>;
        return (
          <g
            key={id}
            data-lock={id}
            tabIndex={0}
            role="button"
            aria-pressed={on}
            aria-label={`${lock.name}, ${lock.kind}, on the ${at.map((a) => a.wheel.label).join(" and the ")}`}
            className="cursor-pointer outline-none focus-visible:[&_*]:[stroke-width:3px]"
            onFocus={() => onSelect(`locks/${id}`)}
            onPointerDown={(e) => {
              e.stopPropagation();
              onSelect(`locks/${id}`);
            }}
          >
            <title>{lock.name}</title>
            {drawn}
          </g>
        );
      })}
    </>
  );
}

/** spans tells a bar that lies across two wheels from one that lies on one. */
const spans = (lock: Lock, at: { wheel: DrawnWheel }[]) => lock.kind === "bar" && at.length > 1;

interface Look {
  fill: string;
  stroke: string;
  strokeWidth: number;
}

/** Bar is a bar or plate across the ends of two shafts. */
function Bar({ from, to, px, look }: { from: DrawnWheel; to: DrawnWheel; px: number; look: Look }) {
  const length = Math.hypot(to.x - from.x, to.y - from.y);
  const turn = (Math.atan2(to.y - from.y, to.x - from.x) * 180) / Math.PI;
  const [end, half] = [16 * px, 5.5 * px];
  return (
    <rect
      x={-end}
      y={-half}
      width={length + 2 * end}
      height={2 * half}
      rx={2 * px}
      transform={`translate(${from.x} ${from.y}) rotate(${turn})`}
      {...look}
    />
  );
}

/** around is where locks stand on a wheel, degrees from twelve o’clock: clear of its mark, which is mostly above, and of its name, which is below the middle. */
const around = [100, 238, 62, 298, 150];

/** Shape is a lock on one wheel; several stand round it. */
function Shape({
  kind,
  wheel,
  px,
  look,
  place,
  of,
}: {
  kind: string;
  wheel: DrawnWheel;
  px: number;
  look: Look;
  place: number;
  of: number;
}) {
  const turn = around[place % around.length];
  const r = wheel.r;
  const g = (children: React.ReactNode) => <g transform={`translate(${wheel.x} ${wheel.y}) rotate(${turn})`}>{children}</g>;
  switch (kind) {
    case "pin": // seen end on, in its hole
      return g(
        <>
          <circle cy={-Math.max(r * 0.56, 9 * px)} r={6.5 * px} {...look} />
          <circle cy={-Math.max(r * 0.56, 9 * px)} r={1.6 * px} fill={look.stroke} />
        </>,
      );
    case "bar": {
      const half = Math.max(r * 0.72, 14 * px);
      return (
        <rect
          x={wheel.x - half}
          y={wheel.y - 5 * px}
          width={2 * half}
          height={10 * px}
          rx={2 * px}
          transform={of > 1 ? `rotate(${place * 40} ${wheel.x} ${wheel.y})` : undefined}
          {...look}
        />
      );
    }
    case "stop": // a screw against which the web of the crank comes to rest
      return g(
        <>
          <path d={`M${-3 * px} ${-r + 4 * px}h${6 * px}V${-r - 13 * px}h${-6 * px}z`} {...look} />
          <path d={`M${-6 * px} ${-r - 13 * px}h${12 * px}v${-6 * px}h${-12 * px}z`} {...look} />
        </>,
      );
    case "flywheel lock": // a toothed jaw at the rim
      return g(
        <path
          d={`M${-11 * px} ${-r - 15 * px}h${22 * px}v${9 * px}l${-3.6 * px} ${7 * px}l${-3.7 * px} ${-7 * px}l${-3.7 * px} ${7 * px}l${-3.7 * px} ${-7 * px}l${-3.7 * px} ${7 * px}l${-3.6 * px} ${-7 * px}z`}
          strokeLinejoin="round"
          {...look}
        />,
      );
    default: // a holder: an arm with two pins in the wheel
      return g(
        <>
          <path
            d={`M${-3.6 * px} ${-r * 0.4}V${-r - 14 * px}a${3.6 * px} ${3.6 * px} 0 0 1 ${7.2 * px} 0V${-r * 0.4}z`}
            strokeLinejoin="round"
            {...look}
          />
          <circle cy={-r * 0.45} r={3 * px} {...look} />
          <circle cy={-r * 0.8} r={3 * px} {...look} />
        </>,
      );
  }
}
