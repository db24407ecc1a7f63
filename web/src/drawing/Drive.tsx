import { useEffect, useMemo, useRef, useState } from "react";
import type { S } from "../api/client";

type Drawing = S["Drawing"];
type State = S["StepState"];

/** Drive draws the drive from the sheet's own geometry in the state of one step. */
export function Drive({
  drawing,
  state,
  labels = true,
  move = false,
  className,
}: {
  drawing: Drawing;
  state?: State;
  labels?: boolean;
  move?: boolean;
  className?: string;
}) {
  const angles = useTurning(state, move);
  const [x, y, w, h] = drawing.box;
  const svg = useRef<SVGSVGElement>(null);
  const size = useSize(svg);
  // Labels keep their size on the page whatever the scale of the drawing.
  const room = { x: labels ? 118 : 24, top: 24, bottom: 34 };
  const scale = size ? Math.max(0.2, Math.min((size.h - room.top - room.bottom) / h, (size.w - 2 * room.x) / w)) : 1;
  const px = 1 / scale;
  const view = [x - room.x * px, y - room.top * px, w + 2 * room.x * px, h + (room.top + room.bottom) * px];
  const cw = drawing.running === "clockwise" ? 1 : -1;
  const fixed = new Map(state?.shafts.map((s) => [s.id, s]));
  const free = new Set(state?.free);
  const crank = drawing.wheels.find((v) => v.shaft === "crank");
  return (
    <svg
      ref={svg}
      viewBox={view.join(" ")}
      className={className}
      role="img"
      aria-label={describe(drawing, state)}
      preserveAspectRatio="xMidYMid meet"
    >
      <defs>
        <pattern id="hatch" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="7" height="7" fill="var(--color-marking-wash)" />
          <rect width="2.6" height="7" fill="var(--color-marking)" />
        </pattern>
      </defs>
      <path d={casting(drawing)} fill="var(--color-film)" stroke="var(--color-rule)" strokeWidth="1" />
      {drawing.loops.map((l) =>
        state && !state.on.includes(l.id) ? (
          <path key={l.id} d={loopPath(l, 0)} fill="none" stroke="var(--color-ink-3)" strokeWidth="1.4" strokeDasharray="2 6" />
        ) : null,
      )}
      {drawing.wheels.map((v) => {
        const held = v.shaft ? fixed.get(v.shaft)?.fixed : false;
        const turn = v.shaft ? (angles.get(v.shaft) ?? 0) * cw : 0;
        return (
          <g key={v.id} transform={`translate(${v.x} ${v.y})`}>
            <circle
              r={v.teeth ? v.r - 3.2 : v.r}
              fill={held && !free.has(v.id) ? "url(#hatch)" : "var(--white)"}
              stroke="var(--color-ink)"
              strokeWidth="1.3"
            />
            {free.has(v.id) && <circle r={v.r - 8} fill="none" stroke="var(--color-ink)" strokeWidth="1" strokeDasharray="3 4" />}
            {v.teeth > 0 && <Teeth r={v.r} n={v.teeth} turn={turn} />}
            {v.mark && (
              <g transform={`rotate(${turn})`}>
                <rect
                  x={-2.6}
                  y={-v.r + 4}
                  width="5.2"
                  height={Math.min(13, v.r * 0.35)}
                  fill="var(--color-paint)"
                  stroke="#7a5d00"
                  strokeWidth="0.5"
                />
              </g>
            )}
            <circle
              r={v.teeth ? Math.min(8.5, v.r * 0.25) : 4.4}
              fill="var(--white)"
              stroke="var(--color-ink)"
              strokeWidth="1.2"
            />
            {!v.teeth && v.tensions && <path d={`M0 0L0 ${-v.r + 6}`} stroke="var(--color-ink)" strokeWidth="1.2" />}
          </g>
        );
      })}
      {drawing.loops.map((l, i) =>
        !state || state.on.includes(l.id) ? <LoopBand key={l.id} loop={l} sag={slackOf(state, i)} /> : null,
      )}
      {drawing.wheels.map((v) => v.mark && <path key={v.id} d={`M${v.x} ${v.y - v.r - 8}l-5 -10h10z`} fill="var(--color-ink)" />)}
      {crank && <Direction wheel={crank} cw={cw} />}
      {labels && <Labels drawing={drawing} state={state} px={px} />}
    </svg>
  );
}

function Teeth({ r, n, turn }: { r: number; n: number; turn: number }) {
  const pitch = (2 * Math.PI * (r - 2)) / n;
  return (
    <circle
      r={r - 2}
      fill="none"
      stroke="var(--color-ink)"
      strokeWidth="2.4"
      strokeDasharray={`${pitch / 2} ${pitch / 2}`}
      transform={`rotate(${turn})`}
    />
  );
}

function LoopBand({ loop, sag }: { loop: Drawing["loops"][number]; sag: number }) {
  const d = loopPath(loop, sag);
  const chain = loop.kind === "chain";
  return (
    <>
      <path d={d} fill="none" stroke="var(--color-ink)" strokeWidth="7" strokeLinejoin="round" />
      <path d={d} fill="none" stroke="var(--white)" strokeWidth={chain ? 3 : 2} strokeDasharray={chain ? "5 3" : "1.6 3.2"} />
    </>
  );
}

/** loopPath joins arcs and runs; the slack run bows outwards by sag of its length. */
function loopPath(l: Drawing["loops"][number], sag: number): string {
  const cx = l.pieces.reduce((s, p) => s + p.run[0], 0) / Math.max(1, l.pieces.length);
  return l.pieces
    .map((p, i) => {
      const [x1, y1, x2, y2] = p.run;
      const arc = i === 0 ? p.arc : p.arc.replace(/^M[^A]+/, "");
      if (!p.slack || sag === 0) return `${arc}L${x2.toFixed(2)} ${y2.toFixed(2)}`;
      const out = Math.sign((x1 + x2) / 2 - cx) || 1;
      return `${arc}Q${((x1 + x2) / 2 + out * p.length * sag).toFixed(2)} ${((y1 + y2) / 2 + p.length * sag * 0.6).toFixed(2)} ${x2.toFixed(2)} ${y2.toFixed(2)}`;
    })
    .join("");
}

function slackOf(state: State | undefined, loop: number): number {
  const t = state?.tension[loop];
  return t === "relieved" || t === "pinned" ? 0.3 : 0;
}

function Direction({ wheel, cw }: { wheel: Drawing["wheels"][number]; cw: number }) {
  const r = wheel.r + 17;
  const a = (deg: number) => [wheel.x + r * Math.cos((deg * Math.PI) / 180), wheel.y + r * Math.sin((deg * Math.PI) / 180)];
  const from = cw > 0 ? 62 : 118;
  const to = cw > 0 ? 118 : 62;
  const [x1, y1] = a(from);
  const [x2, y2] = a(to);
  const head = to + (cw > 0 ? 90 : -90);
  return (
    <g stroke="var(--color-ink)" strokeWidth="1.6" fill="none">
      <path d={`M${x1} ${y1}A${r} ${r} 0 0 ${cw > 0 ? 1 : 0} ${x2} ${y2}`} />
      <path transform={`translate(${x2} ${y2}) rotate(${head})`} d="M2 0l-10 -3.4v6.8z" fill="var(--color-ink)" stroke="none" />
    </g>
  );
}

/** Labels stand left and right of the drive, moved apart where they would meet. */
function Labels({ drawing, state, px }: { drawing: Drawing; state?: State; px: number }) {
  const placed = useMemo(() => {
    const [bx, , bw] = drawing.box;
    const mid = bx + bw / 2;
    const sides: Record<string, { v: Drawing["wheels"][number]; y: number }[]> = { left: [], right: [] };
    for (const v of [...drawing.wheels].sort((a, b) => a.y - b.y)) {
      const side = v.shaft === "crank" || v.x > mid ? "right" : "left";
      const list = sides[side];
      const last = list[list.length - 1];
      const want = v.shaft === "crank" ? v.y + v.r * 0.55 : v.y;
      list.push({ v, y: last ? Math.max(want, last.y + 33 * px) : want });
    }
    return { sides, left: bx - 16 * px, right: bx + bw + 16 * px };
  }, [drawing, px]);
  return (
    <g fontSize={11.5 * px} fill="var(--color-ink)">
      {(["left", "right"] as const).flatMap((side) =>
        placed.sides[side].map(({ v, y }) => {
          const left = side === "left";
          const x = left ? placed.left : placed.right;
          const dx = x - v.x;
          const dy = y - 3 * px - v.y;
          const d = Math.hypot(dx, dy);
          return (
            <g key={v.id}>
              <path
                d={`M${x + (left ? 4 : -4) * px} ${y - 3 * px}L${v.x + (dx / d) * (v.r + 6)} ${v.y + (dy / d) * (v.r + 6)}`}
                stroke="var(--color-ink-3)"
                strokeWidth={0.8 * px}
                fill="none"
              />
              <text x={x} y={y} textAnchor={left ? "end" : "start"} fontWeight="600">
                {v.label.charAt(0).toUpperCase() + v.label.slice(1)}
              </text>
              <text x={x} y={y + 13.5 * px} textAnchor={left ? "end" : "start"} fill="var(--color-ink-2)" fontSize={10.8 * px}>
                {under(v, state)}
              </text>
            </g>
          );
        }),
      )}
    </g>
  );
}

function under(v: Drawing["wheels"][number], state?: State) {
  const parts: string[] = [];
  if (v.teeth) parts.push(`${v.teeth} teeth`);
  const s = state?.shafts.find((s) => s.id === v.shaft);
  if (state?.free.includes(v.id)) parts.push("free on taper");
  else if (s?.fixed) parts.push("locked");
  if (v.tensions && state) parts.push(state.tension[0] ?? "");
  return parts.filter(Boolean).join(", ") || "plain";
}

/** casting is a quiet outline behind the wheels. */
function casting(d: Drawing) {
  const [x, y, w, h] = d.box;
  return `M${x + w * 0.06} ${y - 12}H${x + w * 0.94}L${x + w + 16} ${y + h * 0.45}L${x + w * 0.84} ${y + h + 14}H${x + w * 0.16}L${x - 16} ${y + h * 0.45}Z`;
}

function describe(d: Drawing, s?: State) {
  if (!s) return `The drive, ${d.wheels.length} wheels`;
  const locked = s.shafts.filter((v) => v.fixed).map((v) => v.id);
  return `The drive with the crank at ${(((s.crank % s.cycle) + s.cycle) % s.cycle).toFixed(1)} of ${s.cycle} degrees, ${locked.length ? `${locked.join(", ")} locked` : "nothing locked"}, ${s.on.length ? "belt on" : "belt off"}`;
}

/** useSize follows the size of a drawing on the page, in pixels. */
function useSize(of: { current: SVGSVGElement | null }) {
  const [size, setSize] = useState<{ w: number; h: number }>();
  useEffect(() => {
    if (!of.current) return;
    const o = new ResizeObserver(([e]) => setSize({ w: e.contentRect.width, h: e.contentRect.height }));
    o.observe(of.current);
    return () => o.disconnect();
  }, [of]);
  return size;
}

/** useTurning gives the shafts' angles, moved over a short moment when the engine plays. */
function useTurning(state: State | undefined, move: boolean) {
  const [angles, setAngles] = useState(() => anglesOf(state));
  const from = useRef(angles);
  useEffect(() => {
    const to = anglesOf(state);
    const start = new Map(from.current);
    const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
    const far = Math.max(0, ...[...to].map(([k, v]) => Math.abs(v - (start.get(k) ?? v))));
    if (still || far < 0.01) {
      from.current = to;
      setAngles(to);
      return;
    }
    const length = move ? Math.min(900, 200 + far * 1.2) : 140;
    const t0 = performance.now();
    let frame = 0;
    const tick = (t: number) => {
      const u = Math.min(1, (t - t0) / length);
      const e = u * u * (3 - 2 * u);
      const now = new Map([...to].map(([k, v]) => [k, (start.get(k) ?? v) + (v - (start.get(k) ?? v)) * e]));
      from.current = now;
      setAngles(now);
      if (u < 1) frame = requestAnimationFrame(tick);
    };
    frame = requestAnimationFrame(tick);
    return () => cancelAnimationFrame(frame);
  }, [state, move]);
  return angles;
}

const anglesOf = (s?: State) => new Map<string, number>(s?.shafts.map((v) => [v.id, v.angle]) ?? []);
