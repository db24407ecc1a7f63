import { useEffect, useRef } from "react";
import type { Mode } from "./DriveEditor";
import { type EngineView, figure, shownFigure } from "./sheet";
import type { SheetDraft } from "./useSheet";

/** Bar is the line over the drawing: what is being done and how, or what is selected. */
export function Bar({
  draft,
  mode,
  onMode,
  onLead,
  onPlace,
  onLeave,
  selected,
}: {
  draft: SheetDraft;
  mode: Mode;
  onMode: (m: Mode) => void;
  onLead: () => void;
  onPlace: (x: number, y: number) => void;
  onLeave: () => void;
  selected: string;
}) {
  const { view } = draft;
  if (mode.do === "wheel") return <Placing mode={mode} onMode={onMode} onPlace={onPlace} onLeave={onLeave} />;
  if (mode.do === "route")
    return (
      <div className="flex min-h-9 flex-none flex-wrap items-center gap-x-2 bg-marking-wash px-3 py-1 text-small">
        <p className="min-w-0 flex-1" aria-live="polite">
          Take the wheels as the {mode.kind} travels, from the driver on: click, or Tab and <span className="key">Space</span>.
          Again turns one over, <span className="key">⌫</span> takes the last back.{" "}
          {/* Its line is there from the start: the drawing must not move away under a pointer that takes the next wheel. */}
          <span className="block min-h-[17px] font-[600]">
            {mode.stops.length > 0 && `${mode.stops.length} so far, the last on its ${mode.stops[mode.stops.length - 1].side}.`}
          </span>
        </p>
        <button type="button" className="button slim" disabled={mode.stops.length < 2} onClick={onLead}>
          That is the route <span className="key">Enter</span>
        </button>
        <button type="button" className="button quiet slim" onClick={onLeave}>
          Cancel <span className="key">Esc</span>
        </button>
      </div>
    );
  return (
    <p className="flex h-9 flex-none items-center px-3 text-small text-ink-2">
      <span className="truncate">{saidOf(view, selected)}</span>
      <Others draft={draft} />
      {view.meta.editable && view.sheet.wheels.length > 0 && (
        <span className="ml-auto hidden pl-3 whitespace-nowrap min-[1500px]:inline">
          <span className="key">←</span> <span className="key">↑</span> 1 mm, <span className="key">Shift</span> 10,{" "}
          <span className="key">Ctrl</span> 0.1
        </span>
      )}
    </p>
  );
}

/** Others says who else is at the sheet, and at what. */
function Others({ draft }: { draft: SheetDraft }) {
  const all = Object.values(draft.others);
  if (all.length === 0) return null;
  return (
    <span role="status" className="ml-auto truncate pl-3 font-[600] text-ink">
      {all.map((o) => (o.step ? `${o.name} is at ${thingOf(draft.view, o.step)}` : `${o.name} is here`)).join(", ")}
    </span>
  );
}

/** thingOf names a place of the sheet: a thing by its name, or the list it stands in. */
function thingOf(view: EngineView, place: string) {
  const [list, id] = place.split("/");
  const things = (view.sheet as unknown as Record<string, { id?: string; name?: string }[] | undefined>)[list];
  const thing = Array.isArray(things) ? things.find((t) => t.id === id) : undefined;
  return thing?.name ? `the ${thing.name}` : list;
}

/** Placing is where the next wheel goes: figures, arrow keys, or a click in the drawing. */
function Placing({
  mode,
  onMode,
  onPlace,
  onLeave,
}: {
  mode: Extract<Mode, { do: "wheel" }>;
  onMode: (m: Mode) => void;
  onPlace: (x: number, y: number) => void;
  onLeave: () => void;
}) {
  const first = useRef<HTMLInputElement>(null);
  useEffect(() => first.current?.select(), []);
  const field = (key: "x" | "y") => (
    <label className="flex items-center gap-1">
      {key}
      <input
        ref={key === "x" ? first : undefined}
        aria-label={`${key} of the wheel’s centre, mm`}
        className="field slim !w-[72px] text-right font-mono text-small"
        defaultValue={shownFigure(mode[key])}
        key={mode[key]}
        autoFocus={key === "x"}
        onBlur={(e) => {
          const v = figure(e.target.value);
          if (v !== undefined && !Number.isNaN(v) && v !== mode[key]) onMode({ ...mode, [key]: v });
        }}
        onKeyDown={(e) => {
          e.stopPropagation();
          const v = figure(e.currentTarget.value);
          if (e.key === "Escape") onLeave();
          else if (e.key === "Enter" && v !== undefined && !Number.isNaN(v)) {
            e.preventDefault();
            onPlace(key === "x" ? v : mode.x, key === "y" ? v : mode.y);
          } else if (e.key === "ArrowUp" || e.key === "ArrowDown") {
            e.preventDefault();
            const by = (e.key === "ArrowUp" ? 1 : -1) * (e.shiftKey ? 10 : 1);
            onMode({ ...mode, [key]: (v === undefined || Number.isNaN(v) ? mode[key] : v) + by });
            const name = e.currentTarget.getAttribute("aria-label");
            requestAnimationFrame(() => document.querySelector<HTMLElement>(`[aria-label="${name}"]`)?.focus());
          }
        }}
      />
    </label>
  );
  return (
    <div className="flex min-h-9 flex-none flex-wrap items-center gap-2 bg-marking-wash px-3 py-1 text-small">
      <span>The wheel’s centre, mm:</span>
      {field("x")}
      {field("y")}
      <button type="button" className="button slim" onClick={() => onPlace(mode.x, mode.y)}>
        Place it <span className="key">Enter</span>
      </button>
      <span className="text-ink-2">or click in the drawing</span>
      <button type="button" className="button quiet ml-auto slim" onClick={onLeave}>
        Cancel <span className="key">Esc</span>
      </button>
    </div>
  );
}

/** saidOf is the selected thing in a line. */
function saidOf(view: EngineView, selected: string) {
  const [list, id] = selected.split("/");
  if (list === "wheels") {
    const w = view.sheet.wheels.find((v) => v.id === id);
    if (!w) return "";
    const meets = view.derived.loops.flatMap((l) => l.wheels).find((v) => v.wheel === id);
    const kind = view.sheet.loops.find((l) => l.route.some((s) => s.wheel === id))?.kind;
    const sized = view.drawing.wheels.find((v) => v.id === id)?.sized;
    const minus = (n: number) => n.toFixed(1).replace("-", "−");
    const lies = meets
      ? `; the ${kind} lies on ${meets.wrap.toFixed(0)}° of it`
      : sized
        ? ""
        : "; its diameter is not known until a belt or chain lies on it or it is typed";
    return `${w.name}: x ${minus(w.x)}, y ${minus(w.y)} mm${lies}`;
  }
  if (list === "marks") {
    const m = view.sheet.marks?.find((v) => v.id === id);
    return m ? `${m.name}: pointer ${m.clock ?? 0}° from twelve o’clock` : "";
  }
  if (list === "locks") {
    const l = view.sheet.locks?.find((v) => v.id === id);
    return l ? `${l.name}: ${l.kind}` : "";
  }
  return `Seen from the ${view.sheet.view}`;
}
