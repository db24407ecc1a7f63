import { type KeyboardEvent, type PointerEvent, useMemo, useRef, useState } from "react";
import { Labels, labelRoom, useSize } from "../../drawing/Drive";
import { Covers, type Drawing, Shapes, shown } from "../../drawing/shapes";
import { say } from "../../shell/toast";
import { type Edit, fresh, type Stop, set } from "./sheet";
import type { SheetDraft } from "./useSheet";

export type Mode =
  | { do: "move" }
  | { do: "wheel" }
  | { do: "route"; loop?: string; kind: "belt" | "chain"; wheels: string[]; stops: Stop[] };

const none = new Map<string, number>();
const round = (v: number, step: number) => Number((Math.round(v / step) * step).toFixed(2));

/** behind are the wheels that the selected part, or the part the selected bolt, lock or mark is behind, keeps from view. */
function behind({ sheet, drawing }: SheetDraft["view"], selected: string): Record<string, string> {
  const [list, id] = selected.split("/");
  const access = {
    fasteners: sheet.fasteners?.find((f) => f.id === id)?.access,
    locks: sheet.locks?.find((l) => l.id === id)?.access,
    marks: sheet.marks?.find((m) => m.id === id)?.behind,
    parts: id,
  }[list];
  const name = sheet.parts?.find((p) => p.id === access)?.name ?? "";
  return Object.fromEntries((drawing.behind[access ?? ""] ?? []).map((w) => [w, name]));
}

/** DriveEditor is the drawing one works in: wheels and marks are placed, dragged and nudged where they are. */
export function DriveEditor({
  draft,
  mode,
  onMode,
  onServe,
  selected,
  onSelect,
  marks,
}: {
  draft: SheetDraft;
  mode: Mode;
  onMode: (m: Mode) => void;
  /** takes wheels into the route that is being led, in the order they were taken */
  onServe: (wheels: string[]) => void;
  selected: string;
  onSelect: (ref: string) => void;
  /** whether marks, not wheels, are what is moved */
  marks: boolean;
}) {
  const { view } = draft;
  const svg = useRef<SVGSVGElement>(null);
  const size = useSize(svg);
  const box = useRef(view.drawing.box);
  const [moving, setMoving] = useState<{
    ids: string[];
    x: number;
    y: number;
    dx: number;
    dy: number;
    from: { x: number; y: number };
  }>();
  const [turning, setTurning] = useState<{ mark: string; clock: number }>();
  if (!moving && !turning) box.current = view.drawing.box;
  const [bx, by, bw, bh] = box.current;
  const named = !size || size.w > 400;
  const room = { ...(named ? labelRoom(view.drawing) : { left: 26, right: 26 }), top: 30, bottom: 34 };
  const scale = size
    ? Math.max(0.2, Math.min((size.h - room.top - room.bottom) / bh, (size.w - room.left - room.right) / bw, 4))
    : 1;
  const px = 1 / scale;
  const drawing = useMemo(() => shift(view.drawing, moving, turning), [view.drawing, moving, turning]);
  const editable = view.meta.editable;
  const byId = new Map(view.sheet.wheels.map((w) => [w.id, w]));
  const picked = selected.startsWith("wheels/") ? selected.slice(7) : undefined;

  const point = (e: { clientX: number; clientY: number }) => {
    const m = svg.current?.getScreenCTM();
    if (!m) return { x: 0, y: 0 };
    const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(m.inverse());
    return { x: p.x, y: p.y };
  };
  /** wheels on one shaft and one centre move together */
  const together = (id: string) => {
    const w = byId.get(id);
    if (!w?.shaft) return [id];
    return view.sheet.wheels.filter((v) => v.shaft === w.shaft && v.x === w.x && v.y === w.y).map((v) => v.id);
  };
  const placed = (ids: string[], x: number, y: number): Edit[] =>
    ids.flatMap((id) => [set(`wheels/${id}/x`, x), set(`wheels/${id}/y`, y)]);

  const onDown = (id: string) => (e: PointerEvent) => {
    if (e.button !== 0) return;
    e.stopPropagation();
    if (mode.do === "route") return serve(id);
    onSelect(`wheels/${id}`);
    const w = byId.get(id);
    if (!editable || !w || marks) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    const p = point(e);
    setMoving({ ids: together(id), x: w.x, y: w.y, dx: p.x - w.x, dy: -p.y - w.y, from: { x: w.x, y: w.y } });
  };
  const onMove = (e: PointerEvent) => {
    const p = point(e);
    if (turning) {
      const m = view.drawing.wheels.find((w) => w.marks.some((v) => v.id === turning.mark));
      if (!m) return;
      const step = e.shiftKey ? 5 : 0.5;
      const clock = (round((Math.atan2(p.x - m.x, -(p.y - m.y)) * 180) / Math.PI, step) + 360) % 360;
      if (clock === turning.clock) return;
      setTurning({ ...turning, clock });
      draft.preview([set(`marks/${turning.mark}/clock`, clock || undefined)]);
      return;
    }
    if (!moving) return;
    const step = e.shiftKey ? 1 : 0.1;
    const x = round(p.x - moving.dx, step);
    const y = round(-p.y - moving.dy, step);
    if (x === moving.x && y === moving.y) return;
    setMoving({ ...moving, x, y });
    draft.preview(placed(moving.ids, x, y));
  };
  const onUp = () => {
    if (turning) {
      draft.save([set(`marks/${turning.mark}/clock`, turning.clock || undefined)]);
      setTurning(undefined);
    }
    if (!moving) return;
    // What is shown may be a preview already; where the drag began is what counts.
    if (moving.x !== moving.from.x || moving.y !== moving.from.y) draft.save(placed(moving.ids, moving.x, moving.y));
    setMoving(undefined);
  };

  const serve = (id: string) => mode.do === "route" && onServe([...mode.wheels, id]);
  const onGround = (e: PointerEvent) => {
    if (mode.do === "wheel" && editable) {
      const p = point(e);
      const first = view.sheet.wheels.length === 0;
      const name = first ? "crank" : `wheel ${view.sheet.wheels.length + 1}`;
      const id = fresh(first ? "crank-wheel" : name, view.sheet.wheels);
      const value = first
        ? { id, name, shaft: "crank", mount: "keyed", teeth: 20, x: 0, y: 0 }
        : { id, name, mount: "idle", diameter: 40, x: round(p.x, 1), y: round(-p.y, 1) };
      draft.save([set(`wheels/${id}`, value)]);
      onSelect(`wheels/${id}`);
      onMode({ do: "move" });
    } else if (mode.do === "move") onSelect("");
  };

  const onKey = (e: KeyboardEvent) => {
    if (mode.do === "route") {
      if (e.key === "Backspace") onServe(mode.wheels.slice(0, -1));
      else return;
      e.preventDefault();
      return;
    }
    const step = e.shiftKey ? 10 : e.altKey ? 0.1 : 1;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    const m = marks && view.sheet.marks?.find((v) => `marks/${v.id}` === selected);
    if (way && m && editable) {
      e.preventDefault();
      const by = (way[0] + way[1]) * (e.shiftKey ? 10 : e.altKey ? 0.1 : 1);
      draft.nudge([
        set(
          `marks/${m.id}/clock`,
          round(((draft.aimed(`marks/${m.id}/clock`) ?? m.clock ?? 0) + by + 360) % 360, 0.1) || undefined,
        ),
      ]);
      return;
    }
    const w = picked && byId.get(picked);
    if (!w || !editable) return;
    if (way) {
      e.preventDefault();
      const x = draft.aimed(`wheels/${w.id}/x`) ?? w.x;
      const y = draft.aimed(`wheels/${w.id}/y`) ?? w.y;
      draft.nudge(placed(together(w.id), round(x + way[0] * step, 0.1), round(y + way[1] * step, 0.1)));
    } else if (e.key === "Delete") {
      e.preventDefault();
      draft.save([{ path: `wheels/${w.id}` }]);
      onSelect("");
      say(`The ${w.name} wheel is taken out. Ctrl+Z brings it back.`);
    }
  };

  const bad = new Set(
    view.findings.filter((f) => f.severity !== "look").flatMap((f) => f.on.match(/^wheels\/([^/]+)/)?.[1] ?? []),
  );
  const stops = mode.do === "route" ? mode.stops : [];
  const frame = [bx - room.left * px, by - room.top * px, bw + (room.left + room.right) * px, bh + (room.top + room.bottom) * px];
  return (
    <svg
      ref={svg}
      viewBox={frame.join(" ")}
      className="h-full w-full touch-none outline-none"
      data-mode={mode.do}
      style={{ cursor: mode.do === "wheel" ? "crosshair" : undefined }}
      preserveAspectRatio="xMidYMid meet"
      role="group"
      aria-label={`The drive of ${view.sheet.code}. Select a wheel and move it with the arrow keys.`}
      onPointerDown={onGround}
      onPointerMove={onMove}
      onPointerUp={onUp}
      onPointerCancel={onUp}
      onKeyDown={onKey}
    >
      {view.sheet.wheels.length > 0 && (
        <path d={view.drawing.casting} fill="var(--color-film)" stroke="var(--color-rule)" strokeWidth={px} />
      )}
      <Shapes drawing={drawing} angles={none} px={px} selected={picked} />
      <Covers wheels={shown(drawing)} covered={behind(view, selected)} px={px} />
      {shown(drawing).map((w) => (
        <g key={w.id}>
          {bad.has(w.id) && (
            <circle
              cx={w.x}
              cy={w.y}
              r={w.r + 5 * px}
              fill="none"
              stroke="var(--color-clash)"
              strokeWidth={1.6 * px}
              strokeDasharray={`${4 * px} ${3 * px}`}
            />
          )}
          <circle
            cx={w.x}
            cy={w.y}
            r={Math.max(w.r, 9 * px)}
            fill="transparent"
            tabIndex={0}
            role="button"
            aria-pressed={picked === w.id}
            aria-label={`${w.name} wheel, x ${w.x.toFixed(1)}, y ${(-w.y).toFixed(1)} mm`}
            data-wheel={w.id}
            className="outline-none focus-visible:[stroke-width:2] focus-visible:[stroke:var(--color-marking)]"
            style={{ cursor: editable && mode.do === "move" && !marks ? "move" : "pointer" }}
            onPointerDown={onDown(w.id)}
            onFocus={() => mode.do === "move" && !marks && onSelect(`wheels/${w.id}`)}
            onKeyDown={(e) => {
              if (mode.do === "route" && (e.key === " " || e.key === "Spacebar")) {
                e.preventDefault();
                serve(w.id);
              }
            }}
          />
        </g>
      ))}
      {marks &&
        shown(drawing).flatMap((w) =>
          w.marks.map((m) => {
            const on = selected === `marks/${m.id}`;
            return (
              <g key={m.id} transform={`translate(${w.x} ${w.y}) rotate(${m.clock})`}>
                <circle
                  cy={-w.r - 12 * px}
                  r={9 * px}
                  fill={on ? "var(--color-marking-wash)" : "transparent"}
                  stroke={on ? "var(--color-marking)" : "transparent"}
                  strokeWidth={1.5 * px}
                  tabIndex={0}
                  role="button"
                  aria-pressed={on}
                  aria-label={`${m.name}, ${m.clock}° from twelve o’clock`}
                  style={{ cursor: editable ? "grab" : "pointer" }}
                  onFocus={() => onSelect(`marks/${m.id}`)}
                  onPointerDown={(e) => {
                    e.stopPropagation();
                    onSelect(`marks/${m.id}`);
                    if (!editable) return;
                    e.currentTarget.setPointerCapture(e.pointerId);
                    setTurning({ mark: m.id, clock: m.clock });
                  }}
                />
              </g>
            );
          }),
        )}
      {marks && <Locks drawing={drawing} px={px} selected={selected} onSelect={onSelect} />}
      {stops.map((s, i) => {
        const w = drawing.wheels.find((v) => v.id === s.wheel);
        return (
          w && (
            <g key={s.wheel} transform={`translate(${w.x} ${w.y})`} pointerEvents="none">
              <circle
                r={10 * px}
                fill={s.side === "back" ? "var(--white)" : "var(--color-marking)"}
                stroke="var(--color-marking)"
                strokeWidth={1.5 * px}
              />
              <text
                textAnchor="middle"
                dy={4 * px}
                fontSize={11 * px}
                fontWeight="650"
                fill={s.side === "back" ? "var(--color-marking)" : "var(--white)"}
              >
                {i + 1}
              </text>
            </g>
          )
        );
      })}
      {named && <Labels drawing={drawing} px={px} />}
    </svg>
  );
}

/** Locks stand on the wheels of the shafts they hold: hatched where for position, open where for torque. */
function Locks({
  drawing,
  px,
  selected,
  onSelect,
}: {
  drawing: Drawing;
  px: number;
  selected: string;
  onSelect: (ref: string) => void;
}) {
  const at = new Map<string, number>();
  return (
    <>
      {drawing.locks.map((l) => {
        const w = drawing.wheels.find((v) => v.id === l.wheel);
        if (!w) return null;
        const n = at.get(w.id) ?? 0;
        at.set(w.id, n + 1);
        const on = selected === `locks/${l.id}`;
        return (
          <g key={`${l.id}/${l.wheel}`} transform={`translate(${w.x + (n * 17 - 7) * px} ${w.y - 7 * px})`}>
            <rect
              width={14 * px}
              height={14 * px}
              rx={2 * px}
              fill={l.position ? "var(--color-marking)" : "var(--white)"}
              stroke={on ? "var(--color-paint)" : "var(--color-marking)"}
              strokeWidth={(on ? 2.6 : 1.4) * px}
              tabIndex={0}
              role="button"
              aria-pressed={on}
              aria-label={`${l.name} on the ${w.label}`}
              style={{ cursor: "pointer" }}
              onFocus={() => onSelect(`locks/${l.id}`)}
              onPointerDown={(e) => {
                e.stopPropagation();
                onSelect(`locks/${l.id}`);
              }}
            >
              <title>{l.name}</title>
            </rect>
            <path
              d={`M${4.5 * px} ${6.4 * px}v${-1.4 * px}a${2.5 * px} ${2.5 * px} 0 0 1 ${5 * px} 0v${1.4 * px}M${3.5 * px} ${6.4 * px}h${7 * px}v${4.6 * px}h${-7 * px}z`}
              fill="none"
              stroke={l.position ? "var(--white)" : "var(--color-marking)"}
              strokeWidth={1.2 * px}
              pointerEvents="none"
            />
          </g>
        );
      })}
    </>
  );
}

/** shift shows what is being dragged at once, before the server has answered. */
function shift(d: Drawing, moving?: { ids: string[]; x: number; y: number }, turning?: { mark: string; clock: number }): Drawing {
  if (!moving && !turning) return d;
  return {
    ...d,
    wheels: d.wheels.map((w) => ({
      ...w,
      ...(moving?.ids.includes(w.id) ? { x: moving.x, y: -moving.y } : {}),
      marks: turning
        ? w.marks.map((m) => (m.id === turning.mark ? { ...m, clock: turning.clock, rest: m.rest + turning.clock - m.clock } : m))
        : w.marks,
    })),
  };
}
