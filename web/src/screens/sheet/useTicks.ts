import { useCallback, useState } from "react";

/** Ticks are the boxes of a job sheet that were ticked: each by what stands beside it. */
export interface Ticks {
  done: ReadonlySet<string>;
  tick: (what: string, done: boolean) => void;
  clear: () => void;
}

/** useTicks keeps the ticked boxes of a revision in the window: they are of whoever stands at the engine, and of nobody else. */
export function useTicks(revision: number): Ticks {
  const kept = `ticks ${revision}`;
  const [done, set] = useState<ReadonlySet<string>>(() => read(kept));
  const keep = useCallback(
    (change: (now: Set<string>) => void) =>
      set((was) => {
        const now = new Set(was);
        change(now);
        if (now.size > 0) sessionStorage.setItem(kept, JSON.stringify([...now]));
        else sessionStorage.removeItem(kept);
        return now;
      }),
    [kept],
  );
  return {
    done,
    tick: (what, is) => keep((now) => (is ? now.add(what) : now.delete(what))),
    clear: () => keep((now) => now.clear()),
  };
}

function read(kept: string): ReadonlySet<string> {
  try {
    const all: unknown = JSON.parse(sessionStorage.getItem(kept) ?? "[]");
    return new Set(Array.isArray(all) ? all.filter((v) => typeof v === "string") : []);
  } catch {
    return new Set();
  }
}
