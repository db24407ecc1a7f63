import { useQueryClient } from "@tanstack/react-query";
import { useCallback } from "react";
import { api, ask } from "../api/client";

/** useClose closes latches of a revision over the version a page shows. */
export function useClose(id: number, shown: number | undefined) {
  const client = useQueryClient();
  return useCallback(
    async (latch: string, seen?: number) => {
      await ask(
        api.POST("/api/revisions/{revision}/latches/{latch}", {
          params: { path: { revision: id, latch } },
          body: { version: seen ?? shown ?? 0 },
        }),
      );
      client.invalidateQueries();
    },
    [client, id, shown],
  );
}
