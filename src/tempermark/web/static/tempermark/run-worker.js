// Keeps the pages of runs, and what they need, for when the connection is lost: the network first,
// what was seen last without it. Nothing but pages of runs and static files is kept, until somebody
// signs out (app.js).
"use strict";

const KEPT = "tempermark-runs-1";
const PAGE = /^\/runs\/(\d+\/|together\/)?$/;

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

self.addEventListener("fetch", (event) => {
  const address = new URL(event.request.url);
  if (event.request.method !== "GET" || address.origin !== self.location.origin) return;
  if (!PAGE.test(address.pathname) && !address.pathname.startsWith("/static/")) return;
  event.respondWith(answer(event.request));
});

async function answer(request) {
  const kept = await caches.open(KEPT);
  try {
    const fresh = await fetch(request);
    if (fresh.ok && fresh.type === "basic" && !fresh.redirected) await kept.put(request, fresh.clone());
    return fresh;
  } catch (error) {
    const last = await kept.match(request);
    if (last) return last;
    throw error;
  }
}
