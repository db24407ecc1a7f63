import { useSyncExternalStore } from "react";

/** useSmall is whether the window is as a media query says: too small for what stands beside each other in a large one. */
export function useSmall(query: string) {
  return useSyncExternalStore(
    (e) => {
      const m = matchMedia(query);
      m.addEventListener("change", e);
      return () => m.removeEventListener("change", e);
    },
    () => matchMedia(query).matches,
  );
}
