import { begin } from "./begin";
import { ChoiceCell, FigureCell, WordCell, words } from "./cells";
import { Line } from "./Line";
import { Add, Out, Row, Rows, type TabProps } from "./rows";
import { capital, type Sheet } from "./sheet";
import type { SheetDraft } from "./useSheet";

/** LimitsTab is what a page is held against, and where the values come from. */
export function LimitsTab(tab: TabProps) {
  const { draft } = tab;
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
      <Documents {...tab} />
    </>
  );
}

/** Documents are what values come from: letters, drawings, standards, each with what stands in its place once it holds no more. */
function Documents({ draft, selected, onSelect }: TabProps) {
  const { sheet } = draft.view;
  const all = sheet.sources ?? [];
  return (
    <Rows
      caption="Documents"
      add={
        <Add draft={draft} onClick={() => begin(draft, "sources", selected, onSelect)}>
          Add a document
        </Add>
      }
      none={
        all.length === 0 &&
        "No letter, drawing or standard is listed. Listed once, it is chosen for every value that comes from it, and when another replaces it, all of them are found."
      }
      head={["Number", "Kind", "What it is about", "Issued by", "Date", "Replaced by", "Values", ""]}
    >
      {all.map((d) => {
        const p = `sources/${d.id}`;
        const rests = draft.view.derived.sources.filter((s) => s.in === d.id);
        return (
          <Row key={d.id} at={p} selected={selected} onSelect={onSelect}>
            <td className="min-w-[92px]">
              <WordCell draft={draft} path={`${p}/number`} label="Number" value={d.number} />
            </td>
            <td className="min-w-[104px]">
              <ChoiceCell draft={draft} path={`${p}/kind`} label="Kind" value={d.kind} choices={kinds} />
            </td>
            <td className="min-w-[150px]">
              <WordCell draft={draft} path={`${p}/name`} label="What it is about" value={d.name} />
            </td>
            <td className="min-w-[120px]">
              <WordCell draft={draft} path={`${p}/issuer`} label="Issued by" value={d.issuer} />
            </td>
            <td className="min-w-[88px]">
              <WordCell draft={draft} path={`${p}/on`} label="Date" value={d.on} empty="2024-02-12" />
            </td>
            <td className="min-w-[110px]">
              <ChoiceCell
                draft={draft}
                path={`${p}/replaced`}
                label="Replaced by"
                value={d.replaced}
                choices={cited(all.filter((o) => o.id !== d.id))}
                none="holds"
              />
            </td>
            <td className="text-small whitespace-nowrap text-ink-2" title={rests.map((r) => r.name).join(", ")}>
              {rests.length === 0 ? "none" : rests.length}
            </td>
            <Out draft={draft} path={p} name={d.number} />
          </Row>
        );
      })}
    </Rows>
  );
}

const kinds = words("letter", "bulletin", "drawing", "standard", "measurement");
const cited = (all: NonNullable<Sheet["sources"]>) => all.map((d) => ({ value: d.id, name: `${d.kind} ${d.number}` }));

/** Sources says where each safety-relevant value comes from; who said so, and when, is kept with it. */
function Sources({ draft }: { draft: SheetDraft }) {
  const documents = cited(draft.view.sheet.sources ?? []);
  return (
    <section className="mt-5">
      <h2 className="mb-1 text-body">Where the safety-relevant values come from</h2>
      <table className="sheet-table border-t border-ink">
        <tbody>
          {draft.view.derived.sources.map((t) => (
            <Line key={t.id} name={capital(t.name)} note={[t.by, t.on].filter(Boolean).join(", ")}>
              <span className="flex items-baseline gap-2">
                {documents.length > 0 && (draft.view.meta.editable || t.in) && (
                  <ChoiceCell
                    draft={draft}
                    path={`evidence/${t.id}/in`}
                    label={`Document of the ${t.name}`}
                    value={t.in}
                    choices={documents}
                    none={t.source ? "in words" : "none"}
                  />
                )}
                {t.in ? (
                  <WordCell
                    draft={draft}
                    path={`evidence/${t.id}/place`}
                    label={`Where in it, ${t.name}`}
                    value={t.place}
                    empty="table, sheet, page"
                  />
                ) : (
                  <WordCell
                    draft={draft}
                    path={`evidence/${t.id}/source`}
                    label={`Source of the ${t.name}`}
                    value={t.source}
                    empty="drawing, letter, measured at the bench…"
                  />
                )}
              </span>
            </Line>
          ))}
        </tbody>
      </table>
    </section>
  );
}
