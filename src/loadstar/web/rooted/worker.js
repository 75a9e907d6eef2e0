// Without a network: pages that somebody asked to be kept on this device are shown as they were last seen, with when that was. Every page that can be
// reached comes from the server, and one that is kept is kept anew as it passes. Nothing is kept that nobody asked for.
const WHEN = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", hour: "2-digit", minute: "2-digit" });
const PAGES = "loadstar-pages", SHELL = "loadstar-shell", SLOW_MS = 6000, UNWELL = 502, AT = "X-Loadstar-Kept";
self.addEventListener("install", (event) => event.waitUntil(self.skipWaiting()));
self.addEventListener("activate", (event) => event.waitUntil(self.clients.claim()));

// One page has one name, in whatever order its address says things; empty says nothing.
function named(address) {
  const url = new URL(address);
  const said = [...url.searchParams].filter(([, value]) => value).sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0));
  return `${url.origin}${url.pathname}?${new URLSearchParams(said)}`;
}
// The same in the state that a plan opens with, where only that was kept.
function stateless(name) {
  const url = new URL(name);
  url.searchParams.delete("state");
  return `${url.origin}${url.pathname}?${url.searchParams}`;
}
async function kept(cache, name) {
  const found = await cache.match(name);
  if (found) return found;
  const wanted = stateless(name);
  for (const one of await cache.keys()) if (stateless(one.url) === wanted) return cache.match(one);
  return null;
}
async function keep(cache, name, answer) {
  const headers = new Headers(answer.headers);
  headers.set(AT, new Date().toISOString());
  await cache.put(name, new Response(await answer.blob(), { status: answer.status, headers }));
}
// As it was, with the hour on top.
async function asItWas(found) {
  const headers = new Headers(found.headers);
  if (!(headers.get("Content-Type") || "").includes("html")) return found;
  const words = `Not reached now: this is as it was, ${WHEN.format(new Date(found.headers.get(AT)))}.`;
  const text = (await found.text()).replace('<p id="as-of" role="status" hidden>', `<p id="as-of" role="status">${words}`);
  headers.delete("Content-Length");
  headers.set("X-Loadstar-As-Of", encodeURIComponent(words));
  return new Response(text, { status: 200, headers });
}
async function page(request) {
  const cache = await caches.open(PAGES), name = named(request.url), before = await kept(cache, name);
  try {
    const answer = await (before ? within(SLOW_MS, fetch(request)) : fetch(request)); // what is not kept is waited for
    const whole = answer.ok && !answer.redirected && request.headers.get("X-Alpine-Request") !== "true";
    if (whole && await cache.match(name)) await keep(cache, name, answer.clone());
    return before && answer.status >= UNWELL ? asItWas(before) : answer;
  } catch {
    return before ? asItWas(before) : missing();
  }
}
function missing() {
  const text = `<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>No network</title>
<body><div id="frame"><main id="work"><h1>No network</h1><p>This page is not kept here. What was kept on this device can be looked at: go back, and choose it there. What you pressed is not lost.</p></main></div></body></html>`;
  return new Response(text, { status: 503, headers: { "Content-Type": "text/html; charset=utf-8" } });
}
async function still(request) {
  const cache = await caches.open(SHELL), before = await cache.match(request.url);
  try {
    const answer = await (before ? within(SLOW_MS, fetch(request)) : fetch(request));
    if (answer.ok) await cache.put(request.url, answer.clone());
    return answer;
  } catch {
    return before || Response.error();
  }
}
function within(ms, promise) {
  return Promise.race([promise, new Promise((_, fail) => setTimeout(() => fail(new Error("slow")), ms))]);
}
self.addEventListener("fetch", (event) => {
  const { request } = event, url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (url.pathname.startsWith("/static/")) event.respondWith(still(request));
  else if (request.mode === "navigate" || (request.headers.get("Accept") || "").includes("html") || request.headers.get("X-Alpine-Request") === "true"
    || /\.(jpg|pdf)$/.test(url.pathname)) event.respondWith(page(request));
});
// Keeps pages one after the other, so that the server has breath for others, and says how far it is.
self.addEventListener("message", (event) => {
  if (event.data.keep) event.waitUntil(keepAll(event.data, event.source));
  if (event.data.forget) event.waitUntil(caches.delete(PAGES));
});
async function keepAll({ keep: addresses, under, shell }, client) {
  const cache = await caches.open(PAGES), still = await caches.open(SHELL);
  let done = 0;
  for (const address of shell) await still.add(address).catch(() => {});
  for (const address of addresses) {
    const name = named(new URL(address, self.location.origin));
    try {
      const answer = await fetch(address, { headers: { Accept: "text/html" } });
      if (!answer.ok || answer.redirected) throw new Error("refused");
      await keep(cache, name, answer);
    } catch (error) {
      client.postMessage({ under, done, all: addresses.length, failed: error.name === "QuotaExceededError" ? "full" : "stopped" });
      return;
    }
    done += 1;
    client.postMessage({ under, done, all: addresses.length });
  }
}
