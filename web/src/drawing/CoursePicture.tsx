import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";
import type { S } from "../api/client";

type Course = S["CourseAnswer"];

/** The picture is as wide as its place, so that its words keep their size. */
const narrowest = 260;
const pad = { l: 44, r: 16, t: 20, b: 34 };

/** stepsTo are round figures from 0 up to an end, at most so many. */
function stepsTo(end: number, most: number) {
  const by =
    [1, 2, 5, 10, 15, 20, 25, 30, 45, 50, 60, 90, 100, 180, 200, 360, 500, 1000, 2000].find((s) => end / s <= most) ?? end;
  return Array.from({ length: Math.floor(end / by + 1e-9) + 1 }, (_, i) => i * by);
}

/**
 * CoursePicture is the clamp load of a bolt through its stages: over the angle behind its first torque, or over the torque
 * where no angle follows, between the least and the greatest friction, against its proof load and where it yields. The end of
 * it is dragged, or moved with the arrow keys, where onTry is given. beside is the same bolt in another condition.
 */
export function CoursePicture({
  course,
  beside,
  name,
  height = 280,
  onTry,
}: {
  course: Course;
  beside?: Course;
  name: string;
  height?: number;
  onTry?: (to: number) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const [W, setWidth] = useState(560);
  useEffect(() => {
    const at = svg.current?.parentElement;
    if (!at) return;
    const seen = new ResizeObserver(([e]) => setWidth(Math.min(640, Math.max(narrowest, Math.round(e.contentRect.width)))));
    seen.observe(at);
    return () => seen.disconnect();
  }, []);
  const held = useRef(false);
  // Where keys have brought the end, which the answer may not show yet.
  const aim = useRef<number>(undefined);
  const turns = course.turned > 0;
  if (aim.current === (turns ? course.turned : course.torque)) aim.current = undefined;
  const end = turns ? course.turned : course.torque;
  const far = useRef(0);
  // The scale stays where it is while the end is dragged.
  if (!held.current || far.current < end * 1.02) far.current = end * 1.22 || 1;
  const top = Math.max(course.yieldLoad.high, course.final.high, course.proof, beside?.final.high ?? 0) * 1.08;
  const x = (v: number) => pad.l + (v / far.current) * (W - pad.l - pad.r);
  const y = (kn: number) => pad.t + (1 - kn / top) * (height - pad.t - pad.b);
  const band = (c: Course) => {
    const ps = c.points;
    const at = (p: { at: number }, v: number) => `${x(p.at).toFixed(1)} ${y(v).toFixed(1)}`;
    return `M${ps.map((p) => at(p, p.high)).join("L")}L${[...ps]
      .reverse()
      .map((p) => at(p, p.low))
      .join("L")}Z`;
  };
  const unit = turns ? "°" : " N·m";
  const move = (e: PointerEvent) => {
    const box = svg.current?.getBoundingClientRect();
    if (!box || !held.current || !onTry) return;
    const px = ((e.clientX - box.left) / box.width) * W;
    const v = ((px - pad.l) / (W - pad.l - pad.r)) * far.current;
    const grain = turns ? 1 : end < 20 ? 0.5 : 1;
    onTry(Math.max(grain, Math.round(v / grain) * grain));
  };
  const key = (e: KeyboardEvent) => {
    const way = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[e.key];
    if (!way || !onTry) return;
    e.preventDefault();
    e.stopPropagation();
    const by = (e.shiftKey ? 10 : 1) * (turns || end >= 20 ? 1 : 0.5);
    aim.current = Math.max(by, Number((Math.round((aim.current ?? end) / by) * by + way * by).toFixed(2)));
    onTry(aim.current);
  };
  const mid = (course.final.low + course.final.high) / 2;
  const fine = { fontSize: "var(--text-fine)" } as const;
  const yields = y(course.yieldLoad.high);
  const proof = y(course.proof);
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${W} ${height}`}
      className="w-full max-w-[640px] select-none"
      role={onTry ? "group" : "img"}
      aria-label={`Clamp load of the ${name}: ${course.final.low.toFixed(1)} to ${course.final.high.toFixed(1)} kilonewtons at ${end.toFixed(turns ? 0 : 1)}${unit}; it yields between ${course.yieldLoad.low.toFixed(0)} and ${course.yieldLoad.high.toFixed(0)}`}
      onPointerMove={move}
      onPointerUp={() => {
        held.current = false;
      }}
    >
      {stepsTo(top, 6).map((v) => (
        <g key={v}>
          <path d={`M${pad.l} ${y(v)}H${W - pad.r}`} stroke="var(--color-rule)" strokeWidth="0.7" />
          <text x={pad.l - 7} y={y(v) + 4} textAnchor="end" fill="var(--color-ink-2)" {...fine}>
            {v}
          </text>
        </g>
      ))}
      {stepsTo(far.current, 6).map((v) => (
        <text key={v} x={x(v)} y={height - 18} textAnchor={v === 0 ? "start" : "middle"} fill="var(--color-ink-2)" {...fine}>
          {v}
          {turns && "°"}
        </text>
      ))}
      <text x={2} y={11} fill="var(--color-ink-2)" {...fine}>
        {W < 330 ? "kN" : "clamp load, kN"}
      </text>
      <text x={W - pad.r} y={height - 4} textAnchor="end" fill="var(--color-ink-2)" {...fine}>
        {turns ? "angle after the torque" : "torque, N·m"}
      </text>
      <rect
        x={pad.l}
        y={yields}
        width={W - pad.l - pad.r}
        height={Math.max(1, y(course.yieldLoad.low) - yields)}
        fill="var(--color-clash-wash)"
      />
      <path d={`M${pad.l} ${yields}H${W - pad.r}`} stroke="var(--color-clash)" strokeWidth="1" />
      <path d={`M${pad.l} ${proof}H${W - pad.r}`} stroke="var(--color-ink)" strokeWidth="1" strokeDasharray="5 4" />
      <path
        d={band(course)}
        fill="var(--color-marking-wash)"
        stroke="var(--color-marking)"
        strokeWidth="1.5"
        fillOpacity="0.85"
      />
      {beside && <path d={band(beside)} fill="none" stroke="var(--color-ink-2)" strokeWidth="1.3" strokeDasharray="3 3" />}
      <text x={W - pad.r} y={11} textAnchor="end" {...fine}>
        <tspan fill="var(--color-clash)">
          {W < 420 ? "" : "▬ "}yields {course.yieldLoad.low.toFixed(0)} to {course.yieldLoad.high.toFixed(0)} kN
        </tspan>
        <tspan dx={W < 420 ? 6 : 14}>╌ proof {course.proof.toFixed(0)} kN</tspan>
      </text>
      <path d={`M${x(end)} ${pad.t}V${height - pad.b}`} stroke="var(--color-ink)" strokeWidth="1" />
      <path
        d={`M${x(end)} ${y(course.final.high)}V${y(course.final.low)}M${x(end) - 4} ${y(course.final.high)}h8M${x(end) - 4} ${y(course.final.low)}h8`}
        stroke="var(--color-marking)"
        strokeWidth="3"
      />
      {onTry ? (
        <g
          role="slider"
          tabIndex={0}
          aria-label={turns ? "The angle that is tried" : "The torque that is tried"}
          aria-valuenow={Number(end.toFixed(1))}
          aria-valuemin={0}
          aria-valuetext={`${end.toFixed(turns ? 0 : 1)}${unit}, ${course.final.low.toFixed(1)} to ${course.final.high.toFixed(1)} kilonewtons`}
          className="cursor-ew-resize touch-none outline-none [&:focus-visible>circle:last-child]:stroke-(--color-ink)"
          onPointerDown={(e) => {
            held.current = true;
            (e.currentTarget.ownerSVGElement as SVGSVGElement).setPointerCapture(e.pointerId);
          }}
          onKeyDown={key}
          onFocus={() => {
            aim.current = undefined;
          }}
          onBlur={() => {
            aim.current = undefined;
          }}
        >
          <circle cx={x(end)} cy={y(mid)} r="18" fill="transparent" />
          <circle cx={x(end)} cy={y(mid)} r="7" fill="var(--color-marking)" stroke="var(--color-sheet)" strokeWidth="2" />
        </g>
      ) : (
        <circle cx={x(end)} cy={y(mid)} r="4.5" fill="var(--color-marking)" />
      )}
      {turns && course.seated.high > 0 && (
        <path d={`M${x(0)} ${y(course.seated.high)}V${y(course.seated.low)}`} stroke="var(--color-ink)" strokeWidth="3" />
      )}
    </svg>
  );
}
