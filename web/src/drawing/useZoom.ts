import { type RefObject, useCallback, useEffect, useMemo, useRef, useState } from "react";

/** Frame is a part of the drawing as an SVG takes it: left, top, width, height, mm. */
export type Frame = [number, number, number, number];

export interface Zoom {
  frame: Frame;
  /** how many times larger than the whole drawing; 1 is the whole */
  k: number;
  by: (factor: number, at?: { x: number; y: number }) => void;
  pan: (dx: number, dy: number) => void;
  /** to brings a place to the middle */
  to: (x: number, y: number) => void;
  whole: () => void;
}

const most = 14;

/** useZoom is the part of a drawing that is looked at: the wheel of the mouse goes nearer where it points, and whole shows all of it. */
export function useZoom(svg: RefObject<SVGSVGElement | null>, fit: Frame, on = true): Zoom {
  const [at, setAt] = useState<{ k: number; x: number; y: number }>();
  const [fx, fy, fw, fh] = fit;
  const fits = useRef(fit);
  fits.current = fit;
  const by = useCallback((factor: number, point?: { x: number; y: number }) => {
    const [fx, fy, fw, fh] = fits.current;
    setAt((v) => {
      const now = v ?? { k: 1, x: fx + fw / 2, y: fy + fh / 2 };
      const k = Math.max(1, Math.min(most, now.k * factor));
      if (k <= 1.001) return undefined;
      const p = point ?? now;
      const s = now.k / k; // what is pointed at stays where it is
      return { k, x: p.x + (now.x - p.x) * s, y: p.y + (now.y - p.y) * s };
    });
  }, []);
  const pan = useCallback((dx: number, dy: number) => {
    const [fx, fy, fw, fh] = fits.current;
    setAt(
      (v) =>
        v && {
          ...v,
          x: Math.max(fx, Math.min(fx + fw, v.x + dx)),
          y: Math.max(fy, Math.min(fy + fh, v.y + dy)),
        },
    );
  }, []);
  const to = useCallback((x: number, y: number) => setAt((v) => v && { ...v, x, y }), []);
  const whole = useCallback(() => setAt(undefined), []);
  useEffect(() => {
    const el = svg.current;
    if (!el || !on) return;
    const onWheel = (e: WheelEvent) => {
      const m = el.getScreenCTM();
      if (!m) return;
      e.preventDefault();
      const p = new DOMPoint(e.clientX, e.clientY).matrixTransform(m.inverse());
      by(Math.exp(-e.deltaY * 0.0016), p);
    };
    el.addEventListener("wheel", onWheel, { passive: false });
    return () => el.removeEventListener("wheel", onWheel);
  }, [svg, by, on]);
  return useMemo(() => {
    const frame: Frame = at ? [at.x - fw / at.k / 2, at.y - fh / at.k / 2, fw / at.k, fh / at.k] : [fx, fy, fw, fh];
    return { frame, k: at?.k ?? 1, by, pan, to, whole };
  }, [at, fx, fy, fw, fh, by, pan, to, whole]);
}
