import { FigureCell, WordCell } from "./cells";
import { Line } from "./Line";
import type { TabProps } from "./rows";
import { capital } from "./sheet";
import type { SheetDraft } from "./useSheet";

/** LimitsTab is what a page is held against, and where the values come from. */
export function LimitsTab({ draft }: TabProps) {
  const { sheet } = draft.view;
  return (
    <>
      <section className="mt-3">
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
            <Line
              name="Safe window, belt or chain off, ±° crank"
              note="Beyond it, with the belt or chain off, pistons may meet valves."
            >
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
