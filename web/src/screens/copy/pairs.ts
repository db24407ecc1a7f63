import type { S } from "../../api/client";

export type Pair = S["CopyPair"];

/** none is the answer that the other engine has no such thing */
export const none = "-";

/** grouped are the pairs by what they were when they were first seen, so that a row stays where it is once it is answered; what was asked and is proposed by now goes over. */
export function grouped(pairs: Pair[], first: Map<string, Pair["how"]>) {
  const out: Record<"asked" | "proposed" | "same", Pair[]> = { asked: [], proposed: [], same: [] };
  for (const p of pairs) {
    const key = `${p.list}/${p.id}`;
    if (p.how !== "said") first.set(key, p.how);
    const how = first.get(key) ?? "asked";
    out[how === "said" ? "asked" : how].push(p);
  }
  return out;
}

/** whichSteps says in which steps a thing is named: “steps 3, 7 and 9–11”. */
export function whichSteps(places: number[]) {
  if (places.length === 0) return "above the steps";
  const runs: [number, number][] = [];
  for (const p of places.map((n) => n + 1).sort((a, b) => a - b)) {
    const last = runs[runs.length - 1];
    if (last && last[1] === p - 1) last[1] = p;
    else runs.push([p, p]);
  }
  const said = runs.map(([a, b]) => (a === b ? `${a}` : b === a + 1 ? `${a}, ${b}` : `${a}–${b}`));
  return `${places.length === 1 ? "step" : "steps"} ${said.join(", ")}`;
}
