import { describe, expect, it } from "vitest";
import type { S } from "../../api/client";
import { type Line, linesOf, type Row, readWord, stepsOf, stops, weighs } from "./rows";

const row = (step: string, kind: Row["kind"] = "same", parts: [string, string][] = []): Row => ({
  kind,
  step,
  was: kind === "new" ? undefined : 1,
  now: kind === "gone" ? undefined : 1,
  risk: 2,
  parts: parts.map(([what, weight]) => ({ what, weight, opens: [] })) as Row["parts"],
});
const redline = (rows: Row[], header: S["RedlinePart"][] = []): S["Redline"] => ({
  header,
  rows,
  lists: [],
  sheet: [],
  counted: "",
});
const unread = (...steps: string[]) => new Map(steps.map((step) => [step, { step, why: "never" as const, what: [] }]));
const plain = { same: false, unread: false, open: new Set<string>() };
const keys = (lines: Line[]) => lines.map((l) => `${l.is} ${l.key}`.trim());

const rows = [row("a"), row("b"), row("c", "changed", [["note", "wording"]]), row("d"), row("e", "new"), row("f")];

describe("the lines of a review", () => {
  it("folds what is as it was and shows what changed", () => {
    expect(keys(linesOf(redline(rows), unread(), new Set(), plain))).toEqual([
      "fold fold a",
      "step c",
      "fold fold d",
      "step e",
      "fold fold f",
    ]);
  });
  it("opens a fold, and all of them", () => {
    const one = linesOf(redline(rows), unread(), new Set(), { ...plain, open: new Set(["fold a"]) });
    expect(keys(one).slice(0, 3)).toEqual(["step a", "step b", "step c"]);
    expect(linesOf(redline(rows), unread(), new Set(), { ...plain, same: true })).toHaveLength(6);
  });
  it("shows a step that somebody speaks of by itself", () => {
    expect(keys(linesOf(redline(rows), unread(), new Set(["b"]), plain))).toContain("step b");
  });
  it("has the title and preparation where they changed, are unread or are spoken of", () => {
    expect(linesOf(redline(rows), unread(), new Set(), plain)[0].is).toBe("fold");
    expect(linesOf(redline(rows), unread(""), new Set(), plain)[0].is).toBe("head");
    expect(linesOf(redline(rows), unread(), new Set([""]), plain)[0].is).toBe("head");
    const part = { what: "title", weight: "wording", opens: [] } as S["RedlinePart"];
    expect(linesOf(redline(rows, [part]), unread(), new Set(), plain)[0].is).toBe("head");
  });
  it("shows only what is not read, each by itself", () => {
    const lines = linesOf(redline(rows), unread("", "b", "e"), new Set(["c"]), { ...plain, unread: true });
    expect(keys(lines)).toEqual(["head", "step b", "step e"]);
    expect(linesOf(redline(rows, []), unread(), new Set(["c"]), { ...plain, unread: true })).toEqual([]);
  });
});

describe("what J and K stop at", () => {
  it("passes folds by that are read, and stops where there is something to read", () => {
    const lines = linesOf(redline(rows), unread("d"), new Set(), plain);
    expect(keys(stops(lines, true))).toEqual(["step c", "step e", "fold fold d"]);
  });
  it("goes to what can do most first, and to folds last", () => {
    const by = (r: Row, risk: number) => ({ ...r, risk });
    const lines = linesOf(
      redline([by(row("a", "changed"), 2), row("b"), by(row("c", "new"), 1), by(row("d", "gone"), 0), by(row("e", "gone"), 0)]),
      unread("b", ""),
      new Set(),
      plain,
    );
    expect(keys(stops(lines, true))).toEqual(["head", "step d", "step e", "step c", "step a", "fold fold b"]);
  });
  it("stops at changes alone where nothing is to be read", () => {
    const lines = linesOf(redline(rows), unread(), new Set(), { ...plain, same: true });
    expect(keys(stops(lines, false))).toEqual(["step c", "step e"]);
  });
  it("reads of a fold what is not read, and of a line itself", () => {
    const lines = linesOf(redline(rows), unread("b", ""), new Set(), plain);
    expect(stepsOf(lines[0])).toEqual([""]);
    expect(stepsOf(lines[1])).toEqual(["b"]);
    expect(stepsOf(lines[2])).toEqual(["c"]);
  });
});

describe("the words of a line", () => {
  it("names what became of a step by the heaviest first", () => {
    expect(
      weighs(
        row("a", "changed", [
          ["note", "wording"],
          ["caution", "value"],
        ]),
      ),
    ).toBe("value, wording");
    expect(weighs(row("a", "moved", [["place", "order"]]))).toBe("order");
    expect(weighs(row("a", "new"))).toBe("new");
    expect(weighs(row("a", "gone"))).toBe("gone");
  });
  it("says whether a step is read", () => {
    expect(readWord(undefined, true)).toBe("read");
    expect(readWord(undefined, false)).toBe("");
    expect(readWord({ step: "a", why: "never", what: [] }, true)).toBe("not read yet");
    expect(readWord({ step: "a", why: "again", what: ["note"] }, true)).toBe("to read again");
    expect(readWord({ step: "a", why: "gone", what: [] }, true)).toBe("not read yet");
  });
});
