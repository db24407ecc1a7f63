import { type Drawing, shown } from "./shapes";

/** Picks lets the things of a drawing be spoken of: wheels and locks can be met and pressed, and those that something was said of carry a number. */
export function Picks({
  drawing,
  px,
  only,
  said,
  onPick,
}: {
  drawing: Drawing;
  /** the size of a pixel of the page, mm */
  px: number;
  /** the locks that are drawn */
  only?: string[];
  /** how much is open about a thing, by list and id */
  said: Map<string, number>;
  onPick: (ref: string, name: string) => void;
}) {
  const spots = [
    ...shown(drawing)
      .filter((w) => w.mount !== "rail")
      .map((w) => ({ ref: `wheels/${w.id}`, name: `${w.name} wheel`, x: w.x, y: w.y, r: w.r })),
    ...drawing.locks
      .filter((l) => !only || only.includes(l.id))
      .flatMap((l) => {
        const at = l.glyphs[0] ?? l.bars[0];
        return at ? [{ ref: `locks/${l.id}`, name: l.name, x: at.x, y: at.y, r: 9 * px }] : [];
      }),
  ];
  return spots.map((s) => {
    const n = said.get(s.ref);
    return (
      <g
        key={s.ref}
        role="button"
        tabIndex={0}
        data-pick={s.ref}
        aria-label={`Say something of the ${s.name}${n ? `, ${n} open` : ""}`}
        className="pick cursor-pointer outline-none"
        onClick={() => onPick(s.ref, s.name)}
        onKeyDown={(e) => {
          if (e.key !== "Enter" && e.key !== " ") return;
          e.preventDefault();
          e.stopPropagation();
          onPick(s.ref, s.name);
        }}
      >
        <title>{`Say something of the ${s.name}`}</title>
        <circle cx={s.x} cy={s.y} r={Math.max(s.r, 9 * px)} fill="transparent" strokeWidth={2.4 * px} />
        {n && (
          <>
            <circle
              cx={s.x + s.r * 0.7}
              cy={s.y - s.r * 0.7}
              r={7.5 * px}
              fill="var(--color-marking)"
              stroke="var(--white)"
              strokeWidth={1.2 * px}
            />
            <text
              x={s.x + s.r * 0.7}
              y={s.y - s.r * 0.7 + 3.6 * px}
              fontSize={10 * px}
              fontWeight="650"
              textAnchor="middle"
              fill="var(--white)"
            >
              {n}
            </text>
          </>
        )}
      </g>
    );
  });
}
