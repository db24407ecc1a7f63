import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, Failure, me, type S } from "../api/client";
import { revision as revisionQuery } from "../api/queries";
import { say } from "../shell/toast";

export type Edit = S["Edit"];
type Batch = { batch: string; base: number; edits: Edit[] };
export type Saving = "saved" | "saving" | "offline";
export type ClashAt = { clash: S["Clash"]; batch: Batch };

/** useDraft keeps one revision: what the server last said, what is on its way, and what is typed and not saved yet. */
export function useDraft(id: number, first: S["Revision"]) {
  const client = useQueryClient();
  const [now, setNow] = useState(first);
  const [queue, setQueue] = useState<Batch[]>(() => stored(id));
  const [saving, setSaving] = useState<Saving>("saved");
  const [savedAt, setSavedAt] = useState<string>();
  const [clash, setClash] = useState<ClashAt>();
  const [preview, setPreview] = useState<S["View"]>();
  const q = useRef(queue);
  const busy = useRef(false);
  const version = useRef(first.view.version);
  const latest = useRef(0);
  const shown = useRef(first.view);
  shown.current = preview ?? now.view;

  const put = useCallback(
    (b: Batch[]) => {
      q.current = b;
      setQueue(b);
      if (b.length) localStorage.setItem(`queue-${id}`, JSON.stringify(b));
      else localStorage.removeItem(`queue-${id}`);
    },
    [id],
  );

  const take = useCallback(
    (meta: S["RevisionMeta"], view: S["View"]) => {
      if (view.version < version.current) return;
      version.current = view.version;
      setNow((n) => ({ ...n, meta, view: keepRows(n.view, view) }));
      client.invalidateQueries({ queryKey: ["procedures"] });
      client.invalidateQueries({ queryKey: ["desk"] });
    },
    [client],
  );

  const reread = useCallback(async () => {
    const r = await ask(api.GET("/api/revisions/{revision}", { params: { path: { revision: id } } }));
    take(r.meta, r.view);
  }, [id, take]);

  const flush = useCallback(async () => {
    if (busy.current) return;
    busy.current = true;
    try {
      while (q.current.length) {
        const b = q.current[0];
        setSaving("saving");
        try {
          const r = await ask(
            api.POST("/api/revisions/{revision}/edits", { params: { path: { revision: id } }, body: { ...b, client: me } }),
          );
          put(q.current.slice(1));
          take(r.meta, r.view);
          setSavedAt(r.at);
          if (r.reopened?.length) say(`Opened again: the ${r.reopened.join(" and ")} latch`);
        } catch (e) {
          const f = e instanceof Failure ? e : new Failure(0, "");
          if (f.status === 409 && (f.body as S["Clash"])?.steps) {
            put(q.current.slice(1));
            setClash({ clash: f.body as S["Clash"], batch: b });
            await reread().catch(() => undefined);
            break;
          }
          if (f.status === 0 || f.status >= 500 || f.status === 401) {
            setSaving("offline");
            if (f.status === 401) say("You are signed out. Sign in again in another tab; what you typed is kept.");
            return;
          }
          put(q.current.slice(1));
          say(f.message);
          await reread().catch(() => undefined);
        }
      }
      setSaving("saved");
    } finally {
      busy.current = false;
    }
  }, [id, put, reread, take]);

  /** edit makes edits at once here and saves them behind. */
  const edit = useCallback(
    (edits: Edit[]) => {
      setPreview(undefined);
      latest.current++;
      setNow((n) => ({ ...n, view: applyHere(n.view, edits) }));
      put([...q.current, { batch: crypto.randomUUID(), base: version.current, edits }]);
      flush();
    },
    [flush, put],
  );

  /** look shows the run with edits or a line that are not saved; nothing clears it. */
  const look = useCallback(
    async (body: { edits?: Edit[]; line?: string; after?: string }) => {
      const turn = ++latest.current;
      const pending = q.current.flatMap((b) => b.edits);
      try {
        const r = await ask(
          api.POST("/api/revisions/{revision}/look", {
            params: { path: { revision: id } },
            body: { ...body, edits: [...pending, ...(body.edits ?? [])] },
          }),
        );
        const seen = r.view;
        if (turn === latest.current) setPreview((old) => seen && keepRows(old ?? shown.current, seen));
        return turn === latest.current ? r : undefined;
      } catch {
        return undefined;
      }
    },
    [id],
  );
  const unlook = useCallback(() => {
    latest.current++;
    setPreview(undefined);
  }, []);

  const undo = useCallback(
    async (redo: boolean) => {
      await flush();
      try {
        const r = await ask(
          api.POST("/api/revisions/{revision}/undo", { params: { path: { revision: id } }, body: { client: me, redo } }),
        );
        take(r.meta, r.view);
        setSavedAt(r.at);
        return r.step;
      } catch (e) {
        say(e instanceof Failure && e.status === 409 ? e.message : "That could not be undone just now.");
      }
    },
    [flush, id, take],
  );

  const closeLatch = useCallback(
    async (latch: string) => {
      await flush();
      const meta = await ask(
        api.POST("/api/revisions/{revision}/latches/{latch}", { params: { path: { revision: id, latch } } }),
      );
      setNow((n) => ({ ...n, meta }));
      client.invalidateQueries();
      return meta;
    },
    [client, flush, id],
  );

  // Whatever was waiting when the window closed goes out first.
  useEffect(() => {
    flush();
    const again = setInterval(() => q.current.length && flush(), 2500);
    const onLine = () => flush();
    window.addEventListener("online", onLine);
    return () => {
      clearInterval(again);
      window.removeEventListener("online", onLine);
    };
  }, [flush]);

  const others = useOthers(id, version, q, reread);
  useEffect(() => () => void client.removeQueries({ queryKey: revisionQuery(id).queryKey }), [client, id]);

  const settle = useCallback(
    (mine: boolean) => {
      if (!clash) return;
      setClash(undefined);
      if (mine) {
        put([{ batch: crypto.randomUUID(), base: clash.clash.version, edits: clash.batch.edits }, ...q.current]);
      }
      flush();
    },
    [clash, flush, put],
  );

  return useMemo(
    () => ({
      meta: now.meta,
      view: preview ?? now.view,
      saved: now.view,
      previewing: !!preview,
      drawing: now.drawing,
      edit,
      look,
      unlook,
      undo,
      closeLatch,
      saving,
      savedAt,
      waiting: queue.length,
      clash,
      settle,
      others,
    }),
    [now, preview, edit, look, unlook, undo, closeLatch, saving, savedAt, queue.length, clash, settle, others],
  );
}

export type Draft = ReturnType<typeof useDraft>;

function stored(id: number): Batch[] {
  try {
    return JSON.parse(localStorage.getItem(`queue-${id}`) ?? "[]") as Batch[];
  } catch {
    return [];
  }
}

/** useOthers hears who else is in the draft and when there is a new version. */
function useOthers(id: number, version: { current: number }, q: { current: unknown[] }, reread: () => Promise<void>) {
  const [others, setOthers] = useState<Record<string, { name: string; step: string }>>({});
  useEffect(() => {
    const source = new EventSource(`/api/revisions/${id}/events?client=${me}`);
    source.onmessage = (m) => {
      const e = JSON.parse(m.data) as { version?: number; client?: string; name?: string; step?: string; left?: boolean };
      if (e.version && e.version > version.current && q.current.length === 0)
        setTimeout(() => e.version && e.version > version.current && reread().catch(() => undefined), 60);
      const who = e.client;
      if (who) {
        setOthers((o) => {
          const { [who]: _, ...rest } = o;
          return e.left ? rest : { ...rest, [who]: { name: e.name ?? "", step: e.step ?? "" } };
        });
      }
    };
    return () => source.close();
  }, [id, version, q, reread]);
  return others;
}

/** keepRows keeps the rows that say what they said, so that only the others are drawn again. */
function keepRows(old: S["View"], view: S["View"]): S["View"] {
  const before = new Map(old.rows.map((r) => [r.step.id, r]));
  const rows = view.rows.map((r) => {
    const b = before.get(r.step.id);
    return b && b.severity === r.severity && b.sentence === r.sentence && JSON.stringify(b) === JSON.stringify(r) ? b : r;
  });
  return { ...view, rows };
}

/** applyHere makes edits on the rows at hand, so that they show at once; the server's view follows. */
function applyHere(view: S["View"], edits: Edit[]): S["View"] {
  const rows = [...view.rows];
  const states = [...view.states];
  let header = view.header;
  const at = (id?: string) => rows.findIndex((r) => r.step.id === id);
  for (const e of edits) {
    if (e.op === "header" && e.header) header = e.header;
    else if (e.op === "set" && e.step) {
      const i = at(e.step.id);
      if (i >= 0) rows[i] = { ...rows[i], step: e.step };
    } else if (e.op === "remove") {
      const i = at(e.id);
      if (i >= 0) {
        rows.splice(i, 1);
        states.splice(i + 1, 1);
      }
    } else if (e.op === "insert" && e.step) {
      const i = e.after ? at(e.after) : -1;
      rows.splice(i + 1, 0, {
        step: e.step,
        spans: [{ kind: "text", text: plainText(e.step) }],
        value: "",
        sentence: "",
        crosses: false,
        clashes: [],
      });
      states.splice(i + 2, 0, states[i + 1]);
    } else if (e.op === "move") {
      const from = at(e.id);
      if (from < 0) continue;
      const [row] = rows.splice(from, 1);
      rows.splice(e.after ? at(e.after) + 1 : 0, 0, e.phase ? { ...row, step: { ...row.step, phase: e.phase } } : row);
    }
  }
  return { ...view, header, rows, states };
}

const plainText = (s: S["Step"]) => s.wording || (typeof s.text === "string" ? s.text : s.verb);
