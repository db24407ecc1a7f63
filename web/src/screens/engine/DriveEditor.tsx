import { type KeyboardEvent, type PointerEvent, useEffect, useId, useMemo, useRef, useState } from "react";
import { fitted, Names, useSize } from "../../drawing/Drive";
import { Locks } from "../../drawing/Locks";
import { Covers, type Drawing, Shapes, shown } from "../../drawing/shapes";
import { useZoom } from "../../drawing/useZoom";
import { ZoomBar } from "../../drawing/ZoomBar";
import { say } from "../../shell/toast";
import { type Edit, type Stop, set } from "./sheet";
import type { SheetDraft } from "./useSheet";

/** Mode is what a click in the drawing does: move what is met, place a wheel where the cross stands, or lead a belt or chain. */
export type Mode =
  | { do: "move" }
  | { do: "wheel"; x: number; y: number }
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
  onPlace,
  selected,
  onSelect,
  marks,
}: {
  draft: SheetDraft;
  mode: Mode;
  onMode: (m: Mode) => void;
  /** places a wheel there, mm */
  onPlace: (x: number, y: number) => void;
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
  const panning = useRef<{ x: number; y: number; far: boolean }>(undefined);
  const hatch = useId();
  // While something is dragged the drawing keeps its size.
  const framed = useMemo(() => ({ ...view.drawing, box: box.current }), [view.drawing]);
  const { fit, px: whole, names } = fitted(framed, size, true);
  const zoom = useZoom(svg, fit);
  const px = whole / zoom.k;
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
    if (panning.current) {
      const by = { x: panning.current.x - e.clientX, y: panning.current.y - e.clientY };
      zoom.pan(by.x * px, by.y * px);
      panning.current = { x: e.clientX, y: e.clientY, far: panning.current.far || Math.hypot(by.x, by.y) > 2 };
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
    panning.current = undefined;
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
      onPlace(round(p.x, 1), round(-p.y, 1));
    } else if (mode.do === "move") {
      onSelect("");
      if (zoom.k > 1) {
        e.currentTarget.setPointerCapture(e.pointerId);
        panning.current = { x: e.clientX, y: e.clientY, far: false };
      }
    }
  };

  // What is selected is in sight when the drawing is looked at nearer.
  const see = picked && view.drawing.wheels.find((w) => w.id === picked);
  const { to, frame, k } = zoom;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another wheel brings the drawing along
  useEffect(() => {
    if (!see || k <= 1) return;
    const [fx, fy, fw, fh] = frame;
    if (see.x < fx || see.x > fx + fw || see.y < fy || see.y > fy + fh) to(see.x, see.y);
  }, [picked]);
  // Leading begins at a wheel that can be taken with Space.
  useEffect(() => {
    if (mode.do !== "route") return;
    svg.current?.querySelector<SVGElement>("[data-wheel]")?.focus();
  }, [mode.do]);

  const onKey = (e: KeyboardEvent) => {
    if (mode.do === "route") {
      if (e.key === "Backspace") onServe(mode.wheels.slice(0, -1));
      else return;
      e.preventDefault();
      return;
    }
    if (e.key === "+" || e.key === "-" || e.key === "0") {
      e.preventDefault();
      const met = picked && view.drawing.wheels.find((w) => w.id === picked);
      if (e.key === "0") zoom.whole();
      else zoom.by(e.key === "+" ? 1.4 : 1 / 1.4, met || undefined);
      return;
    }
    if (e.altKey) return; // that is the browser's own
    const step = e.shiftKey ? 10 : e.ctrlKey || e.metaKey ? 0.1 : 1;
    const way = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
    if (way && mode.do === "wheel") {
      e.preventDefault();
      onMode({ ...mode, x: round(mode.x + way[0] * step, 0.1), y: round(mode.y + way[1] * step, 0.1) });
      return;
    }
    if (e.key === "Enter" && mode.do === "wheel") {
      e.preventDefault();
      onPlace(mode.x, mode.y);
      return;
    }
    const m = marks && view.sheet.marks?.find((v) => `marks/${v.id}` === selected);
    if (way && m && editable) {
      e.preventDefault();
      const by = (way[0] + way[1]) * step;
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
      say(`The ${w.name} wheel is removed. Ctrl Z brings it back.`);
      svg.current?.querySelector<SVGElement>(`[data-wheel]:not([data-wheel="${CSS.escape(w.id)}"])`)?.focus();
    }
  };

  const bad = new Set(
    view.findings.filter((f) => f.severity !== "look").flatMap((f) => f.on.match(/^wheels\/([^/]+)/)?.[1] ?? []),
  );
  const stops = mode.do === "route" ? mode.stops : [];
  return (
    <>
      <svg
        ref={svg}
        viewBox={zoom.frame.join(" ")}
        className="h-full w-full touch-none outline-none"
        data-mode={mode.do}
        style={{ cursor: mode.do === "wheel" ? "crosshair" : zoom.k > 1 ? "grab" : undefined }}
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
        <Shapes drawing={drawing} angles={none} px={px} hatch={hatch} selected={picked} />
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
              aria-label={`${w.name} wheel, x ${w.x.toFixed(1)}, y ${(-w.y).toFixed(1)} mm${w.sized ? "" : ", diameter not known"}${sideOf(stops, w.id)}`}
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
        {marks && <Locks drawing={drawing} px={px} hatch={hatch} selected={selected} onSelect={onSelect} />}
        {mode.do !== "route" && <Names names={zoom.k > 1 && names === "side" ? "centre" : names} drawing={drawing} px={px} />}
        {mode.do === "wheel" && <Cross x={mode.x} y={-mode.y} px={px} />}
        {stops.map((s, i) => {
          const w = drawing.wheels.find((v) => v.id === s.wheel);
          return w && <Taken key={s.wheel} wheel={w} side={s.side} place={i + 1} px={px} />;
        })}
      </svg>
      <ZoomBar zoom={zoom} />
    </>
  );
}

/** sideOf says the side on which a wheel that is led over is met. */
function sideOf(stops: Stop[], wheel: string) {
  const i = stops.findIndex((s) => s.wheel === wheel);
  return i < 0 ? "" : `, taken as ${i + 1}, on the ${stops[i].side}`;
}

/** Taken is the place of a wheel in the route that is led, and its side, in a word. */
function Taken({ wheel, side, place, px }: { wheel: Drawing["wheels"][number]; side: string; place: number; px: number }) {
  const back = side === "back";
  return (
    <g transform={`translate(${wheel.x} ${wheel.y})`} pointerEvents="none">
      <circle
        r={10 * px}
        fill={back ? "var(--white)" : "var(--color-marking)"}
        stroke="var(--color-marking)"
        strokeWidth={1.5 * px}
      />
      <text
        textAnchor="middle"
        dy={4 * px}
        fontSize={11 * px}
        fontWeight="650"
        fill={back ? "var(--color-marking)" : "var(--white)"}
      >
        {place}
      </text>
      <text
        textAnchor="middle"
        dy={24 * px}
        fontSize={11.5 * px}
        fontWeight="600"
        fill="var(--color-marking)"
        stroke="var(--white)"
        strokeWidth={3 * px}
        paintOrder="stroke"
      >
        {side}
      </text>
    </g>
  );
}

/** Cross is where the next wheel would be placed. */
function Cross({ x, y, px }: { x: number; y: number; px: number }) {
  const a = 16 * px;
  return (
    <g stroke="var(--color-marking)" strokeWidth={1.6 * px} pointerEvents="none" data-cross>
      <path d={`M${x - a} ${y}H${x + a}M${x} ${y - a}V${y + a}`} />
      <circle cx={x} cy={y} r={7 * px} fill="none" />
    </g>
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
