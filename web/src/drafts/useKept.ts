import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useRef } from "react";
import type { Failure, S } from "../api/client";
import { say } from "../shell/toast";
import type { Parcel } from "./outbox";
import { useOutbox } from "./useOutbox";

/** Server is what the page of a draft does with its server: procedures and engine sheets alike. */
export interface Server<E, A> {
  /** the page's name in the outbox: revision/7, engine/TQ4-18P */
  to: string;
  carry: (p: Parcel<E>) => Promise<A>;
  undo: (redo: boolean) => Promise<A>;
  /** takes what the server answers, to an edit or to undo */
  saved: (a: A, undone: boolean) => void;
  clash?: (f: Failure, p: Parcel<E>) => void;
  refused: (f: Failure, p: Parcel<E>) => void;
}

/** useKept keeps a draft on the server: edits go out in order through the outbox, undo goes to the server once nothing waits. */
export function useKept<E, A>(server: Server<E, A>) {
  const client = useQueryClient();
  const person = client.getQueryData<S["Person"]>(["me"])?.id ?? 0;
  const now = useRef(server);
  now.current = server;
  const post = useOutbox<E, A>(person, server.to, {
    carry: (p) => now.current.carry(p),
    saved: (a) => now.current.saved(a, false),
    clash: (f, p) => now.current.clash?.(f, p),
    refused: (f, p) => now.current.refused(f, p),
  });
  const { flush, pending } = post;
  const undo = useCallback(
    async (redo: boolean) => {
      await flush();
      if (pending().length) {
        say("What you typed last is not with the server yet. It can be undone once it is.");
        return undefined;
      }
      try {
        const a = await now.current.undo(redo);
        now.current.saved(a, true);
        return a;
      } catch (e) {
        const f = e as Failure;
        say(f.status ? f.message : "That could not be undone just now.");
        return undefined;
      }
    },
    [flush, pending],
  );
  return { post, undo };
}

/**
 * useNewest asks one question after another and drops those that a newer one has overtaken; the answer to one that was overtaken is
 * undefined, as is one that failed. At most so many are under way at a time.
 */
export function useNewest<Q, A>(ask: (q: Q) => Promise<A>, most: number) {
  const turn = useRef(0);
  const under = useRef(0);
  const wait = useRef<() => void>(undefined);
  const way = useRef(ask);
  way.current = ask;
  const next = useCallback(
    async (q: Q): Promise<A | undefined> => {
      const mine = ++turn.current;
      if (under.current >= most) {
        wait.current?.(); // whoever waits already is overtaken
        await new Promise<void>((go) => {
          wait.current = go;
        });
        if (mine !== turn.current) return undefined;
      }
      under.current++;
      try {
        const a = await way.current(q);
        return mine === turn.current ? a : undefined;
      } catch {
        return undefined;
      } finally {
        under.current--;
        const go = wait.current;
        wait.current = undefined;
        go?.();
      }
    },
    [most],
  );
  /** drop makes every answer that is still to come one that was overtaken */
  const drop = useCallback(() => {
    turn.current++;
  }, []);
  return [next, drop] as const;
}
