// Keeps the pages of guides that were opened, for when there is no network.
// What was published never changes, so what is kept is right; what stands
// around it is asked for whenever there is a network.
"use strict";
const trials = self.location.pathname.startsWith("/trials");
const shelf = trials ? "trials-1" : "guides-1";

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (e) => e.waitUntil(self.clients.claim()));

const tell = async (message) => (await self.clients.matchAll()).forEach((c) => c.postMessage(message));

async function keepAll({ keep, base, also }) {
  const cache = await caches.open(shelf);
  const list = (await (await fetch(keep)).json()).keep;
  const all = [...new Set([...list, ...also, "/read"])];
  // Styles and scripts of the pages that are kept come with each page: they are kept too.
  let done = 0;
  const one = async (at) => {
    try {
      const got = await fetch(at);
      if (got.ok && !got.redirected) {
        await cache.put(at, got.clone());
        if ((got.headers.get("Content-Type") || "").startsWith("text/html")) {
          const text = await got.text();
          for (const m of text.matchAll(/(?:href|src)="(\/(?:static|drawing\.css)[^"]*)"/g)) {
            const name = m[1].replace(/&amp;/g, "&");
            if (!all.includes(name)) {
              all.push(name);
            }
          }
        }
      }
    } catch {
      return; // it is kept the next time
    }
    done += 1;
    tell({ base, done, of: all.length });
  };
  for (let i = 0; i < all.length; i += 1) await one(all[i]);
  for (const m of (await (await cache.match(all.find((at) => at.includes("tokens.css"))))?.text() ?? "").matchAll(/url\("([^"]+)"\)/g)) {
    const at = new URL(m[1], self.location.origin).pathname + new URL(m[1], self.location.origin).search;
    if (!(await cache.match(at))) await cache.add(at).catch(() => {});
  }
  tell({ base, done: all.length, of: all.length });
}

// Keeps the page of a trial that was opened, with what it needs.
async function keepPage(at) {
  const cache = await caches.open(shelf);
  const got = await fetch(at);
  if (!got.ok || got.redirected) return;
  await cache.put(at, got.clone());
  for (const m of (await got.text()).matchAll(/(?:href|src)="(\/(?:static|drawing\.css)[^"]*)"/g)) {
    const name = m[1].replace(/&amp;/g, "&");
    if (await cache.match(name)) continue;
    await cache.add(name).catch(() => {});
    if (!name.includes("tokens.css")) continue;
    for (const f of (await (await cache.match(name)).text()).matchAll(/url\("([^"]+)"\)/g)) {
      const font = new URL(f[1], new URL(name, self.location.origin));
      await cache.add(font.pathname + font.search).catch(() => {});
    }
  }
}

self.addEventListener("message", (e) => {
  if (e.data && e.data.here && trials) e.waitUntil(keepPage(e.data.here).catch(() => {}));
  if (e.data && e.data.keep) e.waitUntil(keepAll(e.data).catch(() => {}));
});

// A page comes from the network where that answers soon, else from what is kept; styles, scripts
// and photographs have what they are in their address and come from what is kept.
const soon = 2500;
async function page(request) {
  const cache = await caches.open(shelf);
  const at = new URL(request.url);
  const key = at.pathname;
  const kept = await cache.match(key);
  const fresh = fetch(request).then((got) => {
    if (got.ok && !got.redirected && !at.search) cache.put(key, got.clone());
    return got;
  });
  if (!kept) {
    return fresh.catch(() => new Response("<!doctype html><meta charset=utf-8><title>No network</title><p>There is no network, " +
      "and this page was not opened on this phone before.", { status: 503,
        headers: { "Content-Type": "text/html; charset=utf-8" } }));
  }
  const late = new Promise((resolve) => { setTimeout(() => resolve(kept), soon); });
  return Promise.race([fresh.catch(() => kept), late]).then((got) => (got.status >= 500 ? kept : got));
}
async function file(request) {
  const at = new URL(request.url);
  return (await (await caches.open(shelf)).match(at.pathname + at.search)) || fetch(request);
}

self.addEventListener("fetch", (e) => {
  const at = new URL(e.request.url);
  if (e.request.method !== "GET" || at.origin !== self.location.origin) return;
  if (at.pathname.endsWith(".json") || at.pathname.startsWith("/readers/")) return;
  if (trials && e.request.mode === "navigate" && !/^\/trials\/[A-Z2-7]{26}$/.test(at.pathname)) return;
  if (e.request.mode === "navigate") e.respondWith(page(e.request));
  else if (at.search.startsWith("?v=") || at.pathname.includes("/photo/") ||
    at.pathname.endsWith("/style.css")) e.respondWith(file(e.request));
});
