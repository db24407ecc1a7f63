import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { Failure, me } from "../api/client";
import { onSignIn } from "../shell/signedOut";
import { fateOf, Outbox, type Parcel } from "./outbox";

export type Saving = "saved" | "saving" | "offline" | "out";

/** Post is what a page does with its outbox. */
export interface Post<E> {
  saving: Saving;
  /** how many parcels are on their way */
  waiting: number;
  /** parcels the server would not take, and why */
  aside: readonly Parcel<E>[];
  /** send puts edits in the queue, made on a version; with first ahead of all others */
  send: (edits: E[], base: number, first?: boolean) => void;
  /** flush sends what waits and comes back when nothing more can be done */
  flush: () => Promise<void>;
  /** pending are the edits that are not with the server yet */
  pending: () => E[];
  /** again sends what was set aside once more, as made on a version */
  again: (batch: string, base: number) => void;
  drop: (batch: string) => void;
}

interface Ways<E, A> {
  carry: (p: Parcel<E>) => Promise<A>;
  saved: (a: A, p: Parcel<E>) => void;
  clash?: (f: Failure, p: Parcel<E>) => void;
  refused: (f: Failure, p: Parcel<E>) => void;
}

const rest = 2500;

/** useOutbox keeps what is typed on one page until the server has it, and sends it. */
export function useOutbox<E, A>(person: number, to: string, ways: Ways<E, A>): Post<E> {
  const box = useMemo(() => new Outbox<E>(localStorage, person, to, me), [person, to]);
  const [, redraw] = useState(0);
  const [saving, setSaving] = useState<Saving>(box.next() ? "saving" : "saved");
  const way = useRef(ways);
  way.current = ways;
  const busy = useRef<Promise<void>>(undefined);
  const told = useCallback(() => redraw((n) => n + 1), []);

  const drain = useCallback(async () => {
    for (let p = box.next(); p; p = box.next()) {
      setSaving("saving");
      let answer: A | undefined;
      let f: Failure | undefined;
      try {
        answer = await way.current.carry(p);
      } catch (e) {
        f = e instanceof Failure ? e : new Failure(0, "");
      }
      switch (f ? fateOf(f.status, f.body) : fateOf(200, answer)) {
        case "saved":
          box.drop(p.batch);
          way.current.saved(answer as A, p);
          break;
        case "out":
          setSaving("out");
          return;
        case "clash":
          box.drop(p.batch);
          told();
          setSaving("saved");
          way.current.clash?.(f as Failure, p);
          return;
        case "refused":
          box.setAside(p.batch, (f as Failure).message);
          way.current.refused(f as Failure, p);
          break;
        default:
          setSaving("offline");
          return;
      }
      told();
    }
    setSaving("saved");
  }, [box, told]);

  const flush = useCallback(() => {
    busy.current ??= drain().finally(() => {
      busy.current = undefined;
    });
    return busy.current;
  }, [drain]);

  useEffect(() => {
    const adopt = async () => {
      const alive = await living();
      if (box.adopt(alive)) told();
      if (box.next()) flush();
    };
    adopt();
    const soon = setTimeout(adopt, 1200); // a window that was reloaded lets go a moment later
    const later = setInterval(adopt, 20_000);
    const again = setInterval(() => box.next() && flush(), rest);
    const now = () => void flush();
    window.addEventListener("online", now);
    const off = onSignIn(now);
    return () => {
      clearTimeout(soon);
      clearInterval(later);
      clearInterval(again);
      window.removeEventListener("online", now);
      off();
    };
  }, [box, flush, told]);

  const all = box.all();
  const waiting = all.filter((p) => !p.why).length;
  const aside = useMemo(() => all.filter((p) => p.why), [all]);
  return useMemo(
    () => ({
      saving,
      waiting,
      aside,
      send: (edits: E[], base: number, first = false) => {
        box.post({ batch: crypto.randomUUID(), client: me, base, edits }, first);
        told();
        flush();
      },
      flush,
      pending: () => box.pending(),
      again: (batch: string, base: number) => {
        box.takeUp(batch, base);
        told();
        flush();
      },
      drop: (batch: string) => {
        box.drop(batch);
        told();
      },
    }),
    [saving, waiting, aside, box, flush, told],
  );
}

/** The name of this window is held as a lock for as long as it lives, so that others know what is left by one that is gone. */
const held = "inklatch window ";
const beat = "alive/";
if (navigator.locks) navigator.locks.request(held + me, () => new Promise(() => undefined)).catch(() => undefined);
else {
  const tick = () => localStorage.setItem(beat + me, String(Date.now()));
  tick();
  setInterval(tick, 30_000);
}

/** living tells which windows are there. */
async function living(): Promise<(client: string) => boolean> {
  if (navigator.locks) {
    const { held: all } = await navigator.locks.query();
    return (c) => all?.some((l) => l.name === held + c) ?? true;
  }
  return (c) => Date.now() - Number(localStorage.getItem(beat + c) ?? 0) < 180_000;
}
