import { useSyncExternalStore } from "react";

const ears = new Set<() => void>();
const off = () => localStorage.getItem("single keys") === "off";

/** single tells a key of one letter or sign alone, which somebody who speaks to the machine, or whose hands shake, may switch off. */
const single = (e: KeyboardEvent) => e.key.length === 1 && e.key !== " " && !e.ctrlKey && !e.metaKey && !e.altKey;

/** mute reports whether a key does nothing, because single keys are switched off. */
export const mute = (e: KeyboardEvent) => single(e) && off();

/** forPage reports whether a key is meant for the page: it works, no other key is held, and nobody is at something that takes keys itself. */
export const forPage = (e: KeyboardEvent, takes = "input, textarea, select") =>
  !mute(e) && !e.altKey && !e.ctrlKey && !e.metaKey && !(e.target instanceof HTMLElement && e.target.matches(takes));

/** useSingleKeys is whether keys of one letter work, and the way to switch them. It is kept by the browser: it goes with the keyboard, not with the person. */
export function useSingleKeys(): [boolean, (on: boolean) => void] {
  const on = useSyncExternalStore(
    (e) => {
      ears.add(e);
      return () => ears.delete(e);
    },
    () => !off(),
  );
  return [
    on,
    (v) => {
      if (v) localStorage.removeItem("single keys");
      else localStorage.setItem("single keys", "off");
      for (const e of ears) e();
    },
  ];
}
