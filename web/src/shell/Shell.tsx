import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, Outlet, useNavigate, useRouterState } from "@tanstack/react-router";
import { DropdownMenu } from "radix-ui";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { api, ask } from "../api/client";
import { whoAmI } from "../api/queries";
import { FindDo } from "./FindDo";
import { SignedOut } from "./signedOut";
import { showTheme } from "./theme";
import { ToastHost } from "./toast";

const places = [
  { to: "/", name: "My desk" },
  { to: "/procedures", name: "Procedures" },
  { to: "/engines", name: "Engines" },
  { to: "/tools", name: "Tools" },
  { to: "/sources", name: "Sources" },
  { to: "/where", name: "Where used" },
  { to: "/arithmetic", name: "Bench arithmetic" },
] as const;

/** toMain takes the keyboard to the page itself. */
function toMain() {
  const main = document.querySelector<HTMLElement>("main");
  if (!main) return;
  main.tabIndex = -1;
  main.focus();
}

/** Shell is what stands round every page: the places, what can be found or done, and who is signed in. */
export function Shell() {
  const { data: me } = useQuery(whoAmI);
  const [finding, setFinding] = useState(false);
  const navigate = useNavigate();
  const client = useQueryClient();
  // The key works as soon as the page can be seen.
  useLayoutEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === "k") {
        e.preventDefault();
        setFinding((v) => !v);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, []);
  // Another page starts at its beginning for the keyboard too, unless it has put it somewhere itself.
  const path = useRouterState({ select: (s) => s.resolvedLocation?.pathname });
  const was = useRef(path);
  useEffect(() => {
    if (!path || was.current === path) return;
    const first = was.current === undefined;
    was.current = path;
    if (first) return;
    const frame = requestAnimationFrame(() => {
      if (!document.querySelector("[role=dialog]") && !document.activeElement?.closest("main")) toMain();
    });
    return () => cancelAnimationFrame(frame);
  }, [path]);
  // On a telephone the head of a page leaves the screen while one scrolls down, and comes back at the top.
  useEffect(() => {
    const root = document.documentElement;
    const onScroll = (e: Event) => {
      const el = e.target as HTMLElement;
      if (!el.closest?.("main") || el.clientHeight < innerHeight * 0.2) return;
      if (el.scrollTop > 90) root.dataset.down = "";
      else if (el.scrollTop < 8) delete root.dataset.down;
    };
    document.addEventListener("scroll", onScroll, { capture: true, passive: true });
    return () => document.removeEventListener("scroll", onScroll, { capture: true });
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: another page begins at its top
  useEffect(() => void delete document.documentElement.dataset.down, [path]);
  const swapTheme = async () => {
    const theme = me?.theme === "bench" ? "day" : "bench";
    showTheme(theme);
    const now = await ask(api.PATCH("/api/session", { body: { theme } })).catch(() => undefined);
    if (now) client.setQueryData(["me"], now);
  };
  const signOut = async () => {
    await ask(api.DELETE("/api/session")).catch(() => undefined);
    client.clear();
    navigate({ to: "/sign-in", search: { to: undefined } });
  };
  const all = [
    ...(me?.works === false ? places.map((p) => (p.to === "/" ? ({ ...p, to: "/desk" } as const) : p)) : places),
    ...(me?.works ? [{ to: "/record", name: "Record" } as const] : []),
    ...(me?.administers ? [{ to: "/people", name: "People" } as const] : []),
  ];
  return (
    <div className="screen flex h-full flex-col">
      {/* biome-ignore lint/a11y/useValidAnchor: it leads to the page, and the address stays as it is */}
      <a
        href="#main"
        className="skip no-print"
        onClick={(e) => {
          e.preventDefault();
          toMain();
        }}
      >
        Skip to the page
      </a>
      <header className="bar no-print relative flex h-10 flex-none items-center bg-(--bar) pr-2 pl-4 text-(--bar-ink)">
        <img src="/mark.svg" alt="" width={15} height={15} className="mr-2" />
        <span className="mr-5 text-lead font-[650] whitespace-nowrap max-md:mr-1">Ink Latch</span>
        <nav aria-label="Places" className="mr-3 flex h-full flex-none max-lg:hidden">
          {all.map((p) => (
            <Link
              key={p.to}
              to={p.to}
              activeOptions={{ exact: p.to === "/" || p.to === "/desk" }}
              className="flex h-full items-center border-b-2 border-transparent px-3 whitespace-nowrap text-bar-2 no-underline hover:text-white"
              activeProps={{ className: "!text-white !border-paint", "aria-current": "page" }}
            >
              {p.name}
            </Link>
          ))}
        </nav>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="rounded-[3px] px-2 py-1 whitespace-nowrap text-bar-ink hover:bg-bar-hover lg:hidden">
            Places <span aria-hidden>▾</span>
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="start" className="float z-50 min-w-[180px] py-1">
              {all.map((p) => (
                <Item key={p.to} onSelect={() => navigate({ to: p.to })}>
                  {p.name}
                </Item>
              ))}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
        <ToastHost />
        <button
          type="button"
          onClick={() => setFinding(true)}
          className="flex h-6 w-[210px] min-w-[84px] flex-none items-center max-md:w-[92px] justify-between gap-2 overflow-hidden whitespace-nowrap rounded-[3px] border border-bar-rule px-2 text-small text-bar-2 hover:border-[var(--color-bar-2)]"
        >
          Find or do… <span className="text-fine max-lg:hidden">Ctrl K</span>
        </button>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger className="ml-3 max-w-[150px] truncate rounded-[3px] px-2 py-1 text-bar-ink hover:bg-bar-hover max-md:ml-1">
            {me?.name}
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" className="float z-50 min-w-[200px] py-1">
              <div className="px-3 py-1 text-small text-ink-2">
                {me?.email}
                <br />
                {me?.roles.join(", ")}
              </div>
              {me?.works && <Item onSelect={() => navigate({ to: "/house" })}>House rules</Item>}
              <Item onSelect={() => navigate({ to: "/account" })}>Name, password and sessions</Item>
              <Item onSelect={swapTheme}>{me?.theme === "bench" ? "Day theme" : "Bench theme, dark"}</Item>
              <Item onSelect={signOut}>Sign out</Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </header>
      <div className="screen min-h-0 flex-1">
        <Outlet />
      </div>
      <FindDo open={finding} onOpenChange={setFinding} />
      <SignedOut />
    </div>
  );
}

function Item({ children, onSelect }: { children: React.ReactNode; onSelect: () => void }) {
  return (
    <DropdownMenu.Item onSelect={onSelect} className="cursor-default px-3 py-1.5 outline-none data-[highlighted]:bg-marking-wash">
      {children}
    </DropdownMenu.Item>
  );
}
