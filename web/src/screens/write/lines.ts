/** A line that left the quick line and is not a step yet. */
export interface Line {
  key: string;
  text: string;
  /** after which step it goes; undefined for after the line before it */
  after?: string;
  phase?: string;
}

/** Kept is where lines wait through a reload. */
export interface Kept {
  load: () => Line[];
  save: (lines: Line[]) => void;
}

/** inSession keeps lines in the window's own storage. */
export function inSession(name: string): Kept {
  return {
    load: () => {
      try {
        return JSON.parse(sessionStorage.getItem(name) ?? "[]") as Line[];
      } catch {
        return [];
      }
    },
    save: (lines) => (lines.length ? sessionStorage.setItem(name, JSON.stringify(lines)) : sessionStorage.removeItem(name)),
  };
}

/**
 * Lines takes typed lines in order and turns each into steps, once. A line that cannot be read now stays and is tried again;
 * those behind it wait, so that the order is the one they were typed in.
 */
export class Lines<R> {
  private lines: Line[];
  private working = false;
  private last?: string;
  private timer?: ReturnType<typeof setTimeout>;
  private stopped = false;
  why = "";

  constructor(
    private readonly kept: Kept,
    private readonly read: (line: Line) => Promise<R>,
    /** become makes steps of what was read and gives the id of the last one. */
    private readonly become: (line: Line, reading: R, after: string) => string,
    private readonly changed: () => void,
    private readonly pause = 1500,
  ) {
    this.lines = kept.load();
  }

  get waiting(): readonly Line[] {
    return this.lines;
  }

  /** add takes a line; while others wait it goes after the last of them. */
  add(text: string, after: string, phase?: string) {
    const chained = this.lines.length > 0;
    this.put([...this.lines, { key: crypto.randomUUID(), text, after: chained ? undefined : after, phase }]);
    this.work();
  }

  /** drop takes a waiting line out. */
  drop(key: string) {
    this.put(this.lines.filter((l) => l.key !== key));
  }

  start() {
    this.stopped = false;
    this.work();
  }

  stop() {
    this.stopped = true;
    clearTimeout(this.timer);
  }

  private put(lines: Line[]) {
    this.lines = lines;
    this.kept.save(lines);
    this.changed();
  }

  private async work() {
    if (this.working || this.stopped) return;
    clearTimeout(this.timer);
    this.working = true;
    while (this.lines.length > 0 && !this.stopped) {
      const line = this.lines[0];
      try {
        const reading = await this.read(line);
        if (this.stopped) break;
        this.why = "";
        if (!this.lines.some((l) => l.key === line.key)) continue; // dropped while it was read
        this.last = this.become(line, reading, line.after ?? this.last ?? "");
        this.put(this.lines.filter((l) => l.key !== line.key));
      } catch (e) {
        this.why = e instanceof Error ? e.message : "";
        this.changed();
        this.timer = setTimeout(() => this.work(), this.pause);
        break;
      }
    }
    this.working = false;
  }
}
