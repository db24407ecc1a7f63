import { queryOptions } from "@tanstack/react-query";
import { api, ask } from "./client";

export const whoAmI = queryOptions({
  queryKey: ["me"],
  queryFn: () => ask(api.GET("/api/session")),
  staleTime: 60_000,
  retry: false,
});
export const myDesk = queryOptions({ queryKey: ["desk"], queryFn: () => ask(api.GET("/api/desk")) });
export const procedures = queryOptions({ queryKey: ["procedures"], queryFn: () => ask(api.GET("/api/procedures")) });
export const engines = queryOptions({ queryKey: ["engines"], queryFn: () => ask(api.GET("/api/engines")) });
export const engine = (code: string, number = 0) =>
  queryOptions({
    queryKey: ["engine", code, number],
    queryFn: () => ask(api.GET("/api/engines/{code}", { params: { path: { code }, query: number ? { number } : {} } })),
  });
export const touches = (code: string) =>
  queryOptions({
    queryKey: ["touches", code],
    queryFn: () => ask(api.GET("/api/engines/{code}/touches", { params: { path: { code } } })),
    staleTime: 0,
  });
/** reproof is asked for again while it is under way. */
export const reproof = (code: string) =>
  queryOptions({
    queryKey: ["reproof", code],
    queryFn: async () => (await ask(api.GET("/api/engines/{code}/reproof", { params: { path: { code } } }))).reproof ?? null,
    refetchInterval: (q) => (["waiting", "running"].includes(q.state.data?.state ?? "") ? 400 : false),
    staleTime: 0,
  });
export const turns = (id: number) =>
  queryOptions({
    queryKey: ["turns", id],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/turns", { params: { path: { revision: id } } })),
    staleTime: 0,
  });
export const verbs = queryOptions({
  queryKey: ["verbs"],
  queryFn: () => ask(api.GET("/api/verbs")),
  staleTime: Number.POSITIVE_INFINITY,
});
export const revision = (id: number) =>
  queryOptions({
    queryKey: ["revision", id],
    queryFn: () => ask(api.GET("/api/revisions/{revision}", { params: { path: { revision: id } } })),
    staleTime: 0,
  });
export const sheet = (id: number) =>
  queryOptions({
    queryKey: ["sheet", id],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/sheet", { params: { path: { revision: id } } })),
    staleTime: 0,
  });
export const record = (id: number) =>
  queryOptions({
    queryKey: ["record", id],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/record", { params: { path: { revision: id } } })),
    staleTime: 0,
  });
