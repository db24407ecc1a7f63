import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef } from "react";
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
    (steps: string[], back = false) => {
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
              body: { version: data.meta.version, sheet: r.sheet, steps, unread: back },
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
