import { Link } from "@tanstack/react-router";
import { Plus, X } from "lucide-react";
import type { ReactNode } from "react";
import { ChoiceCell, FigureCell, names, TickCell, WordCell, words } from "./cells";
import type { Mode } from "./DriveEditor";
import { capital, fresh, type Loop, type Stop, set, shownFigure } from "./sheet";
import { change, type SheetDraft } from "./useSheet";

interface TabProps {
  draft: SheetDraft;
  selected: string;
  onSelect: (ref: string) => void;
  onMode: (m: Mode) => void;
}

/** Rows is a table of things of the sheet; a row met is the thing selected. */
export function Rows({
  head,
  children,
  caption,
  add,
}: {
  head: (string | { name: string; num: true })[];
  children: ReactNode;
  caption: ReactNode;
  add?: ReactNode;
}) {
  return (
    <section className="mt-4 first:mt-3">
      <div className="mb-1 flex items-center gap-3">
        <h2 className="text-[13px]">{caption}</h2>
        {add}
      </div>
      <table className="sheet-table">
        <thead>
          <tr>
            {head.map((h, i) => (
              <th key={i} scope="col" className={typeof h === "string" ? undefined : "num"}>
                {typeof h === "string" ? h : h.name}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{children}</tbody>
      </table>
    </section>
  );
}

export function Row({
  at,
  selected,
  onSelect,
  children,
}: {
  at: string;
  selected: string;
  onSelect: (ref: string) => void;
  children: ReactNode;
}) {
  return (
    <tr data-on={selected === at} data-ref={at} onFocus={() => selected !== at && onSelect(at)} onClick={() => onSelect(at)}>
      {children}
    </tr>
  );
}

export function Out({ draft, path, name }: { draft: SheetDraft; path: string; name: string }) {
  if (!draft.view.meta.editable) return <td />;
  return (
    <td className="w-7 text-right">
      <button
        type="button"
        className="button quiet !min-h-[22px] !px-1"
        aria-label={`Take out the ${name}`}
        onClick={(e) => {
          e.stopPropagation();
          draft.save([{ path }]);
        }}
      >
        <X size={13} aria-hidden />
      </button>
    </td>
  );
}

export function Add({ draft, children, onClick }: { draft: SheetDraft; children: ReactNode; onClick: () => void }) {
  if (!draft.view.meta.editable) return null;
  return (
    <button type="button" className="button quiet !min-h-[22px]" onClick={onClick}>
      <Plus size={12} aria-hidden /> {children}
    </button>
  );
}

export function DriveTab({ draft, selected, onSelect, onMode }: TabProps) {
  const { sheet, derived, drawing } = draft.view;
  const label = drawing.loops.map((l) => l.name);
  return (
    <>
      <Rows
        caption="Wheels"
        add={
          <Add draft={draft} onClick={() => onMode({ do: "wheel" })}>
            Place a wheel
          </Add>
        }
        head={[
          "Wheel",
          "Shaft",
          "Mount",
          { name: "Teeth", num: true },
          { name: "⌀ mm", num: true },
          { name: "x mm", num: true },
          { name: "y mm", num: true },
          { name: "Wraps", num: true },
          { name: "In mesh", num: true },
          "",
        ]}
      >
        {sheet.wheels.map((w) => {
          const p = `wheels/${w.id}`;
          const meets = derived.loops.flatMap((l) => l.wheels).find((v) => v.wheel === w.id);
          return (
            <Row key={w.id} at={p} selected={selected} onSelect={onSelect}>
              <td className="min-w-[104px] font-[600]">
                <WordCell draft={draft} path={`${p}/name`} label="Name" value={w.name} needed />
              </td>
              <td className="min-w-[112px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/shaft`}
                  label="Shaft"
                  value={w.shaft}
                  choices={names(sheet.shafts)}
                  none=""
                />
              </td>
              <td className="min-w-[68px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/mount`}
                  label="Mount"
                  value={w.mount}
                  choices={words("keyed", "floating", "phaser", "idle", "rail")}
                />
              </td>
              <td className="num">
                <FigureCell draft={draft} path={`${p}/teeth`} label="Teeth" value={w.teeth} whole least={0} width="48px" />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/diameter`}
                  label="Diameter, mm"
                  value={w.diameter}
                  least={0}
                  width="52px"
                  empty={w.teeth ? pitchDiameter(drawing, w.id) : ""}
                />
              </td>
              <td className="num">
                <FigureCell draft={draft} path={`${p}/x`} label="x, mm" value={w.x} zero />
              </td>
              <td className="num">
                <FigureCell draft={draft} path={`${p}/y`} label="y, mm" value={w.y} zero />
              </td>
              <td className="derived num">{meets ? `${meets.wrap.toFixed(0)}°` : ""}</td>
              <td
                className="derived num"
                data-bad={meets && meets.inMesh > 0 && meets.inMesh < 6 && kindOf(draft, w.id) === "belt"}
              >
                {meets && meets.inMesh > 0 ? meets.inMesh.toFixed(1) : ""}
              </td>
              <Out draft={draft} path={p} name={`${w.name} wheel`} />
            </Row>
          );
        })}
      </Rows>
      {sheet.loops.map((l) => (
        <LoopBlock key={l.id} draft={draft} loop={l} selected={selected} onSelect={onSelect} onMode={onMode} />
      ))}
      <div className="mt-3 flex gap-1">
        <Add draft={draft} onClick={() => onMode({ do: "route", kind: "belt", stops: [] })}>
          Lead a belt
        </Add>
        <Add draft={draft} onClick={() => onMode({ do: "route", kind: "chain", stops: [] })}>
          Lead a chain
        </Add>
      </div>
      <Rows
        caption="Shafts"
        add={
          <Add
            draft={draft}
            onClick={() => {
              const id = fresh("shaft", sheet.shafts);
              draft.save([set(`shafts/${id}`, { id, name: "new shaft", kind: "pump" })]);
            }}
          >
            Add a shaft
          </Add>
        }
        head={[
          "Shaft",
          "Kind",
          "Bank",
          { name: "Turns per crank turn", num: true },
          "Turns",
          { name: "One tooth", num: true },
          { name: "Home every", num: true },
          "",
        ]}
      >
        {sheet.shafts.map((s) => {
          const d = derived.shafts.find((v) => v.id === s.id);
          const p = `shafts/${s.id}`;
          return (
            <Row key={s.id} at={p} selected={selected} onSelect={onSelect}>
              <td className="font-[600]">
                <WordCell draft={draft} path={`${p}/name`} label="Name" value={s.name} needed />
              </td>
              <td>
                {s.id === "crank" ? (
                  "crank"
                ) : (
                  <ChoiceCell
                    draft={draft}
                    path={`${p}/kind`}
                    label="Kind"
                    value={s.kind}
                    choices={words("inlet cam", "exhaust cam", "cam", "pump", "balance", "pickup")}
                  />
                )}
              </td>
              <td>
                <ChoiceCell draft={draft} path={`${p}/bank`} label="Bank" value={s.bank} choices={names(sheet.banks)} none="" />
              </td>
              <td className="derived num" data-bad={d?.ratio === "not driven"}>
                {d?.ratio}
              </td>
              <td className="derived">{d?.way}</td>
              <td className="derived num">{d?.tooth}</td>
              <td className="derived num">{d?.every ? `${d.every} turn${d.every === 1 ? "" : "s"}` : ""}</td>
              {s.id === "crank" ? <td /> : <Out draft={draft} path={p} name={s.name} />}
            </Row>
          );
        })}
      </Rows>
      <Rows
        caption="Gear pairs"
        add={
          sheet.wheels.length > 1 && (
            <Add
              draft={draft}
              onClick={() => {
                const id = fresh("gears", sheet.gears);
                draft.save([
                  set(`gears/${id}`, { id, name: "gears", driver: sheet.wheels[0].id, driven: sheet.wheels[1].id, module: 2 }),
                ]);
              }}
            >
              Add a pair
            </Add>
          )
        }
        head={["Pair", "Driver", "Driven", { name: "Module", num: true }, { name: "Idlers", num: true }, "Inside a casing", ""]}
      >
        {(sheet.gears ?? []).map((g) => {
          const p = `gears/${g.id}`;
          return (
            <Row key={g.id} at={p} selected={selected} onSelect={onSelect}>
              <td className="font-[600]">
                <WordCell draft={draft} path={`${p}/name`} label="Name" value={g.name} needed />
              </td>
              <td>
                <ChoiceCell draft={draft} path={`${p}/driver`} label="Driver" value={g.driver} choices={names(sheet.wheels)} />
              </td>
              <td>
                <ChoiceCell draft={draft} path={`${p}/driven`} label="Driven" value={g.driven} choices={names(sheet.wheels)} />
              </td>
              <td className="num">
                <FigureCell draft={draft} path={`${p}/module`} label="Module, mm" value={g.module} least={0} />
              </td>
              <td className="num">
                <FigureCell draft={draft} path={`${p}/idlers`} label="Idle gears between" value={g.idlers} whole least={0} />
              </td>
              <td>
                <TickCell draft={draft} path={`${p}/inside`} label="Inside a casing" value={g.inside} />
              </td>
              <Out draft={draft} path={p} name={g.name} />
            </Row>
          );
        })}
        {!sheet.gears?.length && (
          <tr>
            <td colSpan={7} className="text-ink-2">
              None. {label.length ? "Every shaft hangs on a belt or chain." : "Lead a belt or chain, or pair two gears."}
            </td>
          </tr>
        )}
      </Rows>
    </>
  );
}

const kindOf = (draft: SheetDraft, wheel: string) =>
  draft.view.sheet.loops.find((l) => l.route.some((s) => s.wheel === wheel))?.kind;

const pitchDiameter = (d: SheetDraft["view"]["drawing"], id: string) => {
  const w = d.wheels.find((v) => v.id === id);
  return w ? (w.r * 2).toFixed(1) : "";
};

/** LoopBlock is a belt or chain: what was typed, its route, and whether it closes. */
function LoopBlock({ draft, loop, selected, onSelect, onMode }: TabProps & { loop: Loop }) {
  const { sheet, derived } = draft.view;
  const d = derived.loops.find((v) => v.id === loop.id);
  const p = `loops/${loop.id}`;
  const units = loop.kind === "chain" ? "links" : "teeth";
  const name = (id: string) => sheet.wheels.find((w) => w.id === id)?.name ?? id;
  const route = (r: Stop[]) => change(draft, `${p}/route`, r);
  const swap = (i: number, by: number) => {
    const r = [...loop.route];
    const k = i + by;
    if (k < 0 || k >= r.length) return;
    [r[i], r[k]] = [r[k], r[i]];
    route(r);
  };
  return (
    <section className="mt-5" aria-label={loop.name} onFocus={() => onSelect(p)} data-on={selected === p}>
      <div className="flex items-center gap-2 border-b border-ink pb-0.5">
        <h2 className="w-[150px] text-[13px]">
          <WordCell draft={draft} path={`${p}/name`} label="Name" value={loop.name} needed />
        </h2>
        {d && (
          <p
            className={`min-w-0 flex-1 truncate text-[12px] ${d.closes ? "text-ink-2" : "font-[600] text-clash"}`}
            title={d.says}
          >
            {d.closes
              ? d.most > d.least
                ? `Closes; ${d.stretch.toFixed(1)} % of stretch can be taken up`
                : "Closes"
              : capital(d.says)}
          </p>
        )}
        {draft.view.meta.editable && (
          <>
            <button
              type="button"
              className="button quiet !min-h-[22px]"
              onClick={() => onMode({ do: "route", loop: loop.id, kind: loop.kind, stops: [] })}
            >
              Lead it again
            </button>
            <button
              type="button"
              className="button quiet !min-h-[22px] !px-1"
              aria-label={`Take out the ${loop.name}`}
              onClick={() => draft.save([{ path: p }])}
            >
              <X size={13} aria-hidden />
            </button>
          </>
        )}
      </div>
      <div className="cells-left grid grid-cols-[repeat(auto-fill,minmax(104px,1fr))] gap-x-4 gap-y-1 py-1.5">
        <Field name={capital(units)}>
          <FigureCell draft={draft} path={`${p}/teeth`} label={capital(units)} value={loop.teeth} whole least={1} />
        </Field>
        <Field name="Pitch, mm">
          <FigureCell draft={draft} path={`${p}/pitch`} label="Pitch, mm" value={loop.pitch} least={0} />
        </Field>
        <Field name="Standard">
          <ChoiceCell
            draft={draft}
            path={`${p}/standard`}
            label="Standard"
            value={loop.standard}
            choices={words("ISO 5296", "ISO 13050", "ISO 606")}
            none="none"
          />
        </Field>
        {loop.kind === "belt" && (
          <Field name="To back, mm">
            <FigureCell draft={draft} path={`${p}/thickness`} label="Pitch line to back, mm" value={loop.thickness} least={0} />
          </Field>
        )}
        <Field name="Mass, g/m">
          <FigureCell draft={draft} path={`${p}/mass`} label="Mass, g/m" value={loop.mass} least={0} />
        </Field>
        <Field name="Tensioner">
          <ChoiceCell
            draft={draft}
            path={`${p}/tensioner`}
            label="Tensioner"
            value={loop.tensioner}
            choices={names(sheet.tensioners)}
            none="none"
          />
        </Field>
      </div>
      {d && d.path > 0 && <TakeUp d={d} units={units} />}
      <table className="sheet-table mt-1">
        <thead>
          <tr>
            <th scope="col">Route, as it travels</th>
            <th scope="col">Side</th>
            <th scope="col">Turns</th>
            <th scope="col">Run to the next</th>
            <th scope="col" className="num">
              Free length
            </th>
            <th scope="col" />
          </tr>
        </thead>
        <tbody>
          {loop.route.map((s, i) => {
            const run = d?.runs[i];
            return (
              <tr key={s.wheel} data-on={selected === `wheels/${s.wheel}`} onClick={() => onSelect(`wheels/${s.wheel}`)}>
                <td className="font-[600]">{name(s.wheel)}</td>
                <td>
                  {draft.view.meta.editable ? (
                    <button
                      type="button"
                      className="cell text-left"
                      aria-label={`${name(s.wheel)} on the ${s.side}; turn it over`}
                      onClick={(e) => {
                        e.stopPropagation();
                        route(loop.route.map((v, k) => (k === i ? { ...v, side: v.side === "inside" ? "back" : "inside" } : v)));
                      }}
                    >
                      {s.side}
                    </button>
                  ) : (
                    s.side
                  )}
                </td>
                <td className="derived">{d?.wheels[i]?.way}</td>
                <td>
                  {run && (
                    <>
                      {run.to} <span className="text-ink-2">{run.role}</span>
                    </>
                  )}
                </td>
                <td className="derived num">{run ? `${run.length.toFixed(1)} mm` : ""}</td>
                <td className="w-[74px] text-right whitespace-nowrap">
                  {draft.view.meta.editable && (
                    <>
                      <button
                        type="button"
                        className="button quiet !min-h-[20px] !px-1"
                        aria-label={`${name(s.wheel)} earlier`}
                        onClick={() => swap(i, -1)}
                      >
                        ↑
                      </button>
                      <button
                        type="button"
                        className="button quiet !min-h-[20px] !px-1"
                        aria-label={`${name(s.wheel)} later`}
                        onClick={() => swap(i, 1)}
                      >
                        ↓
                      </button>
                      <button
                        type="button"
                        className="button quiet !min-h-[20px] !px-1"
                        aria-label={`Leave ${name(s.wheel)} out`}
                        onClick={() => route(loop.route.filter((_, k) => k !== i))}
                      >
                        <X size={12} aria-hidden />
                      </button>
                    </>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {d && d.links.length > 0 && (
        <p className="mt-1 text-[12px] text-ink-2">
          Links between the marks:{" "}
          {d.links.map((k, i) => (
            <span key={k.mark}>
              {i > 0 && ", "}
              {k.name} <span className="font-mono">{k.says}</span>
              <span className={Math.abs(k.says - k.want) > 0.5 ? "text-clash" : ""}> (geometry {k.want.toFixed(1)})</span>
            </span>
          ))}
        </p>
      )}
      {d && d.wear.length > 0 && (
        <p className="mt-1 text-[12px] text-ink-2">
          One per cent longer, by the run that pulls it:{" "}
          {d.wear.map((w) => `${w.shaft} ${w.of.toFixed(2)}° late (${w.crank.toFixed(2)}° crank)`).join(", ")}.
        </p>
      )}
      {d?.note && (
        <p className="mt-1 text-[12px] text-ink-2">
          {d.note}. <NoteLink draft={draft} loop={loop} d={d} />
        </p>
      )}
    </section>
  );
}

function Field({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="min-w-0">
      <div className="text-[11px] text-ink-2">{name}</div>
      {children}
    </div>
  );
}

/** TakeUp draws the way round from slack to tight, the loop's own length on it, and where the tensioner sits. */
function TakeUp({ d, units }: { d: SheetDraft["view"]["derived"]["loops"][number]; units: string }) {
  const moves = d.most - d.least > 0.05;
  const lo = Math.min(d.least, d.length) - d.pitch * 0.4;
  const hi = Math.max(d.most, d.length) + d.pitch * 0.4;
  const at = (v: number) => ((v - lo) / (hi - lo)) * 100;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-4">
      <svg viewBox="0 0 100 14" preserveAspectRatio="none" className="h-[18px] w-full" aria-hidden>
        <path d="M0 7H100" stroke="var(--color-rule)" strokeWidth="1" vectorEffect="non-scaling-stroke" />
        {moves && <rect x={at(d.least)} y="3" width={at(d.most) - at(d.least)} height="8" fill="var(--color-held-wash)" />}
        <path d={`M${at(d.path)} 2V12`} stroke="var(--color-ink-3)" strokeWidth="1" vectorEffect="non-scaling-stroke" />
        <path
          d={`M${at(d.length)} 0V14`}
          stroke={d.closes ? "var(--color-held)" : "var(--color-clash)"}
          strokeWidth="3"
          vectorEffect="non-scaling-stroke"
        />
      </svg>
      <p className="font-mono text-[12px] whitespace-nowrap">
        <span className={d.closes ? "" : "text-clash"}>{d.length.toFixed(1)} mm</span>
        <span className="text-ink-2">
          {" "}
          {d.teeth} {units}; way round {moves ? `${d.least.toFixed(1)} to ${d.most.toFixed(1)}` : d.path.toFixed(1)}
          {moves && d.closes && `; sits ${d.sits > 0 ? "+" : ""}${shownFigure(d.sits)} of ±${d.travel}`}
        </span>
      </p>
    </div>
  );
}

/** NoteLink goes on to the readings of the run that the sheet names. */
function NoteLink({ draft, loop, d }: { draft: SheetDraft; loop: Loop; d: SheetDraft["view"]["derived"]["loops"][number] }) {
  const f = draft.view.sheet.tensioners?.find((t) => t.id === loop.tensioner)?.frequency;
  const name = (id?: string) => draft.view.sheet.wheels.find((w) => w.id === id)?.name;
  const i = f
    ? loop.route.findIndex((s, k) => {
        const next = loop.route[(k + 1) % loop.route.length].wheel;
        return (s.wheel === f.from && next === f.to) || (s.wheel === f.to && next === f.from);
      })
    : -1;
  const note = f?.note.match(/^([\d.]+)(?: ±([\d.]+))?/);
  if (!f || i < 0 || !note) return null;
  return (
    <Link
      to="/arithmetic"
      search={{ length: d.runs[i].length, mass: loop.mass, note: Number(note[1]), tolerance: Number(note[2] ?? 5) }}
      className="underline"
      aria-label={`Judge readings of the run ${name(f.from)} to ${name(f.to)}`}
    >
      Judge readings of it
    </Link>
  );
}
