import type { ReactNode } from "react";

/** Line is one value of the sheet with its name before it and what it means after it. */
export function Line({ name, children, note }: { name: string; children: ReactNode; note?: ReactNode }) {
  return (
    <tr>
      <th scope="row" className="w-[230px] !align-baseline !border-rule !text-body !font-normal !text-ink">
        {name}
      </th>
      <td className="w-[320px] !align-baseline">{children}</td>
      <td className="!align-baseline text-small text-ink-2">{note}</td>
    </tr>
  );
}
