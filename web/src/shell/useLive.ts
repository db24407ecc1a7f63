import { useEffect, useState } from "react";
import { me } from "../api/client";

/** useLive calls news whenever the revision, or the engine sheet of a code, has changed or something was said of it, on whichever server, and gives who else is there. */
export function useLive(at: number | string, news: () => void) {
  const path = typeof at === "number" ? `revisions/${at}` : `engines/${encodeURIComponent(at)}`;
  const [others, setOthers] = useState<Record<string, { name: string; step: string }>>({});
  useEffect(() => {
    const source = new EventSource(`/api/${path}/events?client=${me}`);
    let timer: ReturnType<typeof setTimeout> | undefined;
    source.onmessage = (m) => {
      const e = JSON.parse(m.data) as {
        version?: number;
        talk?: boolean;
        missed?: boolean;
        client?: string;
        name?: string;
        step?: string;
        left?: boolean;
      };
      if (e.version || e.talk || e.missed) {
        timer ??= setTimeout(() => {
          timer = undefined;
          news();
        }, 120);
      }
      const who = e.client;
      if (who)
        setOthers((o) => {
          const { [who]: _, ...rest } = o;
          return e.left ? rest : { ...rest, [who]: { name: e.name ?? "", step: e.step ?? "" } };
        });
    };
    source.addEventListener("out", () => {
      source.close();
      news();
    });
    return () => {
      clearTimeout(timer);
      source.close();
    };
  }, [path, news]);
  return others;
}
