import { useState } from "react";
import type { S } from "../../api/client";
import type { Old } from "./Pasted";

/** Waiting is an old page that was begun and not taken yet, as far as its lines were mended. */
export type Waiting = { old: Old; readings: S["Reading"][] };

/** useWaiting keeps the old page of a revision for as long as the window is open; what does not fit there is kept until it is left. */
export function useWaiting(revision: number): [Waiting | undefined, (w: Waiting | undefined) => void] {
  const at = `old-page-${revision}`;
  const [waiting, setWaiting] = useState<Waiting | undefined>(() => {
    try {
      return JSON.parse(sessionStorage.getItem(at) ?? "null") ?? undefined;
    } catch {
      return undefined;
    }
  });
  const keep = (w: Waiting | undefined) => {
    setWaiting(w);
    try {
      if (w) sessionStorage.setItem(at, JSON.stringify(w));
      else sessionStorage.removeItem(at);
    } catch {
      sessionStorage.removeItem(at); // it is too large to be kept over a reload
    }
  };
  return [waiting, keep];
}
