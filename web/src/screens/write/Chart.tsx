import { useState } from "react";
import type { S } from "../../api/client";

type Line = S["Lifeline"];
export const columnWidth = 24;
export const chartWidth = (n: number) => 12 + n * columnWidth;

/** headHeight is the room that the slanted names of the columns need, within reason. */
export const headHeight = (lines: Line[]) =>
  Math.min(112, Math.max(66, Math.sin((38 * Math.PI) / 180) * Math.max(0, ...lines.map((l) => l.name.length)) * 6.2 + 20));

/** ChartHead names the columns. */
export function ChartHead({
  lines,
  hot,
  onHot,
  onGo,
}: {
  lines: Line[];
  hot?: string;
  onHot: (id?: string) => void;
  onGo: (i: number) => void;
}) {
  return (
    <div className="relative flex-none" style={{ width: chartWidth(lines.length) }}>
      {lines.map((l, i) => (
        <button
          type="button"
          key={l.kind + l.id}
          className="chart-name"
          data-on={hot === l.kind + l.id}
          style={{ left: 14 + i * columnWidth }}
          onMouseEnter={() => onHot(l.kind + l.id)}
          onMouseLeave={() => onHot()}
          onFocus={() => onHot(l.kind + l.id)}
          onBlur={() => onHot()}
          onClick={() => l.spans[0] && onGo(Math.max(0, l.spans[0].from))}
        >
          {l.name.charAt(0).toUpperCase() + l.name.slice(1)}
        </button>
      ))}
    </div>
  );
}

/** Hatching is the pattern of a lock's bar. */
export const Hatching = () => (
  <pattern id="bar" width="6" height="6" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
    <rect width="6" height="6" fill="var(--color-marking-wash)" />
    <rect width="2.4" height="6" fill="var(--color-marking)" />
  </pattern>
);

/** Chart draws one line for every lock, plug, pin, holder and loop beside the rows. y gives the height of a step's own line. */
export function Chart({
  view,
  y,
  height,
  top,
  bottom,
  onGo,
  hot,
  onHot,
}: {
  view: S["View"];
  y: (i: number) => number;
  height: number;
  top: number;
  bottom: number;
  onGo: (i: number) => void;
  hot?: string;
  onHot: (id?: string) => void;
}) {
  const lines = view.chart;
  const n = view.rows.length;
  const width = chartWidth(lines.length);
  const yy = (i: number) => (i < 0 ? 0 : i >= n ? height : y(i));
  const x = (i: number) => 12 + i * columnWidth + 10;
  const seen = (a: number, b: number) => b >= top - 60 && a <= bottom + 60;
  return (
    <svg
      width={width}
      height={height}
      className="absolute top-0 left-0 z-[1] overflow-visible"
      role="img"
      aria-label={spoken(view)}
    >
      <defs>
        <Hatching />
      </defs>
      {lines.map((l, c) => (
        <g key={l.kind + l.id} opacity={hot && hot !== l.kind + l.id ? 0.35 : 1}>
          <path
            d={`M${x(c)} ${Math.max(0, top - 60)}V${Math.min(height, bottom + 60)}`}
            stroke="var(--color-rule)"
            strokeWidth="1"
            strokeDasharray="1 4"
          />
          {l.spans.map((s) => {
            const a = yy(s.from) - (s.from === s.to ? 9 : 0);
            const b = yy(s.to) + (s.from === s.to ? 9 : 0);
            if (!seen(a, b)) return null;
            return (
              <Bar
                key={s.from}
                kind={l.kind}
                x={x(c)}
                a={Math.max(a, top - 90)}
                b={Math.min(b, bottom + 90)}
                starts={s.from >= 0 && a >= top - 90}
                ends={s.to < n && b <= bottom + 90}
                onGo={onGo}
                span={s}
                name={l.name}
                steps={n}
                onHot={(on) => onHot(on ? l.kind + l.id : undefined)}
              />
            );
          })}
        </g>
      ))}
      {view.rows.map((r, i) => {
        const h = yy(i);
        if ((!r.crosses && r.clashes.length === 0) || !seen(h, h)) return null;
        return (
          <g key={r.step.id} pointerEvents="none">
            {r.crosses && (
              <>
                <path d={`M3 ${h}H${width + 3}`} stroke="var(--color-ink)" strokeWidth="1.2" />
                <path d={`M${width - 3} ${h - 4.5}l7 4.5l-7 4.5`} fill="none" stroke="var(--color-ink)" strokeWidth="1.4" />
              </>
            )}
            {r.clashes.map((id) => {
              const c = lines.findIndex((l) => l.id === id && (l.kind === "lock" || l.kind === "holder"));
              if (c < 0) return null;
              return (
                <g key={id} transform={`translate(${x(c)} ${h})`} className="clash-mark">
                  <circle r="7.5" fill="var(--white)" stroke="var(--color-clash)" strokeWidth="1.8" />
                  <path d="M-3 -3l6 6m0 -6l-6 6" stroke="var(--color-clash)" strokeWidth="2" />
                </g>
              );
            })}
          </g>
        );
      })}
    </svg>
  );
}

function Bar({
  kind,
  x,
  a,
  b,
  starts,
  ends,
  onGo,
  span,
  name,
  steps,
  onHot,
}: {
  kind: Line["kind"];
  x: number;
  a: number;
  b: number;
  starts: boolean;
  ends: boolean;
  onGo: (i: number) => void;
  span: { from: number; to: number };
  name: string;
  steps: number;
  onHot: (on: boolean) => void;
}) {
  const [on, setOn] = useState(false);
  const cap = (y: number) => (
    <path
      d={`M${x - 6.5} ${y}h13`}
      stroke={kind === "loop" || kind === "plug" ? "var(--color-ink)" : "var(--color-marking)"}
      strokeWidth="2"
    />
  );
  const from = span.from < 0 ? "from before the first step" : `from step ${span.from + 1}`;
  const to = span.to >= steps ? "to the end" : `to step ${span.to + 1}`;
  const what = kind === "plug" ? "out" : kind === "loop" ? "on" : "in";
  return (
    <g
      onMouseEnter={() => {
        setOn(true);
        onHot(true);
      }}
      onMouseLeave={() => {
        setOn(false);
        onHot(false);
      }}
      onClick={() => onGo(Math.max(0, span.from))}
      className="cursor-pointer"
      data-span={`${span.from} ${span.to}`}
      data-drawn={`${starts ? a : ""} ${ends ? b : ""}`}
    >
      <title>{`${name} ${what} ${from} ${to}`}</title>
      <rect x={x - 10} y={a} width="20" height={Math.max(1, b - a)} fill="transparent" />
      {kind === "loop" ? (
        <>
          <path d={`M${x} ${a}V${b}`} stroke="var(--color-ink)" strokeWidth={on ? 7 : 5.5} />
          <path d={`M${x} ${a}V${b}`} stroke="var(--white)" strokeWidth="1.8" strokeDasharray="2 3" />
        </>
      ) : kind === "plug" ? (
        <path d={`M${x} ${a}V${b}`} stroke="var(--color-ink)" strokeWidth={on ? 3 : 1.6} />
      ) : (
        <rect
          x={x - 4.5}
          y={a}
          width="9"
          height={Math.max(2, b - a)}
          fill="url(#bar)"
          stroke="var(--color-marking)"
          strokeWidth={on ? 2 : 1}
        />
      )}
      {starts && cap(a)}
      {ends && cap(b)}
    </g>
  );
}

/** spoken says the chart in words for those who do not see it. */
function spoken(view: S["View"]) {
  const n = view.rows.length;
  return `Latch chart. ${view.chart.map((l) => `${l.name}: ${l.spans.map((s) => `${s.from < 0 ? "start" : s.from + 1} to ${s.to >= n ? "end" : s.to + 1}`).join(", ") || "never"}`).join(". ")}`;
}
