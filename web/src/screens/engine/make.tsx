import { useRef } from "react";
import { fresh, type Sheet, set } from "./sheet";
import type { SheetDraft } from "./useSheet";

/** brandNew is the choice of a thing that is not on the sheet yet. */
export const brandNew = "\u0000new";

/** Make is how a thing that is not on the sheet yet is made from the field that needs it. */
export interface Make {
  list: "tools" | "parts" | "shafts" | "fasteners" | "tensioners";
  /** what it is called: “tool” */
  word: string;
  /** what is typed, where that is not its name alone */
  hint?: string;
  value: (typed: string) => { name: string } & Record<string, unknown>;
}

/** makeTool reads “TL-301 crank pin” as a number and a name. */
export const makeTool: Make = {
  list: "tools",
  word: "tool",
  hint: "number and name",
  value: (t) => {
    const [number, ...rest] = t.split(/\s+/);
    return rest.length > 0 ? { number, name: rest.join(" ") } : { number, name: "new tool" };
  },
};

/** makePart makes a part of a kind that goes back. */
export const makePart = (kind: string, word = kind): Make => ({
  list: "parts",
  word,
  value: (name) => ({ name, kind, policy: "goes back" }),
});

/** makeShaft makes a shaft by its name alone; what it is for is asked for by the proof of the sheet. */
export const makeShaft: Make = { list: "shafts", word: "shaft", value: (name) => ({ name }) };

export const makeFastener: Make = { list: "fasteners", word: "fastener", value: (name) => ({ name, count: 1 }) };
export const makeTensioner: Make = {
  list: "tensioners",
  word: "tensioner",
  value: (name) => ({ name, method: "eccentric with pointer" }),
};

/** NewThing takes the name of a thing that is made from where it is needed. */
export function NewThing({
  draft,
  make,
  among = false,
  onDone,
}: {
  draft: SheetDraft;
  make: Make;
  /** whether it stands below a list to choose from: then it waits, and nothing typed changes nothing */
  among?: boolean;
  onDone: (id: string | undefined, edits: ReturnType<typeof set>[]) => void;
}) {
  const done = useRef(false);
  const keep = (typed: string) => {
    const text = typed.trim();
    if (done.current || (among && !text)) return;
    done.current = true;
    if (!text) return onDone(undefined, []);
    const value = make.value(text);
    const id = fresh(value.name, draft.view.sheet[make.list as keyof Sheet] as { id: string }[] | undefined);
    onDone(id, [set(`${make.list}/${id}`, { id, ...value })]);
  };
  return (
    <input
      autoFocus={!among}
      aria-label={`The new ${make.word}: ${make.hint ?? "name"}`}
      placeholder={make.hint ?? `name of the ${make.word}`}
      className="cell"
      onBlur={(e) => keep(e.target.value)}
      onKeyDown={(e) => {
        if (!(among && e.key === "Escape")) e.stopPropagation();
        if (e.key === "Enter") {
          e.preventDefault(); // the list that takes the keyboard next must not open by it
          keep(e.currentTarget.value);
        }
        if (e.key === "Escape" && !among) keep("");
      }}
    />
  );
}
