import { useEffect, useState } from "react";
import { me } from "../api/client";
import type { Heard } from "../live/line";
import { listen, listenAgain } from "../live/live";
import { onSignIn } from "./signedOut";

/** Others are the other windows in a room, by their names. */
export type Others = Record<string, { name: string; step: string }>;

/** met is who is there after something was heard. */
export function met(o: Others, e: Heard, me: string): Others {
  if (!e.here) return o;
  const out = e.all ? {} : { ...o };
  for (const { client, name = "", step = "", left } of e.here) {
    if (left) delete out[client];
    else if (client !== me) out[client] = { name, step };
  }
  return out;
}

/** useLive calls news whenever the revision, or the engine sheet of a code, has changed or something was said of it, on whichever server, with the newest version it has heard of, and gives who else is there. What was only said has no version: it counts as the newest. */
export function useLive(at: number | string, news: (version: number) => void) {
  const room = typeof at === "number" ? `revisions/${at}` : `engines/${at}`;
  const [others, setOthers] = useState<Others>({});
  useEffect(() => {
    let timer: ReturnType<typeof setTimeout> | undefined;
    let newest = 0;
    const off = listen(room, (e) => {
      if (e.out) news(Number.POSITIVE_INFINITY);
      else if (e.version || e.talk || e.missed) {
        newest = Math.max(newest, e.version ?? Number.POSITIVE_INFINITY);
        timer ??= setTimeout(() => {
          timer = undefined;
          const v = newest;
          newest = 0;
          news(v);
        }, 120);
      }
      setOthers((o) => met(o, e, me));
    });
    const offSignIn = onSignIn(listenAgain);
    return () => {
      offSignIn();
      clearTimeout(timer);
      off();
    };
  }, [room, news]);
  return others;
}
