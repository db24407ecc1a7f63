import { add } from "./rows";
import { fresh, type Sheet, type Wheel } from "./sheet";
import type { SheetDraft } from "./useSheet";

/** Things that are begun with a name that is typed over, and what little is known of them then. */
interface Beginning {
  tab: string;
  /** what one of them is called: “lock” */
  word: string;
  /** met is the wheel that is selected */
  value: (sheet: Sheet, met?: Wheel) => { name: string } & Record<string, unknown>;
}

export const beginnings = {
  shafts: { tab: "drive", word: "shaft", value: () => ({ name: "new shaft" }) },
  tensioners: { tab: "drive", word: "tensioner", value: () => ({ name: "new tensioner", method: "eccentric with pointer" }) },
  locks: {
    tab: "marks",
    word: "lock",
    value: (_, met) => ({ name: "new lock", kind: "pin", holds: [met?.shaft || "crank"], repeats: 1 }),
  },
  marks: {
    tab: "marks",
    word: "mark",
    value: (sheet, met) => ({ name: "new mark", kind: "timing", wheel: (met ?? sheet.wheels[0])?.id, at: 0 }),
  },
  readings: { tab: "marks", word: "reading", value: () => ({ name: "new reading" }) },
  fasteners: { tab: "fasteners", word: "fastener", value: () => ({ name: "new fastener", count: 1 }) },
  parts: { tab: "parts", word: "part", value: () => ({ name: "new part", kind: "component", policy: "goes back" }) },
  fluids: { tab: "parts", word: "fluid", value: () => ({ name: "new fluid" }) },
  tools: { tab: "parts", word: "tool", value: () => ({ number: "new", name: "new tool" }) },
  sources: { tab: "limits", word: "document", value: () => ({ number: "new", kind: "letter", name: "" }) },
} satisfies Record<string, Beginning>;

export type Begun = keyof typeof beginnings;

/** metWheel is the wheel that is selected on the drawing; what is placed is placed on it. */
export const metWheel = (sheet: Sheet, selected: string) => sheet.wheels.find((w) => `wheels/${w.id}` === selected);

/** begin puts a new thing on a list of the sheet, selects it and takes the keyboard to its name. */
export function begin(draft: SheetDraft, list: Begun, selected: string, onSelect: (ref: string) => void) {
  const { sheet } = draft.view;
  const b: Beginning = beginnings[list];
  const id = fresh(b.word, sheet[list] as { id: string }[] | undefined);
  add(draft, onSelect, list, id, b.value(sheet, metWheel(sheet, selected)));
}
