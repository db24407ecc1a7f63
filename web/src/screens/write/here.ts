import type { S } from "../../api/client";
import type { Edit } from "./useDraft";

/** keepRows keeps the rows that say what they said, so that only the others are drawn again. */
export function keepRows(old: S["View"], view: S["View"]): S["View"] {
  const before = new Map(old.rows.map((r) => [r.step.id, r]));
  const rows = view.rows.map((r) => {
    const b = before.get(r.step.id);
    return b && b.severity === r.severity && b.sentence === r.sentence && JSON.stringify(b) === JSON.stringify(r) ? b : r;
  });
  return { ...view, rows };
}

/** applyHere makes edits on the rows at hand, so that they show at once; the server's view follows. */
export function applyHere(view: S["View"], edits: Edit[]): S["View"] {
  const rows = [...view.rows];
  const states = [...view.states];
  let header = view.header;
  const at = (id?: string) => rows.findIndex((r) => r.step.id === id);
  for (const e of edits) {
    if (e.op === "header" && e.header) header = e.header;
    else if (e.op === "set" && e.step) {
      const i = at(e.step.id);
      if (i >= 0) rows[i] = { ...rows[i], step: e.step };
    } else if (e.op === "remove") {
      const i = at(e.id);
      if (i >= 0) {
        rows.splice(i, 1);
        states.splice(i + 1, 1);
      }
    } else if (e.op === "insert" && e.step && at(e.step.id) < 0) {
      const i = e.after ? at(e.after) : -1;
      rows.splice(i + 1, 0, {
        step: e.step,
        spans: [{ kind: "text", text: plainText(e.step) }],
        value: "",
        sentence: "",
        crosses: false,
        clashes: [],
        backTo: -1,
        fails: -1,
        under: -1,
      });
      states.splice(i + 2, 0, states[i + 1]);
    } else if (e.op === "move") {
      const from = at(e.id);
      if (from < 0) continue;
      const [row] = rows.splice(from, 1);
      rows.splice(e.after ? at(e.after) + 1 : 0, 0, e.phase ? { ...row, step: { ...row.step, phase: e.phase } } : row);
    }
  }
  return { ...view, header, rows, states };
}

const plainText = (s: S["Step"]) => s.wording || (typeof s.text === "string" ? s.text : s.verb);
