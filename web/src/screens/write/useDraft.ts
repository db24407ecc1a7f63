import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, me, type S } from "../../api/client";
import { revision as revisionQuery } from "../../api/queries";
import { useKept, useNewest } from "../../drafts/useKept";
import { say } from "../../shell/toast";
import { useLive } from "../../shell/useLive";
import { applyHere, keepRows } from "./here";

export type Edit = S["Edit"];
/** what a look is taken at: edits, a line, an engine that is found elsewhere */
type Looking = { edits?: Edit[]; line?: string; after?: string; from?: number; car?: number };
export type ClashAt = { clash: S["Clash"]; edits: Edit[] };

/** useDraft keeps one revision: what the server last said, what is on its way, and what is typed and not saved yet. */
export function useDraft(id: number, first: S["Revision"]) {
  const client = useQueryClient();
  const [now, setNow] = useState(first);
  const [savedAt, setSavedAt] = useState<string>();
  const [clash, setClash] = useState<ClashAt>();
  const [preview, setPreview] = useState<S["View"]>();
  const version = useRef(first.view.version);
  const shown = useRef(first.view);
  shown.current = preview ?? now.view;

  const unsent = useRef<() => Edit[]>(() => []);
  const take = useCallback(
    (meta: S["RevisionMeta"], view: S["View"]) => {
      if (view.version < version.current) return;
      version.current = view.version;
      // What is on its way still stands on the page that came back.
      setNow((n) => ({ ...n, meta, view: keepRows(n.view, applyHere(view, unsent.current())) }));
      client.invalidateQueries({ queryKey: ["procedures"] });
      client.invalidateQueries({ queryKey: ["desk"] });
    },
    [client],
  );

  const reread = useCallback(async () => {
    const r = await ask(api.GET("/api/revisions/{revision}", { params: { path: { revision: id } } }));
    take(r.meta, r.view);
  }, [id, take]);

  const { post, undo: undone } = useKept<Edit, S["Saved"]>({
    to: `revision/${id}`,
    carry: ({ batch, client: from, base, edits }) =>
      ask(
        api.POST("/api/revisions/{revision}/edits", {
          params: { path: { revision: id } },
          body: { batch, client: from, base, edits },
        }),
      ),
    undo: (redo) =>
      ask(api.POST("/api/revisions/{revision}/undo", { params: { path: { revision: id } }, body: { client: me, redo } })),
    saved: (r) => {
      take(r.meta, r.view);
      setSavedAt(r.at);
      if (r.reopened?.length) say(`Opened again: the ${r.reopened.join(" and ")} latch`);
    },
    clash: (f, p) => {
      setClash({ clash: f.body as S["Clash"], edits: p.edits });
      reread().catch(() => undefined);
    },
    refused: (f) => {
      say(f.message);
      reread().catch(() => undefined);
    },
  });
  const { send, flush, pending } = post;
  unsent.current = pending;
  const [newest, overtake] = useNewest(
    (body: Looking) =>
      ask(
        api.POST("/api/revisions/{revision}/look", {
          params: { path: { revision: id } },
          body: { ...body, edits: [...pending(), ...(body.edits ?? [])] },
        }),
      ),
    3,
  );

  /** edit makes edits at once here and saves them behind. */
  const edit = useCallback(
    /** base is the version the edits were begun at, where that was earlier than the one shown now */
    (edits: Edit[], base = version.current) => {
      setPreview(undefined);
      overtake();
      setNow((n) => ({ ...n, view: applyHere(n.view, edits) }));
      send(edits, base);
    },
    [send, overtake],
  );

  /** look shows the run with edits or a line that are not saved; nothing clears it. */
  const look = useCallback(
    async (body: Looking) => {
      const r = await newest(body);
      const seen = r?.view;
      if (r) setPreview((old) => seen && keepRows(old ?? shown.current, seen));
      return r;
    },
    [newest],
  );
  const unlook = useCallback(() => {
    overtake();
    setPreview(undefined);
  }, [overtake]);

  const undo = useCallback(async (redo: boolean) => (await undone(redo))?.step, [undone]);

  /** closeLatch closes a latch over the version that is shown here, and no other. */
  const closeLatch = useCallback(
    async (latch: string, seen?: number) => {
      await flush();
      const meta = await ask(
        api.POST("/api/revisions/{revision}/latches/{latch}", {
          params: { path: { revision: id, latch } },
          body: { version: seen ?? version.current },
        }),
      );
      setNow((n) => ({ ...n, meta }));
      client.invalidateQueries();
      return meta;
    },
    [client, flush, id],
  );

  const others = useOthers(id, version, pending, reread);
  useEffect(() => () => void client.removeQueries({ queryKey: revisionQuery(id).queryKey }), [client, id]);

  const settle = useCallback(
    (mine: boolean) => {
      if (!clash) return;
      setClash(undefined);
      if (mine) send(clash.edits, clash.clash.version, true);
      else flush();
    },
    [clash, flush, send],
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
      reread,
      post,
      savedAt,
      clash,
      settle,
      others,
      /** at is the version that is shown */
      at: () => version.current,
    }),
    [now, preview, edit, look, unlook, undo, closeLatch, reread, post, savedAt, clash, settle, others],
  );
}

export type Draft = ReturnType<typeof useDraft>;

/** between two readings of a page that others write in, ms */
const between = 700;

/** useOthers hears who else is in the draft, when there is a new version, and when something was said of it. However much is heard, the page is read again at most once in a while, and not while edits are on their way. */
function useOthers(id: number, version: { current: number }, pending: () => unknown[], reread: () => Promise<void>) {
  const heard = useRef<{ newest: number; read: number; timer?: ReturnType<typeof setTimeout> }>({ newest: 0, read: 0 });
  const news = useCallback(
    (v: number) => {
      const h = heard.current;
      h.newest = Math.max(h.newest, v);
      const look = () => {
        h.timer = undefined;
        if (h.newest <= version.current) return;
        if (pending().length > 0) {
          h.timer = setTimeout(look, between);
          return;
        }
        h.newest = 0;
        h.read = Date.now();
        reread().catch(() => undefined);
      };
      h.timer ??= setTimeout(look, Math.max(0, h.read + between - Date.now()));
    },
    [version, pending, reread],
  );
  useEffect(
    () => () => {
      clearTimeout(heard.current.timer);
      heard.current.timer = undefined;
    },
    [],
  );
  return useLive(id, news);
}
