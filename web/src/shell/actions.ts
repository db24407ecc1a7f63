import { useEffect, useSyncExternalStore } from "react";

/** Action is something the screen in front can do, offered in Find or do. */
export interface Action {
  name: string;
  keys?: string;
  group?: string;
  run: () => void;
}

let current: Action[] = [];
const ears = new Set<() => void>();

/** useActions offers actions while a screen is shown. */
export function useActions(actions: Action[]) {
  useEffect(() => {
    current = actions;
    for (const e of ears) e();
    return () => {
      current = [];
    };
  }, [actions]);
}

export const useOffered = () =>
  useSyncExternalStore(
    (e) => {
      ears.add(e);
      return () => ears.delete(e);
    },
    () => current,
  );
