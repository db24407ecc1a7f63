import type { ReactNode } from "react";
import type { S } from "../../api/client";
import { Things } from "./Things";
import type { Draft } from "./useDraft";

type Standing = S["Standing"];

export const whole = (s: Standing) => Object.values(s).every((v) => !v?.length);

/** the lists of a standing, by what they are called and the kind of thing in them */
const stands: { key: keyof Standing; label: string; kinds: string[] }[] = [
  { key: "off", label: "off", kinds: ["part"] },
  { key: "loopsOff", label: "belts or chains off", kinds: ["loop"] },
  { key: "in", label: "locks in", kinds: ["lock"] },
  { key: "onto", label: "stops met", kinds: ["lock"] },
  { key: "slack", label: "slack", kinds: ["fastener"] },
  { key: "pinned", label: "pinned", kinds: ["tensioner"] },
  { key: "relieved", label: "relieved", kinds: ["tensioner"] },
  { key: "unproved", label: "not turned yet", kinds: ["loop"] },
  { key: "drained", label: "drained", kinds: ["fluid"] },
  { key: "marks", label: "marks standing", kinds: ["mark"] },
];

/** PartOfJob says how the engine stands at both ends of a page that is not a whole job, and which pages it stands between. */
export function PartOfJob({
  draft,
  begins,
  ends,
  onBegins,
  onEnds,
  text,
  open,
}: {
  draft: Draft;
  begins: Standing;
  ends: Standing;
  onBegins: (s: Standing) => void;
  onEnds: (s: Standing) => void;
  text: (name: string, label: string, value?: string) => ReactNode;
  open: boolean;
}) {
  const h = draft.view.header;
  const before = draft.meta.beside.filter((b) => b.says);
  const picks = (s: Standing, on: (s: Standing) => void) => (
    <div className="flex flex-wrap gap-1.5">
      {stands.map(({ key, label, kinds }) => (
        <Things
          key={key}
          label={label}
          all={draft.drawing.things}
          kinds={kinds}
          several
          value={s[key] ?? []}
          onChange={(v) => on({ ...s, [key]: v.length ? v : undefined })}
        />
      ))}
    </div>
  );
  return (
    <details className="mb-2.5 border-t border-rule pt-2" open={open}>
      <summary className="cursor-pointer font-[650]">Part of a job</summary>
      <p className="mt-1 mb-2 text-small text-ink-2">
        A page that goes on from another, or that another goes on from, says how it finds the engine and how it leaves it. A whole
        job says nothing here.
      </p>
      {text("after", "Goes on from the page", h.after)}
      <p className="label">Begins with</p>
      {picks(begins, onBegins)}
      {before.map((b) => (
        <button
          key={b.revision}
          type="button"
          className="button mt-1.5 mr-1.5 slim"
          onClick={(e) => {
            onBegins(b.ends);
            const field = e.currentTarget.form?.elements.namedItem("after") as HTMLInputElement | null;
            if (field) field.value = b.title;
          }}
        >
          As “{b.title}” ends
        </button>
      ))}
      <div className="mt-3">{text("before", "Is gone on from by the page", h.before)}</div>
      <p className="label">Ends with</p>
      {picks(ends, onEnds)}
      <button type="button" className="button mt-1.5 mr-1.5 slim" onClick={() => onEnds(draft.view.last)}>
        As the last step leaves it
      </button>
      {!whole(ends) && (
        <button type="button" className="button quiet mt-1.5 slim" onClick={() => onEnds({})}>
          Everything on and tight
        </button>
      )}
    </details>
  );
}
