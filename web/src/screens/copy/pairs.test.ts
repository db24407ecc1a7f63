import { describe, expect, it } from "vitest";
import { grouped, type Pair, whichSteps } from "./pairs";

const pair = (id: string, how: Pair["how"]): Pair => ({ list: "locks", id, name: id, steps: [], how, apart: [], others: [] });

describe("grouped", () => {
  it("keeps a row where it was once it is answered", () => {
    const first = new Map<string, Pair["how"]>();
    grouped([pair("a", "asked"), pair("b", "proposed"), pair("c", "same")], first);
    const g = grouped([pair("a", "said"), pair("b", "said"), pair("c", "same")], first);
    expect(g.asked.map((p) => p.id)).toEqual(["a"]);
    expect(g.proposed.map((p) => p.id)).toEqual(["b"]);
    expect(g.same.map((p) => p.id)).toEqual(["c"]);
  });
  it("moves what is proposed by now", () => {
    const first = new Map<string, Pair["how"]>();
    grouped([pair("a", "asked")], first);
    expect(grouped([pair("a", "proposed")], first).proposed.map((p) => p.id)).toEqual(["a"]);
  });
  it("asks again what was answered before the window was opened", () => {
    expect(grouped([pair("a", "said")], new Map()).asked.length).toBe(1);
  });
});

describe("whichSteps", () => {
  it.each([
    [[], "above the steps"],
    [[0], "step 1"],
    [[0, 1], "steps 1, 2"],
    [[6, 2, 8, 9, 10], "steps 3, 7, 9–11"],
  ])("%j is %s", (places, says) => expect(whichSteps(places)).toBe(says));
});
