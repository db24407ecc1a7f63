import { useQuery } from "@tanstack/react-query";
import { createContext, useContext } from "react";
import { api, ask, type S } from "../../api/client";
import { sheetFields } from "../../api/queries";
import { Pattern } from "../../drawing/Pattern";
import { say } from "../../shell/toast";
import { BoltDepth } from "./BoltDepth";
import { ChoiceCell, FigureCell, names, QuantityCell, SetCell, TickCell, WordCell, words } from "./cells";
import { type Sheet, set } from "./sheet";
import type { SheetDraft } from "./useSheet";

/** Working is the sheet that is worked at, for rows that show more of their thing. */
export const Working = createContext<SheetDraft | undefined>(undefined);

/** columns are the values that the tables have columns for; everything else of a thing stands under its row while it is selected. */
const columns: Record<string, string[]> = {
  wheels: ["name", "shaft", "mount", "teeth", "diameter"],
  shafts: ["name", "kind", "bank"],
  gears: ["name", "driver", "driven", "idlers", "module", "inside"],
  marks: ["name", "kind", "wheel", "loop", "at", "clock", "link", "pointer", "look", "shows"],
  locks: ["name", "kind", "holds", "repeats", "play", "carriesTorque", "tool", "access", "playMM", "radius"],
  tensioners: ["name", "method", "wheel", "travel", "moves", "pin", "turn", "bolts", "settle", "wait", "frequency/note"],
  fasteners: [
    "name",
    "count",
    "thread",
    "class",
    "across",
    "spec",
    "pattern",
    "lubricant",
    "onShaft",
    "holdWith",
    "singleUse",
    "leftHand",
  ],
  parts: ["name", "kind", "policy", "if", "held", "after", "seal", "needs"],
  readings: ["name", "value", "place", "shaft", "gear", "loop", "part", "behind", "tool"],
  fluids: ["name", "amount", "grade", "drain"],
  tools: ["number", "name", "kit"],
};

type Thing = { id: string; name?: string };

/** Details are the values of a thing that its table has no column for. */
export function Details({ at }: { at: string }) {
  const draft = useContext(Working);
  const { data } = useQuery(sheetFields);
  const [list, id] = at.split("/");
  const shown = columns[list];
  if (!draft || !data || !shown) return null;
  const things = (draft.view.sheet[list as keyof Sheet] ?? []) as Thing[];
  const thing = things.find((t) => t.id === id);
  const fields = data.filter((f) => f.list === list && !shown.includes(f.key));
  if (!thing || fields.length === 0) return null;
  return (
    <tr data-details>
      <td colSpan={20} className="!pt-0 !pb-2">
        <dl className="cells-left under-row flex flex-wrap gap-x-5 gap-y-1.5 border-l-2 border-marking bg-film py-1.5 pr-2 pl-3">
          {fields.map((f) => (
            <div key={f.key} className="min-w-[120px]">
              <dt className="text-fine text-ink-2">{f.label}</dt>
              <dd>
                <Value draft={draft} field={f} path={`${at}/${f.key}`} value={valueAt(thing, f.key)} />
              </dd>
            </div>
          ))}
          {list === "fasteners" && ((thing as S["Fastener"]).places ?? []).length > 0 && (
            <div>
              <dt className="text-fine text-ink-2">Order</dt>
              <dd>
                <Pattern places={(thing as S["Fastener"]).places ?? []} name={thing.name ?? "bolts"} width={180} />
                {draft.view.meta.editable && <Numbering draft={draft} fastener={thing as S["Fastener"]} />}
              </dd>
            </div>
          )}
        </dl>
        {list === "fasteners" && <BoltDepth draft={draft} fastener={thing as S["Fastener"]} />}
      </td>
    </tr>
  );
}

/** Numbering puts the bolts in the order of a pattern, and says the pattern on the sheet. */
function Numbering({ draft, fastener }: { draft: SheetDraft; fastener: S["Fastener"] }) {
  const number = async (pattern: (typeof patterns)[number]) => {
    try {
      const places = await ask(api.POST("/api/arithmetic/pattern", { body: { places: fastener.places ?? [], pattern } }));
      draft.save([set(`fasteners/${fastener.id}/places`, places), set(`fasteners/${fastener.id}/pattern`, pattern)]);
    } catch (e) {
      say((e as Error).message);
    }
  };
  return (
    <div className="flex flex-wrap gap-1 pt-1" role="group" aria-label="Number the bolts">
      {patterns.map((p) => (
        <button key={p} type="button" className="button quiet slim" onClick={() => number(p)}>
          {p}
        </button>
      ))}
    </div>
  );
}

const patterns = ["crosswise", "from the middle out", "alternating"] as const;

const valueAt = (thing: unknown, key: string) =>
  key.split("/").reduce<unknown>((v, k) => (v as Record<string, unknown> | undefined)?.[k], thing);

/** Value is a cell for any value of the sheet, by how its field says it is typed. */
function Value({ draft, field, path, value }: { draft: SheetDraft; field: S["SheetField"]; path: string; value: unknown }) {
  // A hint must not pass for a value: it says that it is one, and only where something can be typed.
  const p = { draft, path, label: field.label, empty: draft.view.meta.editable && field.hint ? `e.g. ${field.hint}` : undefined };
  const of = field.of
    ? ((draft.view.sheet[field.of as keyof Sheet] ?? []) as { id: string; name: string; number?: string }[])
    : [];
  const named = of.map((t) => ({ id: t.id, name: t.number ? `${t.number} ${t.name}` : t.name }));
  switch (field.kind) {
    case "tick":
      return <TickCell {...p} value={value as boolean | undefined} />;
    case "figure":
    case "whole":
      return (
        <FigureCell
          {...p}
          value={value as number | undefined}
          whole={field.kind === "whole"}
          least={field.kind === "whole" ? 0 : undefined}
        />
      );
    case "quantity":
      return <QuantityCell {...p} value={value as string | undefined} width="110px" />;
    case "line":
      return <QuantityCell {...p} value={draft.view.derived.texts[path] ?? ""} width="260px" />;
    case "choice":
      return <ChoiceCell {...p} value={value as string | undefined} choices={words(...(field.choices ?? []))} none="" />;
    case "one":
      return <ChoiceCell {...p} value={value as string | undefined} choices={names(named)} none="" />;
    case "several":
      return <SetCell {...p} value={value as string[] | undefined} choices={names(named)} />;
    default:
      return <WordCell {...p} value={value as string | undefined} />;
  }
}
