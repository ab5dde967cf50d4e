import "@fontsource-variable/atkinson-hyperlegible-mono/wght.css";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { I18nProvider } from "react-aria-components";
import { BrowserRouter } from "react-router";
import { readySound } from "./api/alerts";
import { drill, room } from "./api/room";
import { App } from "./App";
import { askEarly } from "./early";
import { Global } from "./look/global";
import { rememberedTheme, setTheme } from "./look/theme";
import { UnitsProvider } from "./units/units";

/** So long after the start the page begins to be kept for when there is no network, ms. */
const KEPT_AFTER = 3_000;

setTheme(rememberedTheme());
// A drill that was thrown away has no rooms: to the shelf.
if (drill !== null)
  void fetch(`/api/drills/${drill}`).then(
    (r) => r.status === 404 && location.replace("/drills"),
    () => undefined,
  );
readySound();
// Only over TLS and on this machine itself: elsewhere a browser has none.
// What it keeps is fetched once the page stands: on a slow network the two would take each other's turn.
if ("serviceWorker" in navigator && import.meta.env.PROD)
  window.setTimeout(
    () =>
      void navigator.serviceWorker
        .register("/keeper.js")
        .catch(() => undefined),
    KEPT_AFTER,
  );
// The stream says what changed; asking again on focus would only make evidence jump.
const cache = new QueryClient({
  defaultOptions: {
    queries: { refetchOnWindowFocus: false, retry: 1, networkMode: "always" },
  },
});
askEarly(cache).catch(() => undefined);
const root = document.getElementById("root");
if (root)
  createRoot(root).render(
    <StrictMode>
      <I18nProvider locale="en-GB">
        <QueryClientProvider client={cache}>
          <Global />
          <UnitsProvider whileLoading={<p role="status">Ruhe is starting …</p>}>
            <BrowserRouter basename={room}>
              <App />
            </BrowserRouter>
          </UnitsProvider>
        </QueryClientProvider>
      </I18nProvider>
    </StrictMode>,
  );
