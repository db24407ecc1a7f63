import { type RefObject, useLayoutEffect, useState } from "react";
import type { S } from "../../api/client";
import { at as heightOf, type Lanes, lanes } from "../../drawing/lanes";
import { chartWidth, columnWidth, Hatching } from "../write/Chart";
import type { Line } from "./rows";

type Lifeline = S["Lifeline"];

/** columns are the lines of both charts, those of now first. */
export function columns(now: Lifeline[], was: Lifeline[]): Lifeline[] {
  const id = (l: Lifeline) => l.kind + l.id;
  return [...now, ...was.filter((w) => !now.some((n) => id(n) === id(w)) && w.spans.length > 0)];
}

/** Overlay draws the latch chart of now, with that of before as a dotted outline behind it, beside the list. */
export function Overlay({
  list,
  lines,
  now,
  was,
  hot,
}: {
  list: RefObject<HTMLElement | null>;
  lines: Line[];
  now: Lifeline[];
  was: Lifeline[];
  hot?: string;
}) {
  const cols = columns(now, was);
  const [at, setAt] = useState<Lanes>();
  // Where each step stands in the list, old and new, measured after it was laid out.
  // biome-ignore lint/correctness/useExhaustiveDependencies: other lines stand elsewhere
  useLayoutEffect(() => {
    const el = list.current;
    if (!el) return;
    const measure = () => setAt(lanes(el));
    measure();
    const o = new ResizeObserver(measure);
    o.observe(el);
    return () => o.disconnect();
  }, [list, lines]);
  if (!at || cols.length === 0) return null;
  const x = (i: number) => 12 + i * columnWidth + 10;
  const width = chartWidth(cols.length);
  const y = heightOf;
  const end = (m: Map<number, number>, i: number) => (i > Math.max(-1, ...m.keys()) ? at.height : y(m, i));
  return (
    <svg
      width={width}
      height={at.height}
      className="absolute top-0 left-0 max-md:hidden"
      role="img"
      aria-label={spoken(cols, now, was)}
    >
      <defs>
        <Hatching />
      </defs>
      {cols.map((c, i) => {
        const key = c.kind + c.id;
        const old = was.find((w) => w.kind + w.id === key);
        const cur = now.find((w) => w.kind + w.id === key);
        return (
          <g key={key} data-lane={key} opacity={hot && hot !== key ? 0.35 : 1}>
            <path d={`M${x(i)} 0V${at.height}`} stroke="var(--color-rule)" strokeDasharray="1 4" />
            {old?.spans.map((s) => {
              const a = y(at.was, s.from);
              const b = end(at.was, s.to);
              // Where it stands as it did, one of the two says it.
              if (cur?.spans.some((n) => Math.abs(y(at.now, n.from) - a) < 4 && Math.abs(end(at.now, n.to) - b) < 4)) return null;
              return (
                <rect
                  key={`was ${s.from}`}
                  x={x(i) + 3}
                  y={a - (s.from === s.to ? 7 : 0)}
                  width="6"
                  height={Math.max(2, b - a + (s.from === s.to ? 14 : 0))}
                  fill="none"
                  stroke="var(--color-ink-3)"
                  strokeDasharray="2 2"
                />
              );
            })}
            {cur?.spans.map((s) => (
              <Span
                key={s.from}
                span={s}
                kind={c.kind}
                x={x(i)}
                a={y(at.now, s.from) - (s.from === s.to ? 8 : 0)}
                b={end(at.now, s.to) + (s.from === s.to ? 8 : 0)}
              />
            ))}
            <title>{c.name}</title>
          </g>
        );
      })}
    </svg>
  );
}

function Span({
  kind,
  x,
  a,
  b,
  span,
}: {
  kind: Lifeline["kind"];
  x: number;
  a: number;
  b: number;
  span: { from: number; to: number };
}) {
  return (
    <g data-span={`${span.from} ${span.to}`} data-drawn={`${a} ${b}`}>
      {kind === "loop" ? (
        <>
          <path d={`M${x} ${a}V${b}`} stroke="var(--color-ink)" strokeWidth="5.5" />
          <path d={`M${x} ${a}V${b}`} stroke="var(--white)" strokeWidth="1.8" strokeDasharray="2 3" />
        </>
      ) : kind === "plug" ? (
        <path d={`M${x} ${a}V${b}`} stroke="var(--color-ink)" strokeWidth="1.6" />
      ) : (
        <rect x={x - 4.5} y={a} width="9" height={Math.max(2, b - a)} fill="url(#bar)" stroke="var(--color-marking)" />
      )}
    </g>
  );
}

const spans = (l?: Lifeline) =>
  l?.spans.map((s) => `${s.from < 0 ? "the start" : s.from + 1} to ${s.to + 1}`).join(", ") || "never";

/** spoken says both charts in words. */
function spoken(cols: Lifeline[], now: Lifeline[], was: Lifeline[]) {
  return `Latch chart, with the earlier one. ${cols
    .map((c) => {
      const find = (of: Lifeline[]) => spans(of.find((l) => l.kind === c.kind && l.id === c.id));
      const a = find(was);
      const b = find(now);
      return was.length === 0 || a === b ? `${c.name}: ${b}` : `${c.name}: ${b}, was ${a}`;
    })
    .join(". ")}`;
}
