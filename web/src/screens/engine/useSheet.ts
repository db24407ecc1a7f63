import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { api, ask, me } from "../../api/client";
import { engine } from "../../api/queries";
import { useKept, useNewest } from "../../drafts/useKept";
import type { Post } from "../../drafts/useOutbox";
import { say } from "../../shell/toast";
import { useLive } from "../../shell/useLive";
import { type Edit, type EngineView, set } from "./sheet";

/** SheetDraft is an engine sheet on the screen: what is saved, what is being tried, and the ways to change it. */
export interface SheetDraft {
  view: EngineView;
  post: Post<Edit>;
  /** who else is at the sheets of this code, and where */
  others: Record<string, { name: string; step: string }>;
  /** the value the server would not take, and why */
  refused?: { path: string; why: string };
  /** save saves edits that were begun at a version; the one shown when left out */
  save: (edits: Edit[], begun?: number) => void;
  /** at is the version that is shown */
  at: () => number;
  /** preview shows edits at once and saves nothing */
  preview: (edits: Edit[]) => void;
  /** nudge previews at once and saves when the keys rest */
  nudge: (edits: Edit[]) => void;
  /** aimed is where nudges have brought a value that the view may not show yet */
  aimed: (path: string) => number | undefined;
  undo: (redo: boolean) => void;
  put: (v: EngineView) => void;
}

const rest = 450;

export function useSheet(code: string, number: number) {
  const client = useQueryClient();
  const options = engine(code, number);
  const { data, error, refetch } = useQuery(options);
  const saved = data;
  const [tried, setTried] = useState<EngineView>();
  const [refused, setRefused] = useState<SheetDraft["refused"]>();
  const base = useRef(0);
  const held = useRef(new Map<string, Edit>());
  const aims = useRef(new Map<string, unknown>());
  base.current = Math.max(base.current, saved?.meta.version ?? 0);

  const put = useCallback(
    (v: EngineView) => {
      base.current = v.meta.version;
      client.cancelQueries({ queryKey: options.queryKey }); // an answer on its way knows less
      client.setQueryData(options.queryKey, v);
      client.invalidateQueries({ queryKey: ["engines"] });
      client.invalidateQueries({ queryKey: ["touches", code] });
    },
    [client, code, options.queryKey],
  );

  const { post, undo: undone } = useKept<Edit, EngineView>({
    to: `engine/${code}`,
    carry: ({ batch, client: from, base: made, edits }) =>
      ask(
        api.POST("/api/engines/{code}/edits", { params: { path: { code } }, body: { batch, client: from, base: made, edits } }),
      ),
    undo: (redo) => ask(api.POST("/api/engines/{code}/undo", { params: { path: { code } }, body: { client: me, redo } })),
    saved: (v, back) => {
      if (!back) setRefused(undefined);
      put(v);
      if (back) setTried(undefined);
      else if (left.current().length === 0) {
        setTried(undefined);
        if (held.current.size === 0) aims.current.clear();
      }
    },
    refused: (f, p) => {
      const field = (f.body as { field?: string } | undefined)?.field ?? p.edits[0]?.path ?? "";
      setRefused({ path: field, why: f.message });
      setTried(undefined);
      say(f.message);
      if (f.status === 409) refetch();
    },
  });
  const left = useRef(post.pending);
  left.current = post.pending;
  const { send, pending } = post;
  const [look, overtake] = useNewest(
    (edits: Edit[]) => ask(api.POST("/api/engines/{code}/look", { params: { path: { code } }, body: { edits } })),
    1,
  );

  const save = useCallback(
    (edits: Edit[], begun = base.current) => {
      if (edits.length > 0) send(edits, begun);
    },
    [send],
  );
  const at = useCallback(() => base.current, []);

  const preview = useCallback(
    async (edits: Edit[]) => {
      const v = await look(edits); // what is wrong with them, the save that follows says
      if (v && (pending().length > 0 || edits.length > 0)) setTried(v);
    },
    [look, pending],
  );

  const timer = useRef(0);
  const flush = useCallback(() => {
    clearTimeout(timer.current);
    const edits = [...held.current.values()];
    held.current.clear();
    save(edits);
  }, [save]);
  const nudge = useCallback(
    (edits: Edit[]) => {
      for (const e of edits) {
        held.current.set(e.path, e);
        aims.current.set(e.path, e.value);
      }
      preview([...held.current.values()]);
      clearTimeout(timer.current);
      timer.current = window.setTimeout(flush, rest);
    },
    [flush, preview],
  );
  useEffect(() => () => flush(), [flush]);

  // What others save is shown as soon as nothing of one's own is on its way.
  const others = useLive(
    code,
    useCallback(
      (version) => {
        // One's own saves are heard too: what is here already is not asked for again.
        if (version > base.current && pending().length === 0 && held.current.size === 0) refetch();
      },
      [pending, refetch],
    ),
  );

  const undo = useCallback(
    (redo: boolean) => {
      flush();
      overtake();
      undone(redo);
    },
    [flush, overtake, undone],
  );

  const aimed = useCallback((path: string) => aims.current.get(path) as number | undefined, []);
  const draft = useMemo<SheetDraft | undefined>(() => {
    const view = tried ? { ...tried, meta: saved?.meta ?? tried.meta } : saved;
    return view && { view, post, others, refused, save, at, preview, nudge, aimed, undo, put };
  }, [tried, saved, post, others, refused, save, at, preview, nudge, aimed, undo, put]);
  return { draft, error, refetch };
}

/** change saves one value of the sheet, as it was begun at a version. */
export const change = (draft: SheetDraft, path: string, value: unknown, begun?: number) => draft.save([set(path, value)], begun);
