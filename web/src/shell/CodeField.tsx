import { useQuery } from "@tanstack/react-query";
import { engines } from "../api/queries";

/** CodeField chooses one engine code, or any. */
export function CodeField({ code, onCode }: { code: string; onCode: (code: string) => void }) {
  const { data } = useQuery(engines);
  return (
    <label>
      <span className="label">Code</span>
      <select className="field !w-auto" value={code} onChange={(e) => onCode(e.target.value)}>
        <option value="">any</option>
        {data?.map((c) => (
          <option key={c.code} value={c.code}>
            {c.code}
          </option>
        ))}
      </select>
    </label>
  );
}
