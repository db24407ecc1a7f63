import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef } from "react";
import { api, ask, Failure, me, type S } from "../../api/client";
import { redline } from "../../api/queries";
import { say } from "../../shell/toast";

/** here tells the others which step this window is at. */
export function here(id: number, step: string) {
  api
    .POST("/api/revisions/{revision}/here", { params: { path: { revision: id } }, body: { client: me, step } })
    .catch(() => undefined);
}

/** useReading marks what is read, and shows it at once. */
export function useReading(id: number, against: number, data: S["Redlined"] | undefined) {
  const client = useQueryClient();
  const key = redline(id, against).queryKey;
  const unread = useMemo(() => new Map(data?.reading?.unread.map((u) => [u.step, u])), [data]);
  const line = useRef(Promise.resolve());
  const turns = useRef(0);
  const mark = useCallback(
    (steps: string[], how: "said" | "stood" | "unread" = "said") => {
      const back = how === "unread";
      const r = data?.reading;
      if (!data || !r || steps.length === 0) return;
      const gone = new Set(steps);
      client.cancelQueries({ queryKey: key }); // an answer on its way does not know of this yet
      client.setQueryData(key, (old: S["Redlined"] | undefined) =>
        old?.reading
          ? {
              ...old,
              reading: {
                ...old.reading,
                unread: back
                  ? [...old.reading.unread, ...steps.map((step) => ({ step, why: "never" as const, what: [] }))]
                  : old.reading.unread.filter((u) => !gone.has(u.step)),
              },
            }
          : old,
      );
      // One after another, so that what was pressed last is what holds.
      const turn = ++turns.current;
      line.current = line.current.then(async () => {
        try {
          const now = await ask(
            api.POST("/api/revisions/{revision}/readings", {
              params: { path: { revision: id } },
              body: { version: data.meta.version, sheet: r.sheet, steps, unread: back, stood: how === "stood" },
            }),
          );
          if (turn !== turns.current) return;
          client.setQueryData(key, (old: S["Redlined"] | undefined) => old && { ...old, reading: now });
          client.invalidateQueries({ queryKey: ["redline", id] }); // what the latches want is worked out there
          client.invalidateQueries({ queryKey: ["revision", id] });
        } catch (e) {
          say(e instanceof Failure ? e.message : "That was not kept. It is still unread.");
          client.invalidateQueries({ queryKey: ["redline", id] });
        }
      });
    },
    [client, data, id, key],
  );
  return { unread, mark };
}

/**
 * useStanding counts a step as read once it has stood in view, met and with the window in front, for as long as it asks.
 * A step that asks for its reader's own word is left to them, and moving on before the time is over counts for nothing.
 */
export function useStanding(unread: S["UnreadStep"] | undefined, mark: (steps: string[], how: "stood") => void) {
  const step = unread?.own ? undefined : unread?.step;
  const seconds = unread?.seconds ?? 0;
  useEffect(() => {
    if (!step || !seconds) return;
    let left = seconds * 1000;
    let from = 0;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const go = () => {
      if (document.visibilityState !== "visible" || timer) return;
      from = performance.now();
      timer = setTimeout(() => mark([step], "stood"), left);
    };
    const stop = () => {
      if (!timer) return;
      clearTimeout(timer);
      timer = undefined;
      left -= performance.now() - from;
    };
    const turn = () => (document.visibilityState === "visible" ? go() : stop());
    go();
    document.addEventListener("visibilitychange", turn);
    return () => {
      stop();
      document.removeEventListener("visibilitychange", turn);
    };
  }, [step, seconds, mark]);
}
