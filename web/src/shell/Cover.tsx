import type { ReactNode } from "react";

/** Cover is the page outside: what this is on the left, the way in on the right. */
export function Cover({ children }: { children: ReactNode }) {
  return (
    <main className="flex h-full">
      <div className="hidden w-[44%] flex-col justify-between bg-cover p-10 text-white md:flex">
        <div className="flex items-center gap-2 text-head font-[650]">
          <img src="/mark.svg" alt="" width={18} height={18} /> Ink Latch
        </div>
        <DriveLine />
        <p className="max-w-[36ch] text-lead leading-snug text-bar-2">
          Every step runs on a virtual engine while you write it. A lock left in shows here, not on the bench.
        </p>
      </div>
      {children}
    </main>
  );
}

/** DriveLine is a belt drive in one line, for the cover page. */
function DriveLine() {
  return (
    <svg viewBox="30 24 260 276" aria-hidden="true" className="w-full max-w-[380px]" fill="none" stroke="var(--color-cover-line)">
      <defs>
        <pattern id="cover-hatch" width="7" height="7" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="2" height="7" fill="var(--color-cover-hatch)" stroke="none" />
        </pattern>
      </defs>
      {[
        [98, 88, 48],
        [222, 88, 48],
        [160, 262, 24],
      ].map(([x, y, r]) => (
        <g key={`${x} ${y}`}>
          <circle cx={x} cy={y} r={r} fill="url(#cover-hatch)" strokeWidth="1.4" />
          <circle cx={x} cy={y} r={r / 6} fill="var(--color-cover)" strokeWidth="1.4" />
          <path d={`M${x} ${y - r + 1}v11`} stroke="var(--color-paint)" strokeWidth="5" />
          <path d={`M${x} ${y - r - 12}l-5 -9h10z`} fill="var(--color-cover-line)" stroke="none" />
        </g>
      ))}
      <path
        d="M135.1 274.7L51.7 111.7A52 52 0 0 1 98.0 36.0L222.0 36.0A52 52 0 0 1 268.3 111.7L184.9 274.7A28 28 0 0 1 135.1 274.7Z"
        strokeWidth="7"
      />
      <path
        d="M135.1 274.7L51.7 111.7A52 52 0 0 1 98.0 36.0L222.0 36.0A52 52 0 0 1 268.3 111.7L184.9 274.7A28 28 0 0 1 135.1 274.7Z"
        stroke="var(--color-cover)"
        strokeWidth="2"
        strokeDasharray="2 4"
      />
    </svg>
  );
}
