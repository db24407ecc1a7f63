import { Link } from "@tanstack/react-router";
import { FieldCell, FigureCell, QuantityCell, WordCell } from "./cells";
import { Line } from "./Line";
import type { TabProps } from "./rows";

/** EngineTab is what the engine is: everything else on the sheet is measured by it. */
export function EngineTab({ draft }: TabProps) {
  const { sheet, derived } = draft.view;
  return (
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
          <Line name="Cylinders">
            <FigureCell draft={draft} path="cylinders" label="Cylinders" value={sheet.cylinders} whole least={1} />
          </Line>
          <Line name="Cycle">
            <FieldCell draft={draft} path="cycle" label="Cycle" value={sheet.cycle} />
          </Line>
          <Line
            name="Firing order"
            note={
              sheet.firingOrder?.length
                ? `${sheet.firingOrder.length} of ${sheet.cylinders} cylinders`
                : "Each cylinder once, such as 1–3–4–2."
            }
          >
            <WordCell
              draft={draft}
              path="firingOrder"
              label="Firing order"
              value={sheet.firingOrder?.join("–")}
              reads={(t) => (t.match(/\d+/g) ?? []).map(Number)}
            />
          </Line>
          {(sheet.cylinders > 1 || sheet.firingAngles?.length) && (
            <Line
              name="Firing angles"
              note={
                sheet.firingAngles?.length
                  ? "Crank degrees from the first, in the firing order."
                  : "Crank degrees, such as 0, 270; empty where it fires evenly."
              }
            >
              <WordCell
                draft={draft}
                path="firingAngles"
                label="Firing angles"
                value={sheet.firingAngles?.join(", ")}
                reads={(t) => (t.match(/\d+(?:\.\d+)?/g) ?? []).map(Number)}
              />
            </Line>
          )}
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
          <Line name="Years" note="An open end stands for still made.">
            <span className="flex items-center gap-1">
              <FigureCell draft={draft} path="years/from" label="First year" value={sheet.years.from} whole />–
              <FigureCell draft={draft} path="years/to" label="Last year" value={sheet.years.to || undefined} whole empty="now" />
            </span>
          </Line>
          <Line name="Runs" note={sheet.view}>
            <FieldCell draft={draft} path="running" label="Runs" value={sheet.running} />
          </Line>
          <Line name="Seen from">
            <WordCell draft={draft} path="view" label="Seen from" value={sheet.view} needed />
          </Line>
          <Line name="Other end" note="A step may say a way round as it is seen from there.">
            <WordCell draft={draft} path="otherView" label="Other end" value={sheet.otherView} empty="flywheel end" />
          </Line>
          <Line name="Left and right">
            <WordCell draft={draft} path="sides" label="Left and right" value={sheet.sides} />
          </Line>
          <Line name="Valves meet pistons">
            <FieldCell draft={draft} path="interference" label="Valves meet pistons" value={sheet.interference} />
          </Line>
        </tbody>
      </table>
    </section>
  );
}
