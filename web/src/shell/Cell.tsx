import type { ReactNode } from "react";

/** Cell is one cell of a title block; one that grows takes the room that is left, one that may go does so where there is none. */
export function Cell({ name, children, grow, may }: { name: string; children: ReactNode; grow?: boolean; may?: "go" }) {
  return (
    <div className={`head-cell ${grow ? "min-w-[90px] flex-1" : ""} ${may ? "may-go" : ""} last:border-r-0`}>
      <div className="name">{name}</div>
      <div className="what">{children}</div>
    </div>
  );
}
