import { useEffect, useId, useMemo, useRef, useState } from "react";
import type { S } from "../api/client";
import { Astray, type Off } from "./Astray";
import { Locks } from "./Locks";
import { Picks } from "./Picks";
import { Shapes, shown } from "./shapes";
import { type Frame, useZoom } from "./useZoom";
import { ZoomBar } from "./ZoomBar";

type Drawing = S["Drawing"];
type State = S["StepState"];

/** Drive draws the drive from the sheet's own geometry in the state of one step. It can be looked at nearer, and drawn along. */
export function Drive({
  drawing,
  state,
  labels = true,
  still = false,
  move = false,
  picked,
  astray,
  focus,
  className,
}: {
  drawing: Drawing;
  state?: State;
  labels?: boolean;
  /** a small picture that is only looked at */
  still?: boolean;
  move?: boolean;
  /** what is open about its things, and what is told when one is pressed */
  picked?: { said: Map<string, number>; onPick: (ref: string, name: string) => void };
  /** where the engine should stand, and which shafts do not */
  astray?: { right: State; off: Off[] };
  /** the shafts whose wheels are looked at near; the whole drive where there are none */
  focus?: string[];
  className?: string;
}) {
  const angles = useTurning(state, move);
  const svg = useRef<SVGSVGElement>(null);
  const size = useSize(svg);
  const hatch = useId();
  const near = useMemo(() => nearTo(drawing, focus), [drawing, focus]);
  const close = near !== drawing;
  const { fit, px: whole, names } = fitted(near, size, labels && !close);
  const zoom = useZoom(svg, fit, !still);
  const px = (whole / zoom.k) * (still && !close ? 0.6 : 1); // lines of a small picture are finer
  const held = useRef<{ x: number; y: number }>(undefined);
  return (
    <div className={`relative ${className ?? ""}`}>
      <svg
        ref={svg}
        viewBox={zoom.frame.join(" ")}
        className="h-full w-full"
        style={{ cursor: zoom.k > 1 ? "grab" : undefined, touchAction: still ? undefined : "none" }}
        role={picked ? "group" : "img"}
        aria-label={describe(drawing, state)}
        preserveAspectRatio="xMidYMid meet"
        onPointerDown={(e) => {
          if (still || zoom.k <= 1) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          held.current = { x: e.clientX, y: e.clientY };
        }}
        onPointerMove={(e) => {
          if (!held.current) return;
          zoom.pan((held.current.x - e.clientX) * px, (held.current.y - e.clientY) * px);
          held.current = { x: e.clientX, y: e.clientY };
        }}
        onPointerUp={() => {
          held.current = undefined;
        }}
      >
        <path d={drawing.casting} fill="var(--color-film)" stroke="var(--color-rule)" strokeWidth={px} />
        <Shapes drawing={drawing} state={state} angles={angles} px={px} hatch={hatch} />
        {state && <Locks drawing={drawing} px={px} hatch={hatch} only={state.locks} />}
        {astray && <Astray drawing={drawing} px={px} {...astray} />}
        {picked && <Picks drawing={drawing} px={px} only={state?.locks} {...picked} />}
        <Names names={(zoom.k > 1 && names === "side") || (close && labels) ? "centre" : names} drawing={near} state={state} px={px} />
      </svg>
      {!still && <ZoomBar zoom={zoom} />}
    </div>
  );
}

/** nearTo is a drawing whose box is that of the wheels of some shafts; the whole one where there are none of them. */
export function nearTo(drawing: Drawing, focus?: string[]): Drawing {
  const wheels = shown(drawing).filter((v) => v.shaft && v.teeth > 0 && focus?.includes(v.shaft));
  if (wheels.length === 0) return drawing;
  const room = 26;
  const x = Math.min(...wheels.map((v) => v.x - v.r)) - room;
  const y = Math.min(...wheels.map((v) => v.y - v.r)) - room;
  const w = Math.max(...wheels.map((v) => v.x + v.r)) + room - x;
  const h = Math.max(...wheels.map((v) => v.y + v.r)) + room - y;
  return { ...drawing, box: [x, y, w, h] };
}

/** fitted is the frame that shows the whole drive in a room of the page, the size of a pixel there, and where its names stand: at its sides, or at the wheels where that would leave the drive small. */
export function fitted(
  drawing: Drawing,
  size: { w: number; h: number } | undefined,
  labels: boolean,
): { fit: Frame; px: number; names: "side" | "centre" | "none" } {
  const [x, y, w, h] = drawing.box;
  const scaleIn = (r: { left: number; right: number; top: number; bottom: number }) =>
    size ? Math.max(0.05, Math.min((size.h - r.top - r.bottom) / h, (size.w - r.left - r.right) / w, 4)) : 1;
  // A small picture without names needs little room round it.
  const tight = labels ? { left: 26, right: 26, top: 26, bottom: 34 } : { left: 6, right: 6, top: 6, bottom: 12 };
  const side = { ...labelRoom(drawing), top: 24, bottom: 34 };
  const names = !labels ? "none" : size && scaleIn(side) < 0.74 * scaleIn(tight) ? "centre" : "side";
  const room = names === "side" ? side : tight;
  const px = 1 / scaleIn(room);
  return {
    names,
    px,
    fit: [x - room.left * px, y - room.top * px, w + (room.left + room.right) * px, h + (room.top + room.bottom) * px],
  };
}

/** Names writes what the wheels are called. */
export function Names({
  names,
  drawing,
  state,
  px,
}: {
  names: "side" | "centre" | "none";
  drawing: Drawing;
  state?: State;
  px: number;
}) {
  if (names === "none") return null;
  if (names === "side") return <Labels drawing={drawing} state={state} px={px} />;
  return (
    <g
      fontSize={11.5 * px}
      fontWeight="600"
      fill="var(--color-ink)"
      textAnchor="middle"
      stroke="var(--white)"
      strokeWidth={3 * px}
      strokeLinejoin="round"
      paintOrder="stroke"
    >
      {placed(drawing, px).map(({ id, text, x, y, anchor }) => (
        <text key={id} x={x} y={y} textAnchor={anchor}>
          {text}
        </text>
      ))}
    </g>
  );
}

/** placed sets the names at their wheels, the largest first: in the wheel, or beside it where no other name stands. A name that has no room is left to what is said when its wheel is met. */
function placed(drawing: Drawing, px: number) {
  const wheels = shown(drawing).filter((v) => v.mount !== "rail");
  const taken: [number, number, number, number][] = [];
  const covers = (id: string, left: number, top: number, w: number, h: number) =>
    wheels.some(
      (v) =>
        v.id !== id && left < v.x + v.r * 0.8 && v.x - v.r * 0.8 < left + w && top < v.y + v.r * 0.8 && v.y - v.r * 0.8 < top + h,
    );
  const out: { id: string; text: string; x: number; y: number; anchor: "start" | "middle" | "end" }[] = [];
  for (const v of wheels) {
    const text = v.label.charAt(0).toUpperCase() + v.label.slice(1);
    const w = text.length * 6.4 * px;
    const [up, h] = [10 * px, 14 * px];
    const room: [number, number, "start" | "middle" | "end"][] = [
      ...(w < 1.8 * v.r ? [[v.x, v.y + Math.min(v.r * 0.62, 24 * px), "middle"] as [number, number, "middle"]] : []),
      [v.x, v.y + v.r + 17 * px, "middle"],
      [v.x, v.y + v.r + 31 * px, "middle"],
      [v.x + v.r + 9 * px, v.y + 4 * px, "start"],
      [v.x - v.r - 9 * px, v.y + 4 * px, "end"],
      [v.x, v.y - v.r - 8 * px, "middle"],
    ];
    for (const [x, y, anchor] of room) {
      const left = anchor === "middle" ? x - w / 2 : anchor === "start" ? x : x - w;
      if (left < drawing.box[0] - 24 * px || left + w > drawing.box[0] + drawing.box[2] + 24 * px) continue;
      if (covers(v.id, left, y - up, w, h)) continue;
      if (taken.some(([a, b, c, d]) => left < a + c && a < left + w && y - up < b + d && b < y - up + h)) continue;
      taken.push([left, y - up, w, h]);
      out.push({ id: v.id, text, x, y, anchor });
      break;
    }
  }
  return out;
}

/** labelRoom is the room, in pixels, that the names need at either side. */
export function labelRoom(drawing: Drawing) {
  const need = { left: 40, right: 40 };
  for (const v of shown(drawing)) {
    if (v.mount === "rail") continue;
    need[v.side] = Math.max(need[v.side], 34 + Math.max(v.label.length * 6.3, 74));
  }
  return need;
}

/** Labels stand left and right of the drive, moved apart where they would meet. */
export function Labels({ drawing, state, px }: { drawing: Drawing; state?: State; px: number }) {
  const placed = useMemo(() => {
    const [bx, , bw] = drawing.box;
    const sides: Record<string, { v: Drawing["wheels"][number]; y: number }[]> = { left: [], right: [] };
    for (const v of shown(drawing).sort((a, b) => a.y - b.y)) {
      if (v.mount === "rail") continue;
      const list = sides[v.side];
      const last = list[list.length - 1];
      const want = v.shaft === "crank" ? v.y + v.r * 0.55 : v.y;
      list.push({ v, y: last ? Math.max(want, last.y + 33 * px) : want });
    }
    // From the bottom up: names pushed past the edge push the others back.
    for (const list of Object.values(sides)) {
      let floor = drawing.box[1] + drawing.box[3] + 14 * px;
      for (let i = list.length - 1; i >= 0; i--) {
        list[i].y = Math.min(list[i].y, floor);
        floor = list[i].y - 33 * px;
      }
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
              <text
                x={x}
                y={y + 13.5 * px}
                textAnchor={left ? "end" : "start"}
                fill={amiss(v, state) ? "var(--color-clash)" : "var(--color-ink-2)"}
                fontWeight={amiss(v, state) ? 650 : undefined}
                fontSize={10.8 * px}
              >
                {under(v, state)}
              </text>
            </g>
          );
        }),
      )}
    </g>
  );
}

/** amiss tells a wheel at which something has gone wrong in the step that led here. */
const amiss = (v: Drawing["wheels"][number], state?: State) =>
  !!v.shaft && (state?.met?.includes(v.shaft) || (v.teeth > 0 && !!state?.shafts.find((s) => s.id === v.shaft)?.teeth));

function under(v: Drawing["wheels"][number], state?: State) {
  const parts: string[] = [];
  if (v.teeth) parts.push(`${v.teeth} teeth`);
  const s = state?.shafts.find((s) => s.id === v.shaft);
  if (state?.free.includes(v.id)) parts.push("loose");
  else if (s?.fixed) parts.push("locked");
  if (s?.teeth && v.teeth) parts.push(`±${s.teeth} ${s.teeth === 1 ? "tooth" : "teeth"}`);
  if (state?.met?.includes(v.shaft)) return "valves meet pistons";
  if (v.tensions && state) parts.push(state.tension[v.tensioner] ?? "");
  if (state?.covered?.[v.id]) parts.push("covered");
  return parts.filter(Boolean).join(", ") || "plain";
}

function describe(d: Drawing, s?: State) {
  if (!s) return `The drive, ${d.wheels.length} wheels`;
  const locked = s.shafts.filter((v) => v.fixed).map((v) => v.id);
  return `The drive with the crank at ${(((s.crank % s.cycle) + s.cycle) % s.cycle).toFixed(1)} of ${s.cycle} degrees, ${locked.length ? `${locked.join(", ")} locked` : "nothing locked"}, ${s.on.length ? "belt on" : "belt off"}`;
}

/** useSize follows the size of a drawing on the page, in pixels. */
export function useSize(of: { current: SVGSVGElement | null }) {
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
