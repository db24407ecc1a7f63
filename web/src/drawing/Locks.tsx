import type { Drawing } from "./shapes";

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
  const labels = new Map(drawing.wheels.map((w) => [w.id, w.label]));
  return drawing.locks.map((l) => {
    if (only && !only.includes(l.id)) return null;
    const on = selected === `locks/${l.id}`;
    if (!onSelect) return <Shape key={l.id} lock={l} px={px} hatch={hatch} />;
    return (
      <g
        key={l.id}
        data-lock={l.id}
        tabIndex={0}
        role="button"
        aria-pressed={on}
        aria-label={`${l.name}, ${l.kind}, on the ${l.wheels.map((w) => labels.get(w)).join(" and the ")}`}
        className="lock cursor-pointer outline-none"
        onFocus={() => onSelect(`locks/${l.id}`)}
        onPointerDown={(e) => {
          e.stopPropagation();
          onSelect(`locks/${l.id}`);
        }}
      >
        <title>{l.name}</title>
        <Shape lock={l} px={px} hatch={hatch} on={on} />
      </g>
    );
  });
}

function Shape({ lock, px, hatch, on = false }: { lock: Lock; px: number; hatch: string; on?: boolean }) {
  const look = {
    fill: lock.position ? `url(#${hatch}-lock)` : "var(--white)",
    stroke: on ? "var(--color-paint-edge)" : "var(--color-marking)",
    strokeLinejoin: "round" as const,
    fillRule: "evenodd" as const,
  };
  return (
    <g data-kind={lock.kind}>
      {lock.bars.map((b) => (
        <rect
          key={`${b.x} ${b.y}`}
          x={-b.end * px}
          y={(-b.wide / 2) * px}
          width={b.length + 2 * b.end * px}
          height={b.wide * px}
          rx={2 * px}
          transform={`translate(${b.x} ${b.y}) rotate(${b.turn})`}
          strokeWidth={(on ? 2.6 : 1.5) * px}
          {...look}
        />
      ))}
      {lock.glyphs.map((g) => (
        <path
          key={`${g.x} ${g.y}`}
          d={g.path}
          transform={`translate(${g.x} ${g.y}) rotate(${g.turn}) scale(${px})`}
          strokeWidth={on ? 2.6 : 1.5}
          {...look}
          fill={lock.position ? `url(#${hatch}-1)` : "var(--white)"}
        />
      ))}
    </g>
  );
}
