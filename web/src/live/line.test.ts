import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { met } from "../shell/useLive";
import { type Heard, Line, type Source } from "./line";

class Fake implements Source {
  readyState = 0;
  onopen: ((e: Event) => void) | null = null;
  onerror: ((e: Event) => void) | null = null;
  onmessage: ((e: MessageEvent) => void) | null = null;
  out = () => {};
  constructor(readonly url: string) {}
  addEventListener(_: string, f: () => void) {
    this.out = f;
  }
  close() {
    this.readyState = 2;
  }
  open() {
    this.readyState = 1;
    this.onopen?.({} as Event);
  }
}

const seat = (client: string, room: string) => ({ client, room });

describe("Line", () => {
  let made: Fake[];
  let heard: Heard[];
  let line: Line;
  beforeEach(() => {
    vi.useFakeTimers();
    made = [];
    heard = [];
    line = new Line(
      (e) => heard.push(e),
      (url) => {
        made.push(new Fake(url));
        return made[made.length - 1];
      },
    );
  });
  afterEach(() => vi.useRealTimers());
  const last = () => made[made.length - 1];

  it("is one for all windows, whatever order they come in", () => {
    line.sit([seat("aaaa", "revisions/8")]);
    line.sit([seat("bbbb", "engines/T 1"), seat("aaaa", "revisions/8")]);
    vi.runAllTimers();
    expect(made.map((s) => s.url)).toEqual(["/api/events?at=aaaa%40revisions%2F8&at=bbbb%40engines%2FT%201"]);
    last().open();
    line.sit([seat("aaaa", "revisions/8"), seat("bbbb", "engines/T 1")]);
    vi.runAllTimers();
    expect(made).toHaveLength(1);
  });

  it("is let go only when the new one stands", () => {
    line.sit([seat("aaaa", "revisions/8")]);
    vi.runAllTimers();
    const first = last();
    first.open();
    line.sit([seat("aaaa", "revisions/9")]);
    vi.runAllTimers();
    expect(made).toHaveLength(2);
    expect(first.readyState).toBe(1);
    last().open();
    expect(first.readyState).toBe(2);
    expect(heard).toEqual([]);
    line.sit([]);
    vi.runAllTimers();
    expect(last().readyState).toBe(2);
    expect(made).toHaveLength(2);
  });

  it("says that something may be missed after it was cut", () => {
    line.sit([seat("aaaa", "revisions/8")]);
    vi.runAllTimers();
    last().open();
    expect(heard).toEqual([]);
    last().readyState = 0;
    last().onerror?.({} as Event);
    last().open();
    expect(heard).toEqual([{ missed: true }]);
    expect(made).toHaveLength(1);
  });

  it("asks less and less often where it is refused, and at once after a sign-in", () => {
    line.sit([seat("aaaa", "revisions/8")]);
    vi.runAllTimers();
    const refuse = () => {
      last().readyState = 2;
      last().onerror?.({} as Event);
    };
    const waits: number[] = [];
    for (let i = 0; i < 7; i++) {
      const begun = Date.now();
      refuse();
      vi.runAllTimers();
      waits.push(Date.now() - begun);
    }
    expect(made).toHaveLength(8);
    expect(waits[0]).toBeGreaterThanOrEqual(5_000);
    expect(waits[0]).toBeLessThanOrEqual(7_500);
    expect(waits[6]).toBeGreaterThanOrEqual(120_000);
    refuse();
    line.again();
    vi.advanceTimersByTime(1);
    expect(made).toHaveLength(9);
  });

  it("tells everybody that they are out and asks no more", () => {
    line.sit([seat("aaaa", "revisions/8")]);
    vi.runAllTimers();
    last().open();
    last().out();
    vi.runAllTimers();
    expect(heard).toEqual([{ out: true }]);
    expect(made).toHaveLength(1);
    line.again();
    vi.runAllTimers();
    expect(made).toHaveLength(2);
  });
});

describe("met", () => {
  it("keeps who is there without oneself", () => {
    let o = met({}, { all: true, here: [{ client: "me", name: "Ines" }, { client: "b", name: "Jonas", step: "s01" }] }, "me");
    expect(o).toEqual({ b: { name: "Jonas", step: "s01" } });
    o = met(o, { here: [{ client: "b", name: "Jonas", step: "s02" }, { client: "c", name: "Aiko" }] }, "me");
    expect(Object.keys(o)).toEqual(["b", "c"]);
    o = met(o, { here: [{ client: "b", left: true }] }, "me");
    expect(o).toEqual({ c: { name: "Aiko", step: "" } });
    expect(met(o, { version: 7 }, "me")).toBe(o);
    expect(met(o, { all: true, here: [] }, "me")).toEqual({});
  });
});
