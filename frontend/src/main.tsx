import createCache from "@emotion/cache";
import { CacheProvider } from "@emotion/react";
import { QueryClientProvider } from "@tanstack/react-query";
import { createRoot } from "react-dom/client";
import { RouterProvider } from "react-router/dom";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource-variable/atkinson-hyperlegible-mono/wght.css";
import "./app/tokens.css";
import "./app/app.css";
import "./app/print.css";
import { queryClient } from "./api/client";
import { router } from "./app/routes";
import { Theme } from "./app/theme";

const nonce = document.querySelector<HTMLMetaElement>('meta[name="csp-nonce"]')?.content;
const styles = createCache({ key: "hp", prepend: true, ...(nonce ? { nonce } : {}) });

createRoot(document.getElementById("root") as HTMLElement).render(
  <CacheProvider value={styles}>
    <QueryClientProvider client={queryClient}>
      <Theme>
        <RouterProvider router={router} />
      </Theme>
    </QueryClientProvider>
  </CacheProvider>,
);
