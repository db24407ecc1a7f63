import type { S } from "../api/client";
import { type Drawing, sense, shown } from "./shapes";

/** Off is a shaft that stands otherwise than it should, degrees of it: above zero early. */
export type Off = S["DrillOff"];

/** Astray draws at each wheel that stands off where it should stand, and by how much it does not: what a lock still holds will be off once it is let go. */
export function Astray({ drawing, right, off, px }: { drawing: Drawing; right: S["StepState"]; off: Off[]; px: number }) {
  const cw = sense(drawing);
  const by = new Map(off.map((o) => [o.shaft, o]));
  const angles = new Map(right.shafts.map((s) => [s.id, s.angle]));
  return (
    <>
      {shown(drawing).map((v) => {
        const o = v.shaft ? by.get(v.shaft) : undefined;
        if (!o || v.teeth === 0 || Math.abs(o.degrees) < 0.05) return null;
        const rest = v.marks.find((m) => m.kind !== "look-alike")?.rest ?? 0;
        const from = rest + (angles.get(v.shaft) ?? 0) * cw;
        const to = from + o.degrees * cw;
        const r = Math.max(1, v.r - 4);
        const tone = "var(--color-clash)";
        return (
          <g key={v.id} transform={`translate(${v.x} ${v.y})`}>
            {!o.held && Math.abs(o.degrees) < 359 && <path d={sector(from, to, r)} fill={tone} fillOpacity={0.22} />}
            <path
              d={`M0 0L0 ${-r}`}
              transform={`rotate(${from})`}
              stroke="var(--color-held)"
              strokeWidth={1.6 * px}
              strokeDasharray={`${4 * px} ${3 * px}`}
            />
            {!o.held && <path d={`M0 0L0 ${-r}`} transform={`rotate(${to})`} stroke={tone} strokeWidth={1.8 * px} />}
            <text
              x={Math.min(v.r * 0.3, 22 * px)}
              y={-Math.min(v.r * 0.3, 22 * px)}
              fontSize={12 * px}
              fontWeight="650"
              fill={tone}
              stroke="var(--white)"
              strokeWidth={3.5 * px}
              strokeLinejoin="round"
              paintOrder="stroke"
            >
              {o.held ? "held" : degrees(o.degrees)}
            </text>
          </g>
        );
      })}
    </>
  );
}

/** degrees is an angle with its sign: 9° early is +9°. */
export const degrees = (v: number) => `${v < 0 ? "−" : "+"}${Math.abs(v).toFixed(1).replace(/\.0$/, "")}°`;

/** sector is the path of the part of a circle between two angles, degrees clockwise from twelve o’clock, the short way. */
export function sector(from: number, to: number, r: number) {
  const at = (deg: number) =>
    `${(r * Math.sin((deg * Math.PI) / 180)).toFixed(2)} ${(-r * Math.cos((deg * Math.PI) / 180)).toFixed(2)}`;
  const wide = Math.abs(to - from) > 180 ? 1 : 0;
  return `M0 0L${at(from)}A${r} ${r} 0 ${wide} ${to > from ? 1 : 0} ${at(to)}Z`;
}
