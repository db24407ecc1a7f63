/** Parcel is a batch of edits on its way to the server. Its name, client and base stay the same however often it is sent. */
export interface Parcel<E> {
  batch: string;
  client: string;
  base: number;
  edits: E[];
  /** why the server would not take it; it waits for the person to decide */
  why?: string;
}

/** Fate is what becomes of a parcel by the answer it got. */
export type Fate = "saved" | "again" | "out" | "clash" | "refused";

/**
 * fateOf reads an answer. Only one that names the version it made is taken for saved; one that is empty, cut off, or comes
 * from something in between is no answer at all. status 0 is none.
 */
export function fateOf(status: number, body: unknown): Fate {
  const b = body as { meta?: { version?: unknown }; steps?: unknown; title?: unknown } | null | undefined;
  if (status >= 200 && status < 300) return typeof b?.meta?.version === "number" ? "saved" : "again";
  if (status === 401) return "out";
  if (status === 409 && Array.isArray(b?.steps)) return "clash";
  if ([400, 409, 413, 422].includes(status) && typeof b?.title === "string") return "refused";
  return "again";
}

const root = "outbox";

/** Outbox keeps the parcels of one person for one page, window by window, in the browser's storage. */
export class Outbox<E> {
  private readonly room: string;
  private list: Parcel<E>[];

  constructor(
    private readonly storage: Storage,
    person: number,
    to: string,
    private readonly client: string,
  ) {
    this.room = `${root}/${person}/${to}/`;
    this.list = this.read(this.room + client);
  }

  /** all are the parcels that wait, the oldest first, those set aside along. */
  all(): readonly Parcel<E>[] {
    return this.list;
  }

  /** next is the parcel to be sent: the oldest that is not set aside. */
  next(): Parcel<E> | undefined {
    return this.list.find((p) => !p.why);
  }

  /** pending are the edits that are not with the server yet. */
  pending(): E[] {
    return this.list.filter((p) => !p.why).flatMap((p) => p.edits);
  }

  /** post puts a parcel in the queue; with first, ahead of all others. */
  post(p: Parcel<E>, first = false) {
    this.put(first ? [p, ...this.list] : [...this.list, p]);
  }

  /** drop takes a parcel out by its name. */
  drop(batch: string) {
    this.put(this.list.filter((p) => p.batch !== batch));
  }

  /** setAside keeps a parcel the server would not take, and why. */
  setAside(batch: string, why: string) {
    this.put(this.list.map((p) => (p.batch === batch ? { ...p, why } : p)));
  }

  /** takeUp lets a parcel that was set aside go out again, as made on the version that is shown now. */
  takeUp(batch: string, base: number) {
    this.put(this.list.map((p) => (p.batch === batch ? { ...p, why: undefined, base } : p)));
  }

  /** adopt takes over what windows that are gone have left, and tells whether there was any. */
  adopt(alive: (client: string) => boolean): boolean {
    const left: string[] = [];
    for (let i = 0; i < this.storage.length; i++) {
      const key = this.storage.key(i);
      if (key?.startsWith(this.room) && key !== this.room + this.client && !alive(key.slice(this.room.length))) left.push(key);
    }
    let found = false;
    for (const key of left.sort()) {
      const parcels = this.read(key).filter((p) => !this.list.some((o) => o.batch === p.batch));
      if (parcels.length) {
        this.put([...parcels, ...this.list]); // kept here before it is taken away there
        found = true;
      }
      this.storage.removeItem(key);
    }
    return found;
  }

  private put(list: Parcel<E>[]) {
    this.list = list;
    const key = this.room + this.client;
    if (list.length) this.storage.setItem(key, JSON.stringify(list));
    else this.storage.removeItem(key);
  }

  private read(key: string): Parcel<E>[] {
    try {
      const v = JSON.parse(this.storage.getItem(key) ?? "[]");
      return Array.isArray(v) ? v.filter((p) => p && typeof p.batch === "string" && Array.isArray(p.edits)) : [];
    } catch {
      return [];
    }
  }
}
