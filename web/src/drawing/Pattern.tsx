import type { S } from "../api/client";

type Place = S["Point"];

/** Pattern draws bolts where they sit, numbered in the order they are tightened. */
export function Pattern({ places, name, width = 240 }: { places: Place[]; name: string; width?: number }) {
  if (places.length === 0) return null;
  const at = places.map((p) => ({ x: p.x, y: -p.y }));
  const xs = at.map((p) => p.x);
  const ys = at.map((p) => p.y);
  const [x0, x1] = [Math.min(...xs), Math.max(...xs)];
  const [y0, y1] = [Math.min(...ys), Math.max(...ys)];
  const edge = 19;
  // Figures keep their size on the page: the closest two bolts stand clear of one another, unless the set is too wide for it.
  const px = Math.max(closest(at) / 24, (x1 - x0) / (width - 2 * edge), (y1 - y0) / 220) || 1;
  const view = [x0 - edge * px, y0 - edge * px, x1 - x0 + 2 * edge * px, y1 - y0 + 2 * edge * px];
  const outline = `M${hull(at)
    .map((p) => `${p.x} ${p.y}`)
    .join("L")}Z`;
  return (
    <svg
      viewBox={view.join(" ")}
      width={view[2] / px}
      height={view[3] / px}
      role="img"
      aria-label={`The ${name} in the order they are tightened`}
    >
      {[
        { colour: "var(--color-rule)", less: 1 },
        { colour: "var(--color-film)", less: 2.2 },
      ].map(({ colour, less }) => (
        <path key={less} d={outline} fill={colour} stroke={colour} strokeWidth={2 * (edge - less) * px} strokeLinejoin="round" />
      ))}
      {at.map((p, i) => (
        <g key={`${p.x} ${p.y}`}>
          <circle cx={p.x} cy={p.y} r={9.5 * px} fill="var(--white)" stroke="var(--color-ink)" strokeWidth={1.2 * px} />
          <text x={p.x} y={p.y} dy={3.9 * px} textAnchor="middle" fontSize={11 * px} fontWeight="650" fill="var(--color-ink)">
            {i + 1}
          </text>
        </g>
      ))}
    </svg>
  );
}

/** closest is the least distance between two bolts, 0 for one alone. */
function closest(at: Place[]) {
  let best = Number.POSITIVE_INFINITY;
  for (let i = 0; i < at.length; i++)
    for (let k = 0; k < i; k++) best = Math.min(best, Math.hypot(at[i].x - at[k].x, at[i].y - at[k].y));
  return Number.isFinite(best) ? best : 0;
}

/** hull is the outline round the bolts (Andrew’s monotone chain). */
function hull(at: Place[]) {
  const by = [...at].sort((a, b) => a.x - b.x || a.y - b.y);
  const half = (list: Place[]) => {
    const out: Place[] = [];
    for (const p of list) {
      while (out.length > 1) {
        const [a, b] = out.slice(-2);
        if ((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x) > 0) break;
        out.pop();
      }
      out.push(p);
    }
    return out.slice(0, -1);
  };
  return by.length < 3 ? by : [...half(by), ...half(by.reverse())];
}
