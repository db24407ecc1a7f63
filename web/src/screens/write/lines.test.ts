import { describe, expect, it, vi } from "vitest";
import { type Kept, type Line, Lines } from "./lines";

const memory = (first: Line[] = []): Kept & { now: () => Line[] } => {
  let at = first;
  return { load: () => at, save: (l) => (at = l), now: () => at };
};
const settle = () => new Promise((r) => setTimeout(r, 5));

describe("lines", () => {
  it("become steps in the order they were typed, each once, however late the answers", async () => {
    const made: string[] = [];
    const waits = [30, 1, 10];
    const l = new Lines<string>(
      memory(),
      async (line) => {
        await new Promise((r) => setTimeout(r, waits.shift() ?? 0));
        return line.text.toUpperCase();
      },
      (_, reading, after) => {
        made.push(`${reading} after ${after}`);
        return reading;
      },
      () => undefined,
    );
    l.add("one", "start");
    l.add("two", "elsewhere");
    l.add("three", "elsewhere");
    expect(l.waiting.map((w) => w.text)).toEqual(["one", "two", "three"]);
    await vi.waitFor(() => expect(made).toEqual(["ONE after start", "TWO after ONE", "THREE after TWO"]));
    expect(l.waiting).toEqual([]);
  });

  it("stay when the server does not answer, say why, and go out when it does", async () => {
    let up = false;
    const kept = memory();
    const made: string[] = [];
    const l = new Lines<string>(
      kept,
      async (line) => {
        if (!up) throw new Error("The server does not answer.");
        return line.text;
      },
      (_, r) => {
        made.push(r);
        return r;
      },
      () => undefined,
      5,
    );
    l.add("one", "");
    l.add("two", "");
    await settle();
    expect(l.why).toBe("The server does not answer.");
    expect(kept.now().map((k) => k.text)).toEqual(["one", "two"]);
    up = true;
    await vi.waitFor(() => expect(made).toEqual(["one", "two"]));
    expect(kept.now()).toEqual([]);
  });

  it("survive a reload and leave one that was taken out", async () => {
    const kept = memory([
      { key: "a", text: "one", after: "s1" },
      { key: "b", text: "two" },
    ]);
    const made: string[] = [];
    const l = new Lines<string>(
      kept,
      async (line) => line.text,
      (_, r, after) => {
        made.push(`${r} after ${after}`);
        return r;
      },
      () => undefined,
    );
    l.drop("a");
    l.start();
    await vi.waitFor(() => expect(made).toEqual(["two after "]));
  });
});
