import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "../../api/client";

/** filmOf is a mistake step by step, as a version of a page has it. */
export const filmOf = (revision: number, mistake: string, version: number) =>
  queryOptions({
    queryKey: ["drill", revision, "film", mistake, version],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/drill/film", { params: { path: { revision }, query: { mistake } } })),
    staleTime: Number.POSITIVE_INFINITY,
  });
