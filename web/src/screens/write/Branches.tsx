import type { S } from "../../api/client";

type Row = S["Row"];

/** Branches draws the way back from the steps that are done when one fails. */
export function Branches({
  rows,
  x,
  y,
  top,
  bottom,
}: {
  rows: Row[];
  x: number;
  y: (i: number) => number;
  top: number;
  bottom: number;
}) {
  return (
    <svg className="pointer-events-none absolute top-0 left-0 z-[1] overflow-visible" width={x + 12} height="1" aria-hidden>
      {rows.map((r, i) => {
        if (r.fails < 0) return null;
        const first = rows[i - 1]?.fails !== r.fails;
        if (!first) return null;
        let last = i;
        while (rows[last + 1]?.fails === r.fails) last++;
        const to = rows[last].backTo;
        const a = y(i) - 12;
        const b = y(last) + 12;
        if (b < top - 60 || (to >= 0 ? y(to) : a) > bottom + 60) return null;
        return (
          <g key={r.step.id} fill="none" stroke="var(--color-paint)" strokeWidth="2">
            <path d={`M${x + 9} ${a}V${b}`} />
            {to >= 0 && (
              <>
                <path d={`M${x + 9} ${b}q0 5 -5 5q-5 0 -5 -5V${y(to) + 5}q0 -5 5 -5h5`} strokeWidth="1.4" />
                <path d={`M${x + 5} ${y(to) - 3.5}l5 3.5l-5 3.5`} strokeWidth="1.4" />
              </>
            )}
          </g>
        );
      })}
    </svg>
  );
}
