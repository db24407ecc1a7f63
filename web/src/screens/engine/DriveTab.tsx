import { begin } from "./begin";
import { ChoiceCell, FieldCell, FigureCell, NameCell, names, TickCell } from "./cells";
import type { Mode } from "./DriveEditor";
import { LoopBlock } from "./LoopBlock";
import { makeShaft } from "./make";
import { reshape, reshapes } from "./reshape";
import { Add, add, Out, Row, Rows, type TabProps } from "./rows";
import { fresh } from "./sheet";
import { Tensioners } from "./Tensioners";
import type { SheetDraft } from "./useSheet";

/** DriveTab is wheels, belts and chains, shafts and gear pairs. */
export function DriveTab({
  draft,
  selected,
  onSelect,
  onMode,
  onPlace,
}: TabProps & { onMode: (m: Mode) => void; onPlace: () => void }) {
  const { sheet, derived, drawing, findings } = draft.view;
  return (
    <>
      <Rows
        caption="Wheels"
        add={
          <Add draft={draft} onClick={onPlace}>
            Place a wheel
          </Add>
        }
        head={[
          "Wheel",
          "Shaft",
          "Mount",
          { name: "Teeth", num: true },
          { name: "⌀ mm", num: true },
          { name: "x mm", num: true },
          { name: "y mm", num: true },
          { name: "Wraps", num: true, says: "The angle over which the belt or chain lies on it" },
          { name: "In mesh", num: true, says: "Teeth that carry the load" },
          "",
        ]}
      >
        {sheet.wheels.map((w) => {
          const p = `wheels/${w.id}`;
          const meets = derived.loops.flatMap((l) => l.wheels).find((v) => v.wheel === w.id);
          return (
            <Row key={w.id} at={p} selected={selected} onSelect={onSelect}>
              <NameCell draft={draft} path={p} value={w.name} width={104} />
              <td className="min-w-[112px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/shaft`}
                  label="Shaft"
                  value={w.shaft}
                  choices={names(sheet.shafts)}
                  none=""
                  make={makeShaft}
                />
              </td>
              <td className="min-w-[68px]">
                <FieldCell draft={draft} path={`${p}/mount`} label="Mount" value={w.mount} />
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
              <td className="derived num" data-bad={findings.some((f) => f.rule === "few-teeth" && f.on === p)}>
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
      <div className="mt-3 flex gap-1" data-lead tabIndex={-1}>
        <Add draft={draft} onClick={() => onMode({ do: "route", kind: "belt", wheels: [], stops: [] })}>
          Lead a belt
        </Add>
        <Add draft={draft} onClick={() => onMode({ do: "route", kind: "chain", wheels: [], stops: [] })}>
          Lead a chain
        </Add>
        <span className="ml-auto" />
        {draft.view.meta.editable &&
          reshapes.map(([how, name]) => (
            <button key={how} type="button" className="button quiet slim" onClick={() => reshape(draft, how)}>
              {name}
            </button>
          ))}
      </div>
      <Tensioners draft={draft} selected={selected} onSelect={onSelect} />
      <Rows
        caption="Shafts"
        add={
          <Add draft={draft} onClick={() => begin(draft, "shafts", selected, onSelect)}>
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
              <NameCell draft={draft} path={p} value={s.name} />
              <td>
                {s.id === "crank" ? (
                  "crank"
                ) : (
                  <FieldCell draft={draft} path={`${p}/kind`} label="Kind" value={s.kind} without="crank" none="not said" />
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
              onClick={() =>
                add(draft, onSelect, "gears", fresh("gears", sheet.gears), {
                  name: "gears",
                  driver: sheet.wheels[0].id,
                  driven: sheet.wheels[1].id,
                })
              }
            >
              Add a pair
            </Add>
          )
        }
        none={
          !sheet.gears?.length &&
          `None. ${sheet.loops.length ? "Every shaft hangs on a belt or chain." : "Lead a belt or chain, or pair two gears."}`
        }
        head={["Pair", "Driver", "Driven", { name: "Module", num: true }, { name: "Idlers", num: true }, "Inside a casing", ""]}
      >
        {(sheet.gears ?? []).map((g) => {
          const p = `gears/${g.id}`;
          return (
            <Row key={g.id} at={p} selected={selected} onSelect={onSelect}>
              <NameCell draft={draft} path={p} value={g.name} />
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
      </Rows>
    </>
  );
}

/** pitchDiameter is what teeth and pitch make of a wheel; a wheel that nothing lies on yet has no pitch. */
const pitchDiameter = (d: SheetDraft["view"]["drawing"], id: string) => {
  const w = d.wheels.find((v) => v.id === id);
  return !w ? "" : w.sized ? (w.r * 2).toFixed(1) : "not known";
};
