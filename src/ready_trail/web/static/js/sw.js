"use strict";
// Keeps the build pages for when the connection is away. The network always comes first.
const CACHE = "ready-trail-build-1";
const MOST_PAGES = 24;
const WAIT_MS = 4000;

const isBuildPage = (url) => /^\/jobs\/\d+\/(build(\/cut)?|prove(\/\w+)?|record)$/.test(url.pathname);
const isStatic = (url) => url.pathname.startsWith("/static/");

self.addEventListener("install", () => self.skipWaiting());
self.addEventListener("activate", (event) => {
  event.waitUntil(
    (async () => {
      for (const name of await caches.keys()) if (name !== CACHE) await caches.delete(name);
      await self.clients.claim();
    })(),
  );
});

const trim = async (cache) => {
  const pages = (await cache.keys()).filter((request) => isBuildPage(new URL(request.url)));
  for (const request of pages.slice(0, Math.max(0, pages.length - MOST_PAGES))) await cache.delete(request);
};

// What a page shows with is kept beside it, whatever the browser's own cache does.
const keepParts = async (cache, answer) => {
  const text = await answer.text();
  const parts = new Set([...text.matchAll(/"(\/static\/[^"#]+)/g)].map((found) => found[1]));
  for (const part of parts) {
    if (!(await cache.match(part))) await cache.add(part).catch(() => {});
  }
};

// A kept page says that it is one, and when it was made.
const asKept = async (kept) => {
  const made = kept.headers.get("date") || "";
  const text = (await kept.text()).replace(/<html\b/, `<html data-kept="${made.replace(/[^\w,: +-]/g, "")}"`);
  return new Response(text, { status: kept.status, headers: kept.headers });
};

// A slow server is given up only for a page that is kept: without one there is nothing else to show.
const fromNetwork = async (request) => {
  const cache = await caches.open(CACHE);
  const kept = (await cache.match(request)) || (await cache.match(request, { ignoreSearch: true }));
  const control = new AbortController();
  const timer = kept && setTimeout(() => control.abort(), WAIT_MS);
  try {
    const answer = await fetch(request, { signal: control.signal });
    if (answer.status === 403 || new URL(answer.url).pathname === "/pair") {
      // this device was put out: what it kept of the workshop's jobs goes with its next contact
      await caches.delete(CACHE);
      return answer;
    }
    if (answer.ok && !answer.redirected) {
      await cache.delete(request);
      await cache.put(request, answer.clone());
      keepParts(cache, answer.clone());
      await trim(cache);
    }
    return answer;
  } catch (error) {
    if (kept) return asKept(kept);
    throw error;
  } finally {
    clearTimeout(timer);
  }
};

const fromCache = async (request) => {
  const cache = await caches.open(CACHE);
  const kept = await cache.match(request);
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok) await cache.put(request, answer.clone());
  return answer;
};

self.addEventListener("fetch", (event) => {
  const url = new URL(event.request.url);
  if (event.request.method !== "GET" || url.origin !== self.location.origin) return;
  if (isBuildPage(url)) event.respondWith(fromNetwork(event.request));
  else if (isStatic(url)) event.respondWith(fromCache(event.request));
});
