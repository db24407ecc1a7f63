import { useRouter } from "@tanstack/react-router";
import { useCallback, useEffect, useRef, useState } from "react";

type Word = string | number | boolean;

/** how long a place rests before it is written, ms */
const rest = 200;

/** placesOf is a route's search: the keys a screen keeps in its address, and nothing else. */
export const placesOf =
  <K extends string>(...keys: K[]) =>
  (s: Record<string, unknown>) => {
    const out: Partial<Record<K, Word>> = {};
    for (const k of keys) {
      const v = s[k];
      if ((typeof v === "string" && v !== "") || (typeof v === "number" && Number.isFinite(v)) || v === true) out[k] = v;
    }
    return out;
  };

/** usePlace is the value a key of the address had when the screen was opened, and a way to write another. */
function usePlace<T extends Word>(key: string, first: T, unless?: string): [() => T, (v: T) => void] {
  const router = useRouter();
  const path = useRef(router.state.location.pathname).current;
  const start = useRef(first);
  const kept = `place ${path} ${key}`;
  const read = useCallback(() => {
    const search = router.state.location.search as Record<string, unknown>;
    const here = search[key] ?? (unless && search[unless] ? undefined : parsed(sessionStorage.getItem(kept)));
    if (typeof here === typeof start.current) return here as T;
    return typeof start.current === "string" && here !== undefined ? (String(here) as T) : start.current;
  }, [router, key, kept, unless]);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => () => clearTimeout(timer.current), []);
  const write = useCallback(
    (v: T) => {
      clearTimeout(timer.current);
      const plain = v === start.current;
      if (plain) sessionStorage.removeItem(kept);
      else sessionStorage.setItem(kept, JSON.stringify(v));
      timer.current = setTimeout(() => {
        if (router.state.location.pathname !== path) return;
        const search = (s: Record<string, unknown>) => ({ ...s, [key]: plain ? undefined : v });
        router.navigate({ to: ".", search: search as never, replace: true, resetScroll: false }).catch(() => undefined);
      }, rest);
    },
    [router, key, kept, path],
  );
  return [read, write];
}

/**
 * useAddress is a state that stands in the address, so that a page is where its author was after a reload, a way back or a link that
 * was sent on. It is written a moment after it changed, and left out while it is what it starts with. Coming back by a link without
 * it, it is as it was left in this window.
 */
export function useAddress<T extends Word>(key: string, first: T): [T, (v: T) => void] {
  const [read, write] = usePlace(key, first);
  const [value, set] = useState<T>(read);
  const put = useCallback(
    (v: T) => {
      set(v);
      write(v);
    },
    [write],
  );
  return [value, put];
}

/** useAddressNote is for what changes with every movement, such as a place in a list: it is written and draws nothing. An address that says unless, and not key, was written by somebody who meant that alone. */
export function useAddressNote(key: string, unless?: string): [string, (v: string) => void] {
  const [read, write] = usePlace<string>(key, "", unless);
  return [useRef(read()).current, write];
}

function parsed(text: string | null): unknown {
  try {
    return text === null ? undefined : JSON.parse(text);
  } catch {
    return undefined;
  }
}
