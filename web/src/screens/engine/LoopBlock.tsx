import { Link } from "@tanstack/react-router";
import { X } from "lucide-react";
import type { ReactNode } from "react";
import { say } from "../../shell/toast";
import { ChoiceCell, FieldCell, FigureCell, names, RowName, SetCell, TickCell, WordCell } from "./cells";
import type { Mode } from "./DriveEditor";
import { makeTensioner } from "./make";
import { type TabProps, useWanted } from "./rows";
import { capital, type Loop, type Stop, set, shownFigure } from "./sheet";
import { change, type SheetDraft } from "./useSheet";

/** LoopBlock is a belt or chain: what was typed, its route, and whether it closes. */
export function LoopBlock({ draft, loop, selected, onSelect, onMode }: TabProps & { loop: Loop; onMode: (m: Mode) => void }) {
  const { sheet, derived, findings } = draft.view;
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
  const box = useWanted(p);
  return (
    <RowName.Provider value={loop.name}>
      <section
        ref={box}
        className="mt-5"
        aria-label={loop.name}
        onFocus={(e) => !(e.target as HTMLElement).closest("tr") && selected !== p && onSelect(p)}
        data-on={selected === p}
        data-ref={p}
      >
        <div className="flex items-center gap-2 border-b border-ink pb-0.5">
          <h2 className="w-[150px] text-body">
            <WordCell draft={draft} path={`${p}/name`} label="Name" value={loop.name} needed />
          </h2>
          {d && (
            <p
              className={`min-w-0 flex-1 truncate text-small ${d.closes ? "text-ink-2" : "font-[600] text-clash"}`}
              title={d.says}
            >
              {d.closes
                ? d.most > d.least
                  ? `Closes; ${d.stretch.toFixed(1)} % of stretch can be taken up, ${d.ease.toFixed(1)} mm of ease to lay it on`
                  : "Closes"
                : capital(d.says)}
            </p>
          )}
          {draft.view.meta.editable && (
            <>
              <button
                type="button"
                className="button quiet slim"
                onClick={() => onMode({ do: "route", loop: loop.id, kind: loop.kind, wheels: [], stops: [] })}
              >
                Lead it again
              </button>
              <button
                type="button"
                className="button quiet slim !px-1"
                aria-label={`Remove the ${loop.name}`}
                onClick={(e) => {
                  e.currentTarget.closest("[role=tabpanel]")?.querySelector<HTMLElement>("[data-lead]")?.focus();
                  draft.save([{ path: p }]);
                  say(`The ${loop.name} is removed. Ctrl Z brings it back.`);
                }}
              >
                <X size={13} aria-hidden />
              </button>
            </>
          )}
        </div>
        <div className="cells-left grid grid-cols-[repeat(auto-fill,minmax(118px,1fr))] gap-x-4 gap-y-1 py-1.5">
          <Field name={capital(units)}>
            <FigureCell draft={draft} path={`${p}/teeth`} label={capital(units)} value={loop.teeth} whole least={1} />
          </Field>
          <Field name="Pitch, mm">
            <FigureCell draft={draft} path={`${p}/pitch`} label="Pitch, mm" value={loop.pitch} least={0} />
          </Field>
          <Field name="Standard">
            <FieldCell draft={draft} path={`${p}/standard`} label="Standard" value={loop.standard} none="none" />
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
              make={makeTensioner}
            />
          </Field>
          {(sheet.tensioners ?? []).length > 1 && (
            <Field name="Then also">
              <SetCell
                draft={draft}
                path={`${p}/then`}
                label="Then also tensioned by"
                value={loop.then}
                choices={names((sheet.tensioners ?? []).filter((t) => t.id !== loop.tensioner))}
              />
            </Field>
          )}
          <Field name="Laid first on">
            <ChoiceCell
              draft={draft}
              path={`${p}/starts`}
              label="Laid first on"
              value={loop.starts}
              choices={names(sheet.wheels.filter((w) => loop.route.some((r) => r.wheel === w.id)))}
              none="not said"
            />
          </Field>
          {loop.kind === "chain" && (
            <Field name="Half link">
              <TickCell draft={draft} path={`${p}/half`} label="Has a half link" value={loop.half} />
            </Field>
          )}
        </div>
        {d && d.path > 0 && <TakeUp d={d} units={units} />}
        {d && <Closings draft={draft} loop={loop} d={d} units={units} />}
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
              <th scope="col">
                <span className="sr-only">Order</span>
              </th>
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
                          route(
                            loop.route.map((v, k) => (k === i ? { ...v, side: v.side === "inside" ? "back" : "inside" } : v)),
                          );
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
                          className="button quiet slim !px-1"
                          aria-label={`${name(s.wheel)} earlier`}
                          onClick={() => swap(i, -1)}
                        >
                          ↑
                        </button>
                        <button
                          type="button"
                          className="button quiet slim !px-1"
                          aria-label={`${name(s.wheel)} later`}
                          onClick={() => swap(i, 1)}
                        >
                          ↓
                        </button>
                        <button
                          type="button"
                          className="button quiet slim !px-1"
                          aria-label={`Remove ${name(s.wheel)} from the route`}
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
          <p className="mt-1 text-small text-ink-2">
            Links between the marks:{" "}
            {d.links.map((k, i) => (
              <span key={k.mark}>
                {i > 0 && ", "}
                {k.name} <span className="font-mono">{k.says}</span>
                <span className={findings.some((f) => f.on === `marks/${k.mark}/link`) ? "text-clash" : ""}>
                  {" "}
                  (geometry {k.want.toFixed(1)})
                </span>
              </span>
            ))}
          </p>
        )}
        {d && d.wear.length > 0 && (
          <p className="mt-1 text-small text-ink-2">
            {d.worn}, by the run that pulls it:{" "}
            {d.wear.map((w) => `${w.shaft} ${w.of.toFixed(2)}° late (${w.crank.toFixed(2)}° crank)`).join(", ")}.
          </p>
        )}
        {d?.note && (
          <p className="mt-1 text-small text-ink-2">
            {d.note}.{" "}
            {d.pluck && (
              <Link to="/arithmetic" search={d.pluck} className="underline">
                Judge readings of it
              </Link>
            )}
          </p>
        )}
      </section>
    </RowName.Provider>
  );
}

type Derived = SheetDraft["view"]["derived"]["loops"][number];

/** Closings are the counts with which the loop closes where its wheels stand; where there are none, how far the roller would have to go for the nearest. */
function Closings({ draft, loop, d, units }: { draft: SheetDraft; loop: Loop; d: Derived; units: string }) {
  const others = d.closings.filter((c) => !(c.fits && c.teeth === loop.teeth));
  if (!draft.view.meta.editable || others.length === 0) return null;
  const fits = others.some((c) => c.fits);
  const p = `loops/${loop.id}`;
  const signed = (v: number) => `${v > 0 ? "+" : ""}${shownFigure(v)}`;
  return (
    <p className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1 text-small text-ink-2" data-closings>
      {fits ? (d.closes ? "Closes too with" : "Closes with") : "Closes with none as the wheels stand; the nearest:"}
      {others.map((c) => (
        <button
          key={c.teeth}
          type="button"
          className="button slim"
          onClick={() =>
            draft.save([
              ...(!c.fits && c.found ? [set(`wheels/${c.wheel}/x`, c.x), set(`wheels/${c.wheel}/y`, c.y)] : []),
              set(`${p}/teeth`, c.teeth),
            ])
          }
        >
          {c.teeth} {units}
          <span className="font-normal text-ink-2">
            {c.fits
              ? d.travel > 0
                ? `sits ${signed(c.sits)} of ±${d.travel}`
                : ""
              : c.found
                ? `moves the roller ${shownFigure(Math.abs(c.sits))} mm`
                : `${shownFigure(Math.abs(c.off))} mm too ${c.off > 0 ? "short" : "long"}`}
          </span>
        </button>
      ))}
    </p>
  );
}

function Field({ name, children }: { name: string; children: ReactNode }) {
  return (
    <div className="min-w-0">
      <div className="text-fine text-ink-2">{name}</div>
      {children}
    </div>
  );
}

/** TakeUp draws the way round from slack to tight, the loop's own length on it, and where the tensioner sits. */
function TakeUp({ d, units }: { d: Derived; units: string }) {
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
      <p className="font-mono text-small whitespace-nowrap">
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
