import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";
import { api, ask } from "./client";

export const whoAmI = queryOptions({
  queryKey: ["me"],
  queryFn: async () => (await ask(api.GET("/api/session"))) ?? null, // nobody is signed in
  staleTime: 60_000,
  retry: false,
});
export const myDesk = queryOptions({ queryKey: ["desk"], queryFn: () => ask(api.GET("/api/desk")) });
/** ListOrder is which procedures a list shows, and how. */
export interface ListOrder {
  filter: string;
  sort?: "code" | "title" | "state" | "findings" | "changed";
  down?: boolean;
  deleted?: boolean;
}
const page = 100;
const proceduresFrom = (o: ListOrder, offset: number, limit: number) =>
  ask(api.GET("/api/procedures", { params: { query: { ...o, offset, limit } } }));
/** pageOfProcedures asks for the procedures a page at a time. */
export const pageOfProcedures = (o: ListOrder) =>
  infiniteQueryOptions({
    queryKey: ["procedures", o],
    queryFn: ({ pageParam }) => proceduresFrom(o, pageParam, page),
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const have = all.reduce((n, p) => n + p.rows.length, 0);
      return last.rows.length > 0 && have < last.total ? have : undefined;
    },
  });
/** someProcedures are the first few that fit. */
export const someProcedures = (filter: string) =>
  queryOptions({ queryKey: ["procedures", "some", filter], queryFn: () => proceduresFrom({ filter }, 0, 20) });
/** redline is what lies between an earlier revision and one; 0 stands for the last that was released. */
export const redline = (id: number, against: number) =>
  queryOptions({
    queryKey: ["redline", id, against],
    queryFn: () =>
      ask(
        api.GET("/api/revisions/{revision}/redline", {
          params: { path: { revision: id }, query: against ? { against } : {} },
        }),
      ),
    staleTime: 0,
  });
/** releasePlan is what the release of a version would do. */
export const releasePlan = (id: number, version: number) =>
  queryOptions({
    queryKey: ["release", id, version],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/release", { params: { path: { revision: id } } })),
    staleTime: 0,
  });
/** sheetReview is what the draft of a code’s sheet changes. */
export const sheetReview = (code: string) =>
  queryOptions({
    queryKey: ["sheet review", code],
    queryFn: () => ask(api.GET("/api/engines/{code}/review", { params: { path: { code } } })),
    staleTime: 0,
  });
/** enginesBeside is the engine after a step of a version, and as it was in the earlier state. */
export const enginesBeside = (id: number, against: number, step: string, version: number) =>
  queryOptions({
    queryKey: ["engines beside", id, against, step, version],
    queryFn: () =>
      ask(
        api.GET("/api/revisions/{revision}/redline/engine", {
          params: { path: { revision: id }, query: { ...(against ? { against } : {}), ...(step ? { step } : {}) } },
        }),
      ),
    staleTime: 60_000,
  });
/** copyTo is what would come of copying a page to another code with these answers. */
export const copyTo = (id: number, engine: string, answers: Record<string, string>) =>
  queryOptions({
    queryKey: ["copy", id, engine, answers],
    queryFn: () =>
      ask(
        api.POST("/api/revisions/{revision}/copy", {
          params: { path: { revision: id } },
          body: { engine, answers, trial: true },
        }),
      ),
    staleTime: 60_000,
    retry: false,
  });
/** changePlan is where a term or value stands, and what changing it would do. */
export const changePlan = (from: string, to: string, engine: string) =>
  queryOptions({
    queryKey: ["change", from, to, engine],
    queryFn: () => ask(api.POST("/api/changes/plan", { body: { from, to, ...(engine ? { engine } : {}) } })),
    staleTime: 0,
    retry: false,
  });
/** versions is the timeline of the procedure of a revision; on is a day that is asked about, or empty. */
export const versions = (id: number, on: string) =>
  queryOptions({
    queryKey: ["versions", id, on],
    queryFn: () =>
      ask(api.GET("/api/revisions/{revision}/versions", { params: { path: { revision: id }, query: on ? { on } : {} } })),
    staleTime: 0,
  });
/** archetypes are the layouts a new engine sheet may start from. */
export const archetypes = queryOptions({
  queryKey: ["archetypes"],
  queryFn: () => ask(api.GET("/api/archetypes")),
  staleTime: Number.POSITIVE_INFINITY,
});
/** whereUsed is where a term stands. */
export const whereUsed = (q: string, kind: string, engine: string) =>
  queryOptions({
    queryKey: ["uses", q, kind, engine],
    queryFn: () =>
      ask(api.GET("/api/uses", { params: { query: { q, ...(kind ? { kind } : {}), ...(engine ? { engine } : {}) } } })),
    staleTime: 10_000,
  });
/** RecordAsk is which entries of the record one wants to see. */
export interface RecordAsk {
  person: number;
  procedure: number;
  engine: string;
  kind: string;
  from: string;
  until: string;
}
const recordPage = 100;
/** recordOf reads the record a page at a time, the newest first. */
export const recordOf = (a: RecordAsk) =>
  infiniteQueryOptions({
    queryKey: ["record of", a],
    queryFn: ({ pageParam }) =>
      ask(
        api.GET("/api/record", {
          params: {
            query: {
              ...Object.fromEntries(Object.entries(a).filter(([, v]) => v)),
              limit: recordPage,
              ...(pageParam ? { before: pageParam } : {}),
            },
          },
        }),
      ),
    initialPageParam: 0,
    placeholderData: keepPreviousData,
    getNextPageParam: (last) => (last.length === recordPage ? last[last.length - 1].seq : undefined),
    staleTime: 0,
  });
/** fieldNotes are what readers said of the releases of a procedure. */
export const fieldNotes = (id: number) =>
  queryOptions({
    queryKey: ["field notes", id],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/notes", { params: { path: { revision: id } } })),
    staleTime: 0,
  });
/** colleagues are those who work on pages. */
export const colleagues = queryOptions({
  queryKey: ["colleagues"],
  queryFn: () => ask(api.GET("/api/colleagues")),
  staleTime: 60_000,
});
export const people = queryOptions({ queryKey: ["people"], queryFn: () => ask(api.GET("/api/people")) });
export const places = queryOptions({ queryKey: ["places"], queryFn: () => ask(api.GET("/api/session/places")), staleTime: 0 });
/** CodeOrder is which engine codes are asked for, in which order. */
export interface CodeOrder {
  filter?: string;
  sort?: "code" | "findings" | "changed";
  down?: boolean;
  inUse?: boolean;
  drafts?: boolean;
}
const codesFrom = (o: CodeOrder, offset: number, limit: number) =>
  ask(api.GET("/api/codes", { params: { query: { ...o, offset, limit } } }));
/** pageOfCodes asks for the engine codes a page at a time. */
export const pageOfCodes = (o: CodeOrder) =>
  infiniteQueryOptions({
    queryKey: ["engines", o],
    queryFn: ({ pageParam }) => codesFrom(o, pageParam, page),
    initialPageParam: 0,
    getNextPageParam: (last, all) => {
      const have = all.reduce((n, p) => n + p.rows.length, 0);
      return last.rows.length > 0 && have < last.total ? have : undefined;
    },
  });
/** someCodes are the first engine codes that fit, and how many there are. */
export const someCodes = (filter: string, inUse?: boolean, limit = 100) =>
  queryOptions({
    queryKey: ["engines", "some", filter, inUse ?? false, limit],
    queryFn: () => codesFrom({ filter, inUse }, 0, limit),
  });
/** codesThere is how many codes there are, how many have a sheet in use, how many a draft, and one of those. */
export const codesThere = queryOptions({
  queryKey: ["engines", "there"],
  queryFn: async () => {
    const [all, used, drawn] = await Promise.all([codesFrom({}, 0, 1), codesFrom({ inUse: true }, 0, 1), codesFrom({ drafts: true }, 0, 1)]);
    return { all: all.total, inUse: used.total, drafts: drawn.total, draft: drawn.rows[0]?.code };
  },
});
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
export const drill = (id: number) =>
  queryOptions({
    queryKey: ["drill", id],
    queryFn: () => ask(api.GET("/api/revisions/{revision}/drill", { params: { path: { revision: id } } })),
    staleTime: 0,
  });
export const verbs = queryOptions({
  queryKey: ["verbs"],
  queryFn: () => ask(api.GET("/api/verbs")),
  staleTime: Number.POSITIVE_INFINITY,
});
export const sheetFields = queryOptions({
  queryKey: ["sheet-fields"],
  queryFn: () => ask(api.GET("/api/sheet-fields")),
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
