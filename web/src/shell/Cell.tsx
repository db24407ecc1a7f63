import type { ReactNode } from "react";

/** Cell is one cell of a title block; one that grows takes the room that is left. */
export function Cell({ name, children, grow }: { name: string; children: ReactNode; grow?: boolean }) {
  return (
    <div className={`head-cell ${grow ? "min-w-[90px] flex-1" : ""} last:border-r-0`}>
      <div className="name">{name}</div>
      <div className="what">{children}</div>
    </div>
  );
}
