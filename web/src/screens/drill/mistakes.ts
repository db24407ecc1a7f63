import type { S } from "../../api/client";

export type Mistake = S["DrillMistake"];
export type Filter = "open" | "needed" | "not" | "force" | "late" | "may" | "kept" | "caught" | "all";

const bad = (m: Mistake) => !m.good && !m.accepted;

/** filters are the parts of a drill that can be looked at by themselves. */
export const filters: Record<Filter, { name: string; of: (m: Mistake) => boolean }> = {
  open: { name: "Gets through", of: bad },
  needed: { name: "Needed", of: (m) => m.missed },
  not: { name: "Not caught", of: (m) => m.outcome === "not caught" },
  force: { name: "By force", of: (m) => m.outcome === "by force" },
  late: { name: "Late", of: (m) => m.outcome === "late" },
  may: { name: "Perhaps", of: (m) => bad(m) && m.seen.length > 0 && !m.seen.some((l) => l.sure) },
  kept: { name: "Accepted", of: (m) => m.accepted !== "" },
  caught: { name: "Caught", of: (m) => m.outcome === "caught" || m.outcome === "stopped" },
  all: { name: "All", of: () => true },
};

/** grouped are the rows of the matrix: each family that has any, those a page needs to catch first, and its mistakes under it. */
export function grouped(d: S["Drilled"], filter: Filter) {
  const rows: { family: S["DrillFamily"]; mistake?: Mistake; bad: number; all: number }[] = [];
  for (const family of [...d.families.filter((f) => f.needed), ...d.families.filter((f) => !f.needed)]) {
    const of = d.mistakes.filter((m) => m.family === family.id);
    const shown = of.filter(filters[filter].of);
    if (shown.length === 0) continue;
    const head = { family, bad: of.filter(bad).length, all: of.length };
    rows.push(head);
    for (const mistake of shown) rows.push({ ...head, mistake });
  }
  return rows;
}

/** outcomeWords is an outcome in words, with the step that shows it first. */
export function outcomeWords(m: Mistake, long = false) {
  const first = m.seen.find((l) => l.sure);
  switch (m.outcome) {
    case "caught":
      return long ? `caught at step ${first?.number}` : `step ${first?.number}`;
    case "stopped":
      return long ? `stopped at step ${first?.number}: it cannot be done` : `step ${first?.number}`;
    case "late":
      return first && long ? `late: it shows at step ${first.number} only` : "late";
    case "absorbed":
      return long ? "absorbed" : "no harm";
    case "not caught":
      if (m.seen.length === 0) return "not caught";
      return long ? "perhaps noticed, perhaps not" : "perhaps";
  }
  return long ? "by force: what it breaks shows it" : "by force";
}
