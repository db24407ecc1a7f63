import { FindingItem } from "../../shell/FindingItem";
import type { SheetDraft } from "./useSheet";

/** SheetFindings lists what does not fit together on the sheet, each with its mends. */
export function SheetFindings({
  draft,
  at,
  onAt,
  onGo,
  onMend,
}: {
  draft: SheetDraft;
  at: number;
  onAt: (i: number) => void;
  onGo: (on: string) => void;
  onMend: (i: number, k?: number) => void;
}) {
  const { findings, meta } = draft.view;
  const under = (id: string) => findings.filter((f) => f.cause === id);
  const blocks = findings.filter((f) => f.severity === "blocks").length;
  return (
    <section
      aria-label="Findings"
      className={`flex max-h-[38%] flex-none flex-col border-t border-rule bg-film ${findings.length ? "h-[min(164px,40%)] lg:h-[164px]" : "min-h-[44px]"}`}
    >
      <div className="flex items-baseline justify-between px-3 pt-1.5 pb-1">
        <h2 className="text-body">
          {findings.length === 0
            ? "The engine sheet fits together"
            : `${findings.length} finding${findings.length === 1 ? "" : "s"}`}
        </h2>
        <span className={`text-small ${blocks ? "font-[650] text-clash" : "text-ink-2"}`}>
          {blocks ? `${blocks} keep${blocks === 1 ? "s" : ""} it out of use` : "nothing keeps it out of use"}
        </span>
      </div>
      <ul className="scroller min-h-0 flex-1 overflow-auto px-3 pb-2">
        {findings.map((f, i) =>
          f.cause && findings.some((c) => c.id === f.cause) ? null : (
            <FindingItem
              key={`${f.rule}${f.on}${f.what}`}
              finding={f}
              on={i === at}
              onGo={() => {
                onAt(i);
                onGo(f.on);
              }}
            >
              {under(f.id).length > 0 && (
                <details className="col-start-2 mt-1">
                  <summary className="cursor-pointer text-small text-ink-2">
                    and {under(f.id).length} thing{under(f.id).length === 1 ? " that follows" : "s that follow"}
                  </summary>
                  <ul className="mt-1 border-l border-rule pl-2">
                    {under(f.id).map((o) => (
                      <li key={o.id} className="py-0.5 text-small">
                        <button type="button" className="text-left text-ink-2" onClick={() => onGo(o.on)}>
                          {o.what}
                        </button>
                      </li>
                    ))}
                  </ul>
                </details>
              )}
              {meta.editable && (
                <span className="col-start-2 mt-1 flex flex-wrap gap-1.5">
                  {f.mends.map((m, k) => (
                    <button type="button" key={m.label} className="button" onClick={() => onMend(i, k)}>
                      {m.label}
                    </button>
                  ))}
                </span>
              )}
            </FindingItem>
          ),
        )}
      </ul>
    </section>
  );
}
