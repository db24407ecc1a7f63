/** Lanes says where each step stands in a list, in pixels from its top: the middle of its own line. */
export interface Lanes {
  height: number;
  now: Map<number, number>;
  was: Map<number, number>;
}

/**
 * lanes measures a list whose items name their steps: data-now and data-was on an item, from 0, one for each of the rows
 * folded into it, with blanks between. Every chart beside a list of steps takes its heights from here.
 */
export function lanes(list: HTMLElement): Lanes {
  const out: Lanes = { height: list.scrollHeight, now: new Map(), was: new Map() };
  const top = list.getBoundingClientRect().top;
  for (const item of list.querySelectorAll<HTMLElement>("[data-now], [data-was]")) {
    const line = item.querySelector<HTMLElement>("[data-mid]") ?? item;
    const box = line.getBoundingClientRect();
    const from = box.top - top;
    const put = (of: Map<number, number>, steps: string | undefined) => {
      const ns = (steps ?? "").split(" ").filter(Boolean).map(Number);
      // Steps folded into one line share its height; the line of one step is its first.
      for (let i = 0; i < ns.length; i++)
        of.set(ns[i], from + (ns.length > 1 ? (box.height * (i + 0.5)) / ns.length : Math.min(box.height, 34) / 2));
    };
    put(out.now, item.dataset.now);
    put(out.was, item.dataset.was);
  }
  return out;
}

/** at is where a step stands; one that the list does not show stands where the last one before it does. */
export function at(of: Map<number, number>, step: number): number {
  if (step < 0) return 0;
  for (let k = step; k >= 0; k--) {
    const v = of.get(k);
    if (v !== undefined) return v;
  }
  return 0;
}
