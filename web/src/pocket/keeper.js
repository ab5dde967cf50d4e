// The service worker: keeps the page's own files, so that it opens without the server. It never keeps data.
const LIST = __LIST__;
const RULES = __RULES__;
const CACHE = "ruhe-__VERSION__";
/** So long the page itself is waited for before the kept one is shown, ms. */
const PATIENCE = 2500;

self.addEventListener("install", (event) => {
  const all = RULES ? [...LIST, RULES] : LIST;
  event.waitUntil(
    caches
      .open(CACHE)
      .then((cache) => cache.addAll(all))
      .then(() => self.skipWaiting()),
  );
});

self.addEventListener("activate", (event) => {
  const old = (names) =>
    names.filter((n) => n.startsWith("ruhe-") && n !== CACHE);
  event.waitUntil(
    caches
      .keys()
      .then((names) => Promise.all(old(names).map((n) => caches.delete(n))))
      .then(() => self.clients.claim()),
  );
});

// A notification that is tapped brings the page back.
self.addEventListener("notificationclick", (event) => {
  event.notification.close();
  event.waitUntil(
    self.clients
      .matchAll({ type: "window" })
      .then((all) => (all[0] ? all[0].focus() : self.clients.openWindow("/"))),
  );
});

/** The page: as the server has it now, or as it was kept. */
async function page(request) {
  const kept = caches.match("/", { cacheName: CACHE });
  const fresh = fetch(request, { signal: AbortSignal.timeout(PATIENCE) });
  try {
    const response = await fresh;
    if (response.ok) return response;
  } catch {
    // Away, or too slow.
  }
  return (await kept) ?? Response.error();
}

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  const isOurs = url.origin === location.origin && request.method === "GET";
  if (!isOurs || url.pathname.includes("/api/")) return;
  if (request.mode === "navigate") event.respondWith(page(request));
  else if (LIST.includes(url.pathname) || url.pathname + url.search === RULES)
    event.respondWith(
      caches
        .match(request, { cacheName: CACHE })
        .then((kept) => kept ?? fetch(request)),
    );
});
