import type { QueryClient } from "@tanstack/react-query";
import {
  createRootRouteWithContext,
  createRoute,
  createRouter,
  lazyRouteComponent,
  Outlet,
  redirect,
} from "@tanstack/react-router";
import { Failure } from "./api/client";
import { whoAmI } from "./api/queries";
import { placesOf } from "./shell/address";
import { Shell } from "./shell/Shell";
import { Trouble } from "./shell/Trouble";
import { showTheme } from "./shell/theme";

const root = createRootRouteWithContext<{ client: QueryClient }>()({ component: Outlet });

const signIn = createRoute({
  getParentRoute: () => root,
  path: "/sign-in",
  validateSearch: (s: Record<string, unknown>) => ({ to: typeof s.to === "string" ? s.to : undefined }),
  component: lazyRouteComponent(() => import("./screens/signin/SignIn"), "SignIn"),
});

const enter = createRoute({
  getParentRoute: () => root,
  path: "/enter",
  component: lazyRouteComponent(() => import("./screens/enter/Enter"), "Enter"),
});

const inside = createRoute({
  getParentRoute: () => root,
  id: "inside",
  component: Shell,
  beforeLoad: async ({ context, location }) => {
    try {
      const who =
        (await context.client.ensureQueryData(whoAmI)) ?? (await context.client.fetchQuery({ ...whoAmI, staleTime: 0 }));
      if (!who) throw new Failure(401, "Sign in first.");
      showTheme(who.theme);
    } catch (e) {
      if (e instanceof Failure && e.status === 401) throw redirect({ to: "/sign-in", search: { to: location.href } });
      throw e;
    }
  },
  errorComponent: ({ error, reset }) => <Trouble error={error} again={reset} />,
});

const house = createRoute({
  getParentRoute: () => inside,
  path: "/house",
  component: lazyRouteComponent(() => import("./screens/house/House"), "House"),
});
const people = createRoute({
  getParentRoute: () => inside,
  path: "/people",
  component: lazyRouteComponent(() => import("./screens/people/People"), "People"),
});
const account = createRoute({
  getParentRoute: () => inside,
  path: "/account",
  component: lazyRouteComponent(() => import("./screens/people/Account"), "Account"),
});
const start = createRoute({
  getParentRoute: () => inside,
  path: "/",
  // Who only reads lands where sheets are found.
  beforeLoad: ({ context }) => {
    if (context.client.getQueryData(whoAmI.queryKey)?.works === false) throw redirect({ to: "/procedures" });
  },
  component: lazyRouteComponent(() => import("./screens/desk/Desk"), "Desk"),
});
const desk = createRoute({
  getParentRoute: () => inside,
  path: "/desk",
  component: lazyRouteComponent(() => import("./screens/desk/Desk"), "Desk"),
});
const procedures = createRoute({
  getParentRoute: () => inside,
  path: "/procedures",
  validateSearch: placesOf("q", "sort", "down", "deleted"),
  component: lazyRouteComponent(() => import("./screens/procedures/Procedures"), "Procedures"),
});
const engines = createRoute({
  getParentRoute: () => inside,
  path: "/engines",
  component: lazyRouteComponent(() => import("./screens/engines/Engines"), "Engines"),
});
const engine = createRoute({
  getParentRoute: () => inside,
  path: "/engines/$code",
  validateSearch: (s: Record<string, unknown>): { sheet?: number; tab?: unknown; on?: unknown } => ({
    ...(Number(s.sheet) > 0 ? { sheet: Number(s.sheet) } : {}),
    ...placesOf("tab", "on")(s),
  }),
  component: lazyRouteComponent(() => import("./screens/engine/Engine"), "Engine"),
});
const sheetReview = createRoute({
  getParentRoute: () => inside,
  path: "/engines/$code/review",
  validateSearch: placesOf("on"),
  component: lazyRouteComponent(() => import("./screens/sheetreview/SheetReview"), "SheetReview"),
});
const codeTorques = createRoute({
  getParentRoute: () => inside,
  path: "/engines/$code/torques",
  validateSearch: (s: Record<string, unknown>): { sheet?: number; sort?: unknown; down?: unknown; group?: unknown } => ({
    ...(Number(s.sheet) > 0 ? { sheet: Number(s.sheet) } : {}),
    ...placesOf("sort", "down", "group")(s),
  }),
  component: lazyRouteComponent(() => import("./screens/torques/Torques"), "CodeTorques"),
});
const pageTorques = createRoute({
  getParentRoute: () => inside,
  path: "/revisions/$revision/torques",
  validateSearch: placesOf("sort", "down", "group"),
  component: lazyRouteComponent(() => import("./screens/torques/Torques"), "PageTorques"),
});
const write = createRoute({
  getParentRoute: () => inside,
  path: "/revisions/$revision",
  validateSearch: placesOf("step", "from"),
  component: lazyRouteComponent(() => import("./screens/write/Write"), "Write"),
});
const turns = createRoute({
  getParentRoute: () => inside,
  path: "/revisions/$revision/turns",
  validateSearch: placesOf("n"),
  component: lazyRouteComponent(() => import("./screens/turns/Turns"), "Turns"),
});
const drill = createRoute({
  getParentRoute: () => inside,
  path: "/revisions/$revision/drill",
  validateSearch: placesOf("show", "on"),
  component: lazyRouteComponent(() => import("./screens/drill/Drill"), "Drill"),
});
const versions = createRoute({
  getParentRoute: () => inside,
  path: "/revisions/$revision/versions",
  validateSearch: placesOf("on"),
  component: lazyRouteComponent(() => import("./screens/versions/Versions"), "Versions"),
});
const review = createRoute({
  getParentRoute: () => inside,
  path: "/revisions/$revision/review",
  validateSearch: placesOf("against", "step"),
  component: lazyRouteComponent(() => import("./screens/review/Review"), "Review"),
});
const copy = createRoute({
  getParentRoute: () => inside,
  path: "/revisions/$revision/copy",
  validateSearch: placesOf("to"),
  component: lazyRouteComponent(() => import("./screens/copy/Copy"), "Copy"),
});
const change = createRoute({
  getParentRoute: () => inside,
  path: "/change",
  validateSearch: placesOf("from", "to", "engine"),
  component: lazyRouteComponent(() => import("./screens/change/Change"), "Change"),
});
const where = createRoute({
  getParentRoute: () => inside,
  path: "/where",
  validateSearch: placesOf("q", "kind", "engine"),
  component: lazyRouteComponent(() => import("./screens/where/Where"), "Where"),
});
const tools = createRoute({
  getParentRoute: () => inside,
  path: "/tools",
  validateSearch: placesOf("q", "engine"),
  component: lazyRouteComponent(() => import("./screens/tools/Tools"), "Tools"),
});
const sources = createRoute({
  getParentRoute: () => inside,
  path: "/sources",
  validateSearch: placesOf("q", "engine"),
  component: lazyRouteComponent(() => import("./screens/sources/Sources"), "Sources"),
});
const recorded = createRoute({
  getParentRoute: () => inside,
  path: "/record",
  validateSearch: placesOf("person", "procedure", "engine", "kind", "from", "until"),
  component: lazyRouteComponent(() => import("./screens/record/Record"), "Record"),
});
const arithmetic = createRoute({
  getParentRoute: () => inside,
  path: "/arithmetic",
  validateSearch: (s: Record<string, unknown>) => {
    const out: Partial<Record<"length" | "mass" | "note" | "tolerance" | "stroke" | "rod", number>> = {};
    for (const k of ["length", "mass", "note", "tolerance", "stroke", "rod"] as const) {
      const n = Number(s[k]);
      if (s[k] !== undefined && Number.isFinite(n) && n > 0) out[k] = n;
    }
    return out;
  },
  component: lazyRouteComponent(() => import("./screens/arithmetic/Arithmetic"), "Arithmetic"),
});
const sheet = createRoute({
  getParentRoute: () => inside,
  path: "/revisions/$revision/sheet",
  validateSearch: (s: Record<string, unknown>): { only?: "picks" } => (s.only === "picks" ? { only: "picks" } : {}),
  component: lazyRouteComponent(() => import("./screens/sheet/Sheet"), "Sheet"),
});

export const router = createRouter({
  routeTree: root.addChildren([
    signIn,
    enter,
    inside.addChildren([
      start,
      desk,
      procedures,
      engines,
      engine,
      tools,
      sources,
      codeTorques,
      pageTorques,
      sheetReview,
      write,
      turns,
      drill,
      review,
      copy,
      change,
      versions,
      sheet,
      arithmetic,
      where,
      recorded,
      house,
      people,
      account,
    ]),
  ]),
  context: { client: undefined as unknown as QueryClient },
  defaultPreload: "intent",
  defaultNotFoundComponent: () => <Trouble error={new Failure(404, "There is no page at this address.")} />,
});

declare module "@tanstack/react-router" {
  interface Register {
    router: typeof router;
  }
}
