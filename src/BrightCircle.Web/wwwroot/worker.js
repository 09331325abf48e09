// Keeps what a member opened, so that it can be read where there is no network. Only what the house says may be kept is kept: it marks those pages. What
// it says of a page last counts, so what is locked when it is asked for again goes from here too.
"use strict";
// What is the house’s own stays when somebody signs out; the rest goes.
const HOUSE = "house", PAGES = "bright-pages", PARTS = "bright-parts", MOST_PAGES = 120, MOST_PARTS = 400, DAYS = 60;

const trim = async (cache, most) => {
  const keys = (await cache.keys()).filter(k => new URL(k.url).pathname !== "/offline");
  await Promise.all(keys.slice(0, Math.max(0, keys.length - most)).map(k => cache.delete(k)));
};
// Put anew, so that what was used last stands last.
const put = async (name, request, response, most) => {
  const cache = await caches.open(name);
  await cache.delete(request);
  await cache.put(request, response);
  await trim(cache, most);
};

self.addEventListener("install", e => e.waitUntil((async () => {
  const page = await fetch("/offline", { cache: "reload" }), text = await page.clone().text(), house = await caches.open(HOUSE);
  await house.put("/offline", page);
  const named = [...text.matchAll(/(?:href|src)="(\/[^"]+\.(?:css|js|svg)[^"]*)"/g)].map(m => m[1]);
  await Promise.all(named.map(async path => { const r = await fetch(path); if (r.ok) await house.put(path, r); }));
  await self.skipWaiting();
})()));
self.addEventListener("activate", e => e.waitUntil(self.clients.claim()));

const page = async request => {
  const url = new URL(request.url), key = url.origin + url.pathname;
  try {
    const answer = await fetch(request);
    if (answer.ok && !answer.redirected && answer.headers.get("Keep-Offline") === "yes") {
      const kept = new Response(await answer.clone().blob(), { headers: { "Content-Type": "text/html; charset=utf-8", "Kept-At": String(Date.now()) } });
      await put(PAGES, key, kept, MOST_PAGES);
    } else if (answer.status < 500) await (await caches.open(PAGES)).delete(key);
    return answer;
  } catch (gone) {
    const kept = await (await caches.open(PAGES)).match(key);
    if (kept && Date.now() - Number(kept.headers.get("Kept-At")) < DAYS * 864e5) return kept;
    return await caches.match("/offline", { cacheName: HOUSE }) ?? Promise.reject(gone);
  }
};

const part = async (name, request) => {
  try {
    const answer = await fetch(request);
    if (answer.status === 200 && answer.type === "basic") await put(name, request, answer.clone(), MOST_PARTS);
    return answer;
  } catch (gone) {
    return await caches.match(request) ?? Promise.reject(gone);
  }
};

self.addEventListener("fetch", e => {
  const { request } = e, url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== location.origin) return;
  if (request.mode === "navigate") { if (!url.pathname.startsWith("/desk")) e.respondWith(page(request)); }
  // Sound and film are asked for in stretches, and are too large to keep.
  else if (["style", "script", "font", "image"].includes(request.destination) && !request.headers.has("range"))
    e.respondWith(part(request.destination === "image" ? PARTS : HOUSE, request));
});

// A line about what is new, as the house sends it (W3C Push API); a press leads there, in a window that is open already if there is one.
self.addEventListener("push", e => {
  let news = {};
  try { news = e.data?.json() ?? {}; } catch { /* what can’t be read is shown as news without words */ }
  e.waitUntil(self.registration.showNotification(news.title || "Something is new", { body: news.body, tag: news.path, data: { path: news.path || "/me" } }));
});
self.addEventListener("notificationclick", e => {
  e.notification.close();
  e.waitUntil((async () => {
    const url = new URL(e.notification.data?.path || "/me", location.origin), open = await self.clients.matchAll({ type: "window" });
    // An address of another site isn’t followed, whoever sent it.
    if (url.origin !== location.origin) return;
    if (!open.length) return self.clients.openWindow(url.href);
    await open[0].focus();
    return open[0].navigate(url.href);
  })());
});
