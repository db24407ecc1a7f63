import type { S } from "../../api/client";

export type Row = S["RedlineRow"];
export type Part = S["RedlinePart"];
export type Unread = Map<string, S["UnreadStep"]>;

/** Line is one line of the list: the title and preparation, a step, or a run of steps that are as they were. */
export type Line =
  | { is: "head"; key: ""; unread: boolean }
  | { is: "step"; key: string; row: Row }
  | { is: "fold"; key: string; rows: Row[]; unread: string[] };

/** linesOf are the lines of a redline: what changed, and what somebody spoke of, each by itself, the rest folded. */
export function linesOf(
  r: S["Redline"],
  unread: Unread,
  spoken: Set<string>,
  how: { same: boolean; unread: boolean; open: Set<string> },
): Line[] {
  const out: Line[] = [];
  if (r.header.length > 0 || unread.has("") || spoken.has("")) {
    if (!how.unread || unread.has("")) out.push({ is: "head", key: "", unread: unread.has("") });
  }
  for (let i = 0; i < r.rows.length; i++) {
    const row = r.rows[i];
    if (how.unread) {
      if (unread.has(row.step)) out.push({ is: "step", key: row.step, row });
      continue;
    }
    if (how.same || row.kind !== "same" || spoken.has(row.step)) {
      out.push({ is: "step", key: row.step, row });
      continue;
    }
    const run: Row[] = [];
    while (i < r.rows.length && r.rows[i].kind === "same" && !spoken.has(r.rows[i].step)) run.push(r.rows[i++]);
    i--;
    const key = `fold ${run[0].step}`;
    if (how.open.has(key)) out.push(...run.map((w) => ({ is: "step" as const, key: w.step, row: w })));
    else out.push({ is: "fold", key, rows: run, unread: run.filter((w) => unread.has(w.step)).map((w) => w.step) });
  }
  return out;
}

/** risk orders lines by what they can do to an engine: the head first, folds last. */
const risk = (l: Line) => (l.is === "head" ? -1 : l.is === "fold" ? 9 : l.row.risk);

/** stops are the lines that J and K go to, the gravest first: all but folds of which everything is read. */
export const stops = (lines: Line[], reads: boolean) =>
  lines
    .filter((l) => (l.is === "fold" ? reads && l.unread.length > 0 : l.is === "head" || l.row.kind !== "same" || reads))
    .map((l, i) => ({ l, i }))
    .sort((a, b) => risk(a.l) - risk(b.l) || a.i - b.i)
    .map(({ l }) => l);

/** folded are the steps a line stands for, now and before, from 0, as a chart beside the list wants them. */
export function folded(l: Line) {
  if (l.is === "head") return {};
  const rows = l.is === "fold" ? l.rows : [l.row];
  const now = rows.filter((r) => r.now).map((r) => (r.now ?? 0) - 1);
  const was = rows.filter((r) => r.was).map((r) => (r.was ?? 0) - 1);
  return { "data-now": now.join(" "), "data-was": was.join(" ") };
}

/** stepsOf are the steps of a line that there are to read. */
export const stepsOf = (l: Line): string[] => (l.is === "fold" ? l.unread : [l.key]);

const names: Record<Row["kind"], string> = {
  same: "as it was",
  changed: "changed",
  moved: "moved",
  new: "new",
  gone: "gone",
  split: "split",
  joined: "joined",
};

/** weighs names what became of a step by what it weighs: “order”, “value”, “new”. */
export function weighs(row: Row) {
  if (row.kind !== "changed" && row.kind !== "moved") return names[row.kind];
  const parts = [...new Set((row.parts ?? []).map((p) => p.weight))];
  const order = ["value", "order", "wording"];
  return order.filter((w) => parts.some((p) => p === w)).join(", ") || names[row.kind];
}

/** readWord says whether a step is read, in a word. */
export function readWord(u: S["UnreadStep"] | undefined, reads: boolean) {
  if (!reads) return "";
  if (!u) return "read";
  return u.why === "again" ? "to read again" : "not read yet";
}
