import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, me, type S } from "../../api/client";
import { revision as revisionQuery } from "../../api/queries";
import { useKept, useNewest } from "../../drafts/useKept";
import { onSignIn } from "../../shell/signedOut";
import { say } from "../../shell/toast";
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
    (edits: Edit[]) => {
      setPreview(undefined);
      overtake();
      setNow((n) => ({ ...n, view: applyHere(n.view, edits) }));
      send(edits, version.current);
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
    }),
    [now, preview, edit, look, unlook, undo, closeLatch, reread, post, savedAt, clash, settle, others],
  );
}

export type Draft = ReturnType<typeof useDraft>;

/** between two readings of a page that others write in, ms */
const between = 700;

interface Heard {
  version?: number;
  client?: string;
  name?: string;
  step?: string;
  left?: boolean;
  missed?: boolean;
}

/** useOthers hears who else is in the draft and when there is a new version. */
function useOthers(id: number, version: { current: number }, pending: () => unknown[], reread: () => Promise<void>) {
  const [others, setOthers] = useState<Record<string, { name: string; step: string }>>({});
  const [turn, setTurn] = useState(0);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new turn listens anew
  useEffect(() => {
    const source = new EventSource(`/api/revisions/${id}/events?client=${me}`);
    // However much is heard, the page is read again at most once in a while.
    let read = 0;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let newest = 0;
    const soon = (v: number) => {
      newest = Math.max(newest, v);
      timer ??= setTimeout(
        () => {
          timer = undefined;
          read = Date.now();
          if (newest > version.current && pending().length === 0) reread().catch(() => undefined);
        },
        Math.max(60, read + between - Date.now()),
      );
    };
    source.onmessage = (m) => {
      const e = JSON.parse(m.data) as Heard;
      if (e.missed) reread().catch(() => undefined);
      if (e.version && e.version > version.current && pending().length === 0) soon(e.version);
      const who = e.client;
      if (who) {
        setOthers((o) => {
          const { [who]: _, ...rest } = o;
          return e.left ? rest : { ...rest, [who]: { name: e.name ?? "", step: e.step ?? "" } };
        });
      }
    };
    // Signed out or locked: asking anything says so, and what is typed waits.
    source.addEventListener("out", () => {
      source.close();
      reread().catch(() => undefined);
    });
    const off = onSignIn(() => setTurn((n) => n + 1));
    return () => {
      off();
      clearTimeout(timer);
      source.close();
    };
  }, [id, version, pending, reread, turn]);
  return others;
}
