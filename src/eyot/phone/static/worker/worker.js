// Keeps Eyot's files and the pages last seen on this device, so that they open without a signal.
// VERSION and SHELL stand before this text: the version of Eyot's files, and their addresses. A new version keeps all of its own files
// before it takes over, and then forgets the old ones with the pages that were made for them: no page meets the files of another version.
/* global VERSION, SHELL */

const FILES = `eyot-files-${VERSION}`, PAGES = `eyot-pages-${VERSION}`, PICTURES = "eyot-pictures";
const OFFLINE = "/offline/";
// Pages vary by cookie and by what asks; here each address has one page, of whoever is logged in.
const ANY = { ignoreVary: true };
const MOST_PAGES = 80, MOST_PICTURES = 400, PATIENCE_MS = 6000, FRESH_MS = 600_000;

self.addEventListener("install", (event) => {
  event.waitUntil((async () => {
    await (await caches.open(FILES)).addAll([...SHELL, OFFLINE]);
    await self.skipWaiting();
  })());
});

self.addEventListener("activate", (event) => {
  event.waitUntil((async () => {
    await self.clients.claim();
    for (const name of await caches.keys()) if (![FILES, PAGES, PICTURES].includes(name)) await caches.delete(name);
    for (const client of await self.clients.matchAll({ type: "window" })) await keep(client.url).catch(() => null);
  })());
});

self.addEventListener("message", (event) => {
  const { pages, anew } = event.data;
  event.waitUntil((async () => { for (const page of pages) await keep(page, anew ? 0 : FRESH_MS).catch(() => null); })());
});

self.addEventListener("fetch", (event) => {
  const { request } = event, url = new URL(request.url);
  if (url.origin !== location.origin) return;
  if (request.method === "POST" && url.pathname.endsWith("/logout/")) event.waitUntil(forget());
  if (request.method !== "GET") return;
  if (SHELL.includes(url.pathname)) event.respondWith(fromFiles(request));
  else if (request.mode === "navigate") event.respondWith(page(event));
  else if (request.destination === "image" && /\/photos\//.test(url.pathname)) event.respondWith(picture(request));
});

async function fromFiles(request) {
  return (await (await caches.open(FILES)).match(request, ANY)) || fetch(request);
}

// Their addresses change with what is in them, so what is kept is never stale.
async function picture(request) {
  const kept = await caches.open(PICTURES), there = await kept.match(request, ANY);
  if (there) return there;
  const answer = await fetch(request);
  if (answer.ok) { await kept.put(request, answer.clone()); await thin(kept, MOST_PICTURES); }
  return answer;
}

// The server first; where it does not answer, or not soon, the page as it was kept.
async function page(event) {
  const address = event.request.url.split("#")[0], kept = await (await caches.open(PAGES)).match(address, ANY);
  try {
    const answer = await (kept ? within(fetch(event.request)) : fetch(event.request));
    if (new URL(address).pathname.startsWith("/login")) await forget();
    if (worthKeeping(answer)) event.waitUntil(put(address, answer.clone()));
    return answer;
  } catch {
    return kept ? marked(kept) : (await caches.match(OFFLINE, ANY)) || Response.error();
  }
}

function within(answer) {
  return Promise.race([answer, new Promise((_, no) => { setTimeout(() => no(new Error("too slow")), PATIENCE_MS); })]);
}

const worthKeeping = (answer) => answer.ok && !answer.redirected && answer.type === "basic" && isOfACollection(answer);
const isOfACollection = (answer) => new URL(answer.url).pathname.startsWith("/in/") && (answer.headers.get("content-type") || "").includes("html");

async function put(address, answer) {
  const headers = new Headers(answer.headers);
  headers.set("x-kept-at", String(Date.now()));
  const pages = await caches.open(PAGES), body = await answer.text();
  await pages.delete(address, ANY);
  await pages.put(address, new Response(body, { status: answer.status, headers }));
  await thin(pages, MOST_PAGES);
}

// Fetches a page to be kept, unless it was kept a short while ago.
async function keep(address, fresh = 0) {
  const plain = address.split("#")[0], there = await (await caches.open(PAGES)).match(plain, ANY);
  if (there && Date.now() - Number(there.headers.get("x-kept-at")) < fresh) return;
  const answer = await fetch(plain, { credentials: "same-origin", headers: { Accept: "text/html" } });
  if (worthKeeping(answer)) await put(plain, answer);
}

async function marked(kept) {
  const at = kept.headers.get("x-kept-at"), body = await kept.text();
  return new Response(body.replace("<html ", `<html data-kept-at="${at}" `), { status: 200, headers: kept.headers });
}

async function thin(cache, most) {
  const keys = await cache.keys();
  for (const key of keys.slice(0, Math.max(0, keys.length - most))) await cache.delete(key);
}

// What was kept of pages and pictures is somebody's: it goes when he logs out.
async function forget() {
  await caches.delete(PAGES);
  await caches.delete(PICTURES);
}
