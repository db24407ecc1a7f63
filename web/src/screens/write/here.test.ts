import { describe, expect, test } from "vitest";
import type { S } from "../../api/client";
import { applyHere, keepRows } from "./here";
import type { Edit } from "./useDraft";

const row = (id: string, note?: string) =>
  ({
    step: { id, phase: "prepare", verb: "do", text: id, note },
    spans: [{ kind: "text", text: id }],
    value: "",
    sentence: `${id}.`,
    crosses: false,
    clashes: [],
  }) as unknown as S["Row"];

const view = (...ids: string[]) =>
  ({
    version: 1,
    header: { title: "x", engine: "TQ4-18P" },
    rows: ids.map((id) => row(id)),
    states: [-1, ...ids.keys()],
    chart: [],
    findings: [],
    blocking: 0,
  }) as unknown as S["View"];

const ids = (v: S["View"]) => v.rows.map((r) => r.step.id).join("");
const step = (id: string, note?: string) => row(id, note).step;

test("does not put in twice what the server has already", () => {
  const step = { id: "x", phase: "prepare", verb: "do", text: "look" } as unknown as S["Step"];
  const edits: Edit[] = [{ op: "insert", after: "", step }];
  const once = applyHere({ rows: [], states: [], header: {} } as unknown as S["View"], edits);
  expect(applyHere(once, edits).rows.map((r) => r.step.id)).toEqual(["x"]);
});

describe("edits shown before the server answers", () => {
  test.each([
    ["at the top", [{ op: "insert", after: "", step: step("x") }], "xabc"],
    ["after one", [{ op: "insert", after: "b", step: step("x") }], "abxc"],
    [
      "one after another",
      [
        { op: "insert", after: "a", step: step("x") },
        { op: "insert", after: "x", step: step("y") },
      ],
      "axybc",
    ],
    ["taken out", [{ op: "remove", id: "b" }], "ac"],
    [
      "taken out twice",
      [
        { op: "remove", id: "b" },
        { op: "remove", id: "b" },
      ],
      "ac",
    ],
    ["moved down", [{ op: "move", id: "a", after: "c" }], "bca"],
    ["moved up", [{ op: "move", id: "c", after: "a" }], "acb"],
    ["moved to the top", [{ op: "move", id: "c", after: "" }], "cab"],
    ["moved, but gone", [{ op: "move", id: "z", after: "a" }], "abc"],
    ["set, but gone", [{ op: "set", step: step("z") }], "abc"],
  ] as [string, Edit[], string][])("%s", (_, edits, want) => {
    const before = view("a", "b", "c");
    const after = applyHere(before, edits);
    expect(ids(after)).toBe(want);
    expect(ids(before)).toBe("abc");
    expect(after.states).toHaveLength(after.rows.length + 1);
  });

  test("a step that is set keeps its place and takes what it says", () => {
    const v = applyHere(view("a", "b"), [{ op: "set", step: step("b", "mind the clip") }] as Edit[]);
    expect(v.rows[1].step.note).toBe("mind the clip");
    expect(ids(v)).toBe("ab");
  });

  test("a step moved into another phase says so", () => {
    const v = applyHere(view("a", "b"), [{ op: "move", id: "a", after: "b", phase: "close" }] as Edit[]);
    expect(v.rows[1].step.phase).toBe("close");
  });

  test("a header that is set stands", () => {
    const v = applyHere(view("a"), [{ op: "header", header: { title: "y", engine: "TQ4-18P" } }] as unknown as Edit[]);
    expect(v.header.title).toBe("y");
  });
});

describe("rows that say what they said", () => {
  test("are the same objects, and only those", () => {
    const old = view("a", "b", "c");
    const now = view("a", "b", "c");
    now.rows[1] = row("b", "mind the clip");
    const kept = keepRows(old, now);
    expect(kept.rows[0]).toBe(old.rows[0]);
    expect(kept.rows[1]).toBe(now.rows[1]);
    expect(kept.rows[2]).toBe(old.rows[2]);
  });

  test("are kept where others come and go", () => {
    const old = view("a", "b");
    const kept = keepRows(old, view("x", "b", "a"));
    expect(kept.rows[1]).toBe(old.rows[1]);
    expect(kept.rows[2]).toBe(old.rows[0]);
  });
});
