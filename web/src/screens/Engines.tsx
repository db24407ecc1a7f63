import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { engines } from "../api/queries";
import { Trouble, Waiting } from "../shell/Trouble";

export function Engines() {
  const { data, error, refetch } = useQuery(engines);
  if (error) return <Trouble error={error} again={refetch} />;
  if (!data) return <Waiting />;
  return (
    <main className="mx-auto max-w-[1080px] px-6 py-6">
      <h1 className="mb-3 text-[20px]">
        {data.length} engine code{data.length === 1 ? "" : "s"}
      </h1>
      <div className="border-t border-ink">
        {data.map((e) => (
          <Link
            key={e.code}
            to="/engines/$code"
            params={{ code: e.code }}
            className="grid min-h-9 grid-cols-[110px_80px_minmax(0,1fr)_120px_130px] items-center gap-3 border-b border-rule px-1 no-underline hover:bg-marking-wash"
          >
            <span className="font-[650]">{e.code}</span>
            <span className="text-ink-2">{e.maker}</span>
            <span className="truncate">
              {e.cylinders} cylinders, {e.use}
            </span>
            <span>{e.years}</span>
            <span className="text-right text-ink-2">
              {e.procedures} procedure{e.procedures === 1 ? "" : "s"}
            </span>
          </Link>
        ))}
      </div>
      {data.length === 0 && (
        <p className="py-6 text-ink-2">No engine sheet yet. One comes in with the first latch file that is read.</p>
      )}
    </main>
  );
}
