import { Link } from "@tanstack/react-router";
import type { ReactNode } from "react";
import { ChoiceCell, FigureCell, NameCell, names, QuantityCell, SetCell, WordCell, words } from "./cells";
import { Add, Out, Row, Rows, type TabProps } from "./rows";
import { capital, fresh, set } from "./sheet";
import type { SheetDraft } from "./useSheet";

function Line({ name, children, note }: { name: string; children: ReactNode; note?: ReactNode }) {
  return (
    <tr>
      <th scope="row" className="w-[230px] !border-rule !text-body !font-normal !text-ink">
        {name}
      </th>
      <td className="w-[320px]">{children}</td>
      <td className="text-small text-ink-2">{note}</td>
    </tr>
  );
}

export function LimitsTab({ draft, selected, onSelect }: TabProps) {
  const { sheet, derived } = draft.view;
  return (
    <>
      <section className="mt-3">
        <h2 className="mb-1 text-body">The engine</h2>
        <table className="sheet-table cells-left border-t border-ink">
          <tbody>
            <Line name="Maker">
              <WordCell draft={draft} path="maker" label="Maker" value={sheet.maker} needed />
            </Line>
            <Line name="Used in">
              <WordCell draft={draft} path="use" label="Used in" value={sheet.use} />
            </Line>
            <Line name="Years" note="An open end stands for still made.">
              <span className="flex items-center gap-1">
                <FigureCell draft={draft} path="years/from" label="First year" value={sheet.years.from} whole />–
                <FigureCell
                  draft={draft}
                  path="years/to"
                  label="Last year"
                  value={sheet.years.to || undefined}
                  whole
                  empty="now"
                />
              </span>
            </Line>
            <Line name="Cylinders">
              <FigureCell draft={draft} path="cylinders" label="Cylinders" value={sheet.cylinders} whole least={1} />
            </Line>
            <Line name="Cycle">
              <ChoiceCell
                draft={draft}
                path="cycle"
                label="Cycle"
                value={sheet.cycle}
                choices={words("four-stroke", "two-stroke")}
              />
            </Line>
            <Line name="Firing order">
              <WordCell
                draft={draft}
                path="firingOrder"
                label="Firing order"
                value={sheet.firingOrder?.join("–")}
                reads={(t) => (t.match(/\d+/g) ?? []).map(Number)}
              />
            </Line>
            <Line name="Runs" note={sheet.view}>
              <ChoiceCell
                draft={draft}
                path="running"
                label="Runs"
                value={sheet.running}
                choices={words("clockwise", "counterclockwise")}
              />
            </Line>
            <Line name="Seen from">
              <WordCell draft={draft} path="view" label="Seen from" value={sheet.view} needed />
            </Line>
            <Line name="Left and right">
              <WordCell draft={draft} path="sides" label="Left and right" value={sheet.sides} />
            </Line>
            <Line name="Valves meet pistons">
              <ChoiceCell
                draft={draft}
                path="interference"
                label="Valves meet pistons"
                value={sheet.interference}
                choices={words("yes", "no", "unknown")}
              />
            </Line>
            <Line name="Bore">
              <QuantityCell draft={draft} path="bore" label="Bore" value={sheet.bore} empty="82 mm" />
            </Line>
            <Line name="Stroke">
              <QuantityCell draft={draft} path="stroke" label="Stroke" value={sheet.stroke} empty="85 mm" />
            </Line>
            <Line
              name="Connecting rod"
              note={
                derived.piston.length > 0 && (
                  <>
                    The piston stands{" "}
                    {derived.piston
                      .slice(0, 4)
                      .map((p) => `${p.drop.toFixed(2)} mm down at ${p.deg}°`)
                      .join(", ")}
                    .{" "}
                    <Link to="/arithmetic" className="underline" search={{ stroke: derived.stroke, rod: derived.rod }}>
                      Find TDC by equal drops
                    </Link>
                  </>
                )
              }
            >
              <QuantityCell draft={draft} path="rod" label="Connecting rod" value={sheet.rod} empty="138 mm" />
            </Line>
          </tbody>
        </table>
      </section>
      <section className="mt-5">
        <h2 className="mb-1 text-body">Limits</h2>
        <table className="sheet-table cells-left border-t border-ink">
          <tbody>
            <Line name="Greatest cam error passed, °">
              <FigureCell
                draft={draft}
                path="limits/camError"
                label="Greatest cam error, degrees"
                value={sheet.limits.camError}
                least={0}
              />
            </Line>
            <Line name="Safe window, loop off, ±° crank" note="Beyond it, with the belt or chain off, pistons may meet valves.">
              <FigureCell
                draft={draft}
                path="limits/safeWindow"
                label="Safe window, degrees"
                value={sheet.limits.safeWindow}
                least={0}
              />
            </Line>
            <Line name="Rest position, ° after TDC" note="The cams rest there without being thrown by their springs.">
              <FigureCell draft={draft} path="limits/rest" label="Rest position, degrees" value={sheet.limits.rest} />
            </Line>
            <Line
              name="Top dead centre, ° crank"
              note="Where number one is at the top, firing; nothing where that is the timing position."
            >
              <FigureCell draft={draft} path="limits/tdc" label="Top dead centre, degrees" value={sheet.limits.tdc} />
            </Line>
            <Line name="Allowed back-off, °" note="How far the crank may be turned backwards to seat a tool.">
              <FigureCell
                draft={draft}
                path="limits/backOff"
                label="Allowed back-off, degrees"
                value={sheet.limits.backOff}
                least={0}
              />
            </Line>
          </tbody>
        </table>
      </section>
      <Rows
        caption="Tensioners"
        add={
          <Add
            draft={draft}
            onClick={() => {
              const id = fresh("tensioner", sheet.tensioners);
              draft.save([set(`tensioners/${id}`, { id, name: "new tensioner", method: "eccentric with pointer", travel: 5 })]);
            }}
          >
            Add a tensioner
          </Add>
        }
        head={[
          "Tensioner",
          "Method",
          "Wheel it moves",
          { name: "± mm", num: true },
          { name: "Moves °", num: true },
          "Pin",
          "Turned",
          "Bolts",
          { name: "Settle", num: true },
          "Wait",
          "Note",
          "",
        ]}
      >
        {(sheet.tensioners ?? []).map((t) => {
          const p = `tensioners/${t.id}`;
          return (
            <Row key={t.id} at={p} selected={selected} onSelect={onSelect}>
              <NameCell draft={draft} path={p} value={t.name} width={100} />
              <td className="min-w-[120px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/method`}
                  label="Method"
                  value={t.method}
                  choices={words(
                    "eccentric with pointer",
                    "over-tension, settle, set",
                    "hydraulic with pin",
                    "spring arm",
                    "ratchet plunger",
                    "frequency",
                    "pre-load by torque",
                    "fixed",
                  )}
                />
              </td>
              <td className="min-w-[80px]">
                <ChoiceCell
                  draft={draft}
                  path={`${p}/wheel`}
                  label="Wheel"
                  value={t.wheel}
                  choices={names(sheet.wheels)}
                  none=""
                />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/travel`}
                  label="Travel either side, mm"
                  value={t.travel}
                  least={0}
                  width="40px"
                />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/moves`}
                  label="Way it moves, degrees from twelve o’clock"
                  value={t.moves}
                  width="44px"
                  empty="auto"
                />
              </td>
              <td>
                <ChoiceCell
                  draft={draft}
                  path={`${p}/pin`}
                  label="Pin"
                  value={t.pin}
                  choices={(sheet.tools ?? []).map((v) => ({ value: v.id, name: v.number }))}
                  none=""
                />
              </td>
              <td>
                <ChoiceCell
                  draft={draft}
                  path={`${p}/turn`}
                  label="Turned"
                  value={t.turn}
                  choices={words("clockwise", "counterclockwise")}
                  none=""
                />
              </td>
              <td className="max-w-[100px]">
                <SetCell draft={draft} path={`${p}/bolts`} label="Bolts" value={t.bolts} choices={names(sheet.fasteners)} />
              </td>
              <td className="num">
                <FigureCell
                  draft={draft}
                  path={`${p}/settle`}
                  label="Turns to settle"
                  value={t.settle}
                  whole
                  least={0}
                  width="36px"
                />
              </td>
              <td>
                <QuantityCell draft={draft} path={`${p}/wait`} label="Wait" value={t.wait} width="60px" />
              </td>
              <td>
                {t.frequency && (
                  <QuantityCell draft={draft} path={`${p}/frequency/note`} label="Note" value={t.frequency.note} width="84px" />
                )}
              </td>
              <Out draft={draft} path={p} name={t.name} />
            </Row>
          );
        })}
      </Rows>
      <Sources draft={draft} />
    </>
  );
}

/** Sources says where each safety-relevant value comes from; who said so, and when, is kept with it. */
function Sources({ draft }: { draft: SheetDraft }) {
  return (
    <section className="mt-5">
      <h2 className="mb-1 text-body">Where the safety-relevant values come from</h2>
      <table className="sheet-table border-t border-ink">
        <tbody>
          {draft.view.derived.sources.map((t) => (
            <Line key={t.id} name={capital(t.name)} note={[t.by, t.on].filter(Boolean).join(", ")}>
              <WordCell
                draft={draft}
                path={`evidence/${t.id}/source`}
                label={`Source of the ${t.name}`}
                value={t.source}
                empty="drawing, letter, measured at the bench…"
              />
            </Line>
          ))}
        </tbody>
      </table>
    </section>
  );
}
