import { useQuery } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import type { S } from "../../api/client";
import { degrees } from "../../drawing/Astray";
import { Drive } from "../../drawing/Drive";
import { cap } from "../../shell/cap";
import { forPage } from "../../shell/keys";
import type { Mistake } from "./mistakes";
import { filmOf } from "./queries";

/** beat is how long a step of the film stands, ms; one at which nothing moves and nothing is seen passes quickly */
const beat = 1400;
const passing = 350;

/** stands reports whether nothing moves from one frame to the next, and nothing is seen. */
export const stands = (a: S["DrillFrame"] | undefined, b: S["DrillFrame"] | undefined) =>
  !!a &&
  !!b &&
  !b.seen &&
  JSON.stringify([a.wrong.shafts, a.wrong.locks, a.wrong.on, a.off]) ===
    JSON.stringify([b.wrong.shafts, b.wrong.locks, b.wrong.on, b.off]);

const none: S["DrillFrame"][] = [];

/** Film shows a mistake step by step: the engine as it goes wrong over the engine as it should stand, and at each look what would be seen. */
export function Film({ revision, version, m, play }: { revision: number; version: number; m: Mistake; play: boolean }) {
  const { data } = useQuery(filmOf(revision, m.id, version));
  const frames = data?.frames ?? none;
  // All of a film is seen from one place: near the wheels that go astray.
  const focus = useMemo(
    () => [...new Set(data?.frames.flatMap((f) => f.off.map((o) => o.shaft)).filter((s) => s !== "crank"))],
    [data],
  );
  const last = frames.length - 1;
  const [at, setAt] = useState<number>();
  const [playing, setPlaying] = useState(play && !matchMedia("(prefers-reduced-motion: reduce)").matches);
  // Where nobody plays it, it stands where the mistake shows.
  const now = Math.min(at ?? (playing ? 0 : last), last);
  useEffect(() => {
    if (!playing || last < 0) return;
    if (now >= last) {
      setPlaying(false);
      return;
    }
    const t = setTimeout(() => setAt(now + 1), stands(frames[now - 1], frames[now]) ? passing : beat);
    return () => clearTimeout(t);
  }, [playing, now, last, frames]);
  const go = (to: number) => {
    setPlaying(false);
    setAt(Math.max(0, Math.min(last, to)));
  };
  const toggle = () => {
    if (!playing && now >= last) setAt(0);
    setPlaying(!playing);
  };
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!forPage(e, "input, textarea, select, button, a")) return;
      if (e.key === "ArrowRight") go(now + 1);
      else if (e.key === "ArrowLeft") go(now - 1);
      else if (e.key === " ") toggle();
      else return;
      e.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  });
  const f = frames[now];
  if (!data || !f) return <div className="drill-film" aria-hidden="true" />;
  const off = f.off.filter((o) => o.shaft !== "crank" || f.off.length === 1);
  return (
    <figure className="mt-2" aria-label="The mistake on the drawing">
      <div className="drill-film">
        <Drive
          drawing={data.drawing}
          state={f.wrong}
          astray={{ right: f.right, off: f.off }}
          still
          focus={focus}
          move={playing}
          className="h-full w-full"
        />
      </div>
      <div className="mt-1 flex items-center gap-1.5">
        <button type="button" className="button quiet slim" onClick={toggle} aria-label={playing ? "Stop" : "Play"}>
          {playing ? "❚❚" : "▶"}
        </button>
        <input
          type="range"
          className="min-w-0 flex-1"
          min={0}
          max={Math.max(last, 0)}
          value={now}
          aria-label="Step of the film"
          aria-valuetext={`Step ${f.number}`}
          onChange={(e) => go(Number(e.target.value))}
        />
        <span className="w-[58px] flex-none text-right text-small text-ink-2">step {f.number}</span>
      </div>
      <figcaption className="mt-1 min-h-[58px] text-small">
        <span className="text-ink-2">{f.says}</span>
        {off.length > 0 && (
          <span className="block">
            {off.slice(0, 3).map((o, i) => (
              <span key={o.shaft}>
                {i > 0 && ", "}
                {cap(o.name)} {o.held ? `held; ${degrees(o.degrees)} once it is let go` : degrees(o.degrees)}
              </span>
            ))}
          </span>
        )}
        {f.seen && (
          <b className={`block font-[650] ${f.breaks ? "text-clash" : f.sure ? "text-held" : ""}`}>
            {f.sure ? "" : "Perhaps: "}
            {f.sure ? cap(f.seen) : f.seen}
          </b>
        )}
      </figcaption>
    </figure>
  );
}
