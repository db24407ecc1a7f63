import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { RouterProvider } from "@tanstack/react-router";
import { setNonce } from "get-nonce";
import { Tooltip } from "radix-ui";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Failure } from "./api/client";
import { router } from "./router";
import "./theme.css";

setNonce(document.querySelector<HTMLMetaElement>("meta[name=nonce]")?.content ?? "");
if (localStorage.getItem("theme") === "bench") document.documentElement.classList.add("bench");

const client = new QueryClient({
  defaultOptions: {
    queries: { staleTime: 5_000, retry: (n, e) => n < 2 && e instanceof Failure && e.status === 0, refetchOnWindowFocus: false },
  },
});

createRoot(document.getElementById("root") as HTMLElement).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <Tooltip.Provider delayDuration={350}>
        <RouterProvider router={router} context={{ client }} />
      </Tooltip.Provider>
    </QueryClientProvider>
  </StrictMode>,
);
