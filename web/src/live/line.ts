/** Seat is a window and the room it hears of: revisions/8 or engines/TQ4-18P. */
export interface Seat {
  client: string;
  room: string;
}

/** Heard is what comes on the line: of one room, or of all where `at` is missing. */
export interface Heard {
  at?: string;
  version?: number;
  talk?: boolean;
  here?: { client: string; name?: string; step?: string; left?: boolean }[];
  all?: boolean;
  missed?: boolean;
  out?: boolean;
}

/** Source is as much of an EventSource as a line needs. */
export interface Source {
  readonly readyState: number;
  onopen: ((e: Event) => void) | null;
  onerror: ((e: Event) => void) | null;
  onmessage: ((e: MessageEvent) => void) | null;
  addEventListener(kind: string, f: () => void): void;
  close(): void;
}

const closed = 2;

/** settle is how long seats are gathered before the line is made anew, ms: a window that goes to another page leaves one seat and takes another at once. */
const settle = 60;

/** The first and the longest wait after a line was refused, ms, each up to half longer. */
const firstWait = 5_000;
const longestWait = 120_000;

/**
 * Line holds one line to the server, on which all seats of a browser are heard. A change of seats makes a new line before
 * the old one is let go, so that nothing is lost between them; after a line that was cut everybody hears that something may
 * have been missed.
 */
export class Line {
  #seats: Seat[] = [];
  #source?: Source;
  #timer?: ReturnType<typeof setTimeout>;
  #wait = firstWait;
  #told = "";

  constructor(
    private readonly hear: (e: Heard) => void,
    private readonly make: (url: string) => Source = (url) => new EventSource(url),
  ) {}

  /** sit says which seats there are now. */
  sit(seats: Seat[]) {
    const named = [...new Set(seats.map((s) => `${s.client}@${s.room}`))].sort();
    if (named.join() === this.#seats.map((s) => `${s.client}@${s.room}`).join()) return;
    this.#seats = named.map((n) => ({ client: n.slice(0, n.indexOf("@")), room: n.slice(n.indexOf("@") + 1) }));
    this.#later(settle);
  }

  /** again makes the line anew, as after somebody has signed in. */
  again() {
    this.#wait = firstWait;
    this.#told = "";
    this.#later(0);
  }

  #later(ms: number) {
    clearTimeout(this.#timer);
    this.#timer = setTimeout(() => this.#open(), ms);
  }

  #open() {
    const old = this.#source;
    if (this.#seats.length === 0) {
      old?.close();
      this.#source = undefined;
      this.#told = "";
      return;
    }
    const query = this.#seats.map((s) => `at=${encodeURIComponent(`${s.client}@${s.room}`)}`).join("&");
    if (query === this.#told && old && old.readyState !== closed) return;
    this.#told = query;
    const source = this.make(`/api/events?${query}`);
    this.#source = source;
    let opened = false;
    source.onopen = () => {
      old?.close();
      this.#wait = firstWait;
      if (opened) this.hear({ missed: true });
      opened = true;
    };
    source.onerror = () => {
      if (source.readyState !== closed || this.#source !== source) return;
      // Refused: asked again, less and less often.
      old?.close();
      this.#told = "";
      this.#later(this.#wait * (1 + Math.random() / 2));
      this.#wait = Math.min(2 * this.#wait, longestWait);
    };
    source.onmessage = (m) => this.hear(JSON.parse(m.data) as Heard);
    source.addEventListener("out", () => {
      source.close();
      if (this.#source !== source) return;
      this.#source = undefined;
      this.#told = "";
      this.hear({ out: true });
    });
  }
}
