import { useEffect } from "react";

/** useTitle names the page in the tab of the browser and in its history; a page that is still being read has no name yet. */
export function useTitle(name?: string) {
  useEffect(() => {
    if (name) document.title = `${name} · Ink Latch`;
  }, [name]);
}
