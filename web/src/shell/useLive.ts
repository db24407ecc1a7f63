import { useEffect, useState } from "react";
import { me } from "../api/client";
import { onSignIn } from "./signedOut";

/** useLive calls news whenever the revision, or the engine sheet of a code, has changed or something was said of it, on whichever server, with the newest version it has heard of, and gives who else is there. What was only said has no version: it counts as the newest. */
export function useLive(at: number | string, news: (version: number) => void) {
  const path = typeof at === "number" ? `revisions/${at}` : `engines/${encodeURIComponent(at)}`;
  const [others, setOthers] = useState<Record<string, { name: string; step: string }>>({});
  const [turn, setTurn] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new turn listens anew
  useEffect(() => {
    const source = new EventSource(`/api/${path}/events?client=${me}`);
    let timer: ReturnType<typeof setTimeout> | undefined;
    let newest = 0;
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
        newest = Math.max(newest, e.version ?? Number.POSITIVE_INFINITY);
        timer ??= setTimeout(() => {
          timer = undefined;
          const v = newest;
          newest = 0;
          news(v);
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
      news(Number.POSITIVE_INFINITY);
    });
    const off = onSignIn(() => setTurn((n) => n + 1));
    return () => {
      off();
      clearTimeout(timer);
      source.close();
    };
  }, [path, news, turn]);
  return others;
}
