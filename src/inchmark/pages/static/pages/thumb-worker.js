// Keeps the thumb's page and what it needs, so that it opens with the network off.
const KEPT = "inchmark-thumb";

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

self.addEventListener("message", (event) => {
  if (!Array.isArray(event.data?.keep)) return;
  event.waitUntil(caches.open(KEPT).then((kept) => kept.addAll(event.data.keep)));
});

async function answer(request) {
  try {
    const fresh = await fetch(request);
    if (fresh.ok) {
      const kept = await caches.open(KEPT);
      if (await kept.match(request, { ignoreSearch: true })) await kept.put(request, fresh.clone());
    }
    return fresh;
  } catch (away) {
    const known = await caches.match(request, { ignoreSearch: true });
    if (known) return known;
    throw away;
  }
}

self.addEventListener("fetch", (event) => {
  const streams = event.request.headers.get("accept")?.includes("event-stream");
  if (event.request.method === "GET" && !streams) event.respondWith(answer(event.request));
});
