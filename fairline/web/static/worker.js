// In the cellar: pages that were open open again without a signal, and say how old they are. They
// are one person's, and gone as soon as another person, or nobody, is signed in. VERSION and STATIC
// stand before this script.

const PAGES = "pages";
const FILES = `files-${VERSION}`;
const MOST_PAGES = 60;
const NEVER = /^\/(sign-in|join|shared|me|people|api|certificate|health)(\/|$)/;

self.addEventListener("install", (event) => {
  event.waitUntil(caches.open(FILES).then((cache) => cache.addAll(STATIC)).then(() => self.skipWaiting()));
});

self.addEventListener("activate", (event) => {
  const old = (names) => names.filter((name) => name.startsWith("files-") && name !== FILES);
  event.waitUntil(
    caches.keys()
      .then((names) => Promise.all(old(names).map((name) => caches.delete(name))))
      .then(() => self.clients.claim()),
  );
});

self.addEventListener("fetch", (event) => {
  const { request } = event;
  const url = new URL(request.url);
  if (request.method !== "GET" || url.origin !== self.location.origin) return;
  if (request.mode === "navigate") event.respondWith(page(event, request, url));
  else if (url.pathname.startsWith("/static/")) event.respondWith(file(request));
});

const file = async (request) => {
  const kept = await caches.match(request);
  if (kept) return kept;
  const answer = await fetch(request);
  if (answer.ok) await (await caches.open(FILES)).put(request, answer.clone());
  return answer;
};

/** The page as it is now; without a signal as it was, with how old it is. */
const page = async (event, request, url) => {
  try {
    const answer = await fetch(request);
    event.waitUntil(keep(url, answer.clone()));
    return answer;
  } catch (error) {
    const kept = await caches.match(url.pathname + url.search, { cacheName: PAGES });
    if (kept) return aged(kept);
    return nothing(error);
  }
};

/** Whether an answer is a page that may be kept. */
const lasting = (url, answer) => {
  const html = (answer.headers.get("content-type") ?? "").startsWith("text/html");
  return answer.ok && html && !NEVER.test(new URL(answer.url || url).pathname);
};

const keep = async (url, answer) => {
  const who = answer.headers.get("fairline-person");
  if (who === null) return;
  const cache = await caches.open(PAGES);
  const before = await cache.match("/who");
  if (before && (await before.text()) !== who) await emptied(cache);
  await cache.put("/who", new Response(who));
  if (!lasting(url, answer)) return;
  const headers = new Headers(answer.headers);
  headers.set("fairline-kept", String(Date.now()));
  await cache.put(url.pathname + url.search, new Response(await answer.text(), { headers }));
  await fewer(cache);
};

const fewer = async (cache) => {
  const keys = await cache.keys();
  for (const key of keys.slice(0, Math.max(0, keys.length - MOST_PAGES))) {
    if (new URL(key.url).pathname !== "/who") await cache.delete(key);
  }
};

const emptied = async (cache) => {
  for (const key of await cache.keys()) await cache.delete(key);
};

const span = (minutes) => {
  if (minutes < 60) return `${minutes} min`;
  return minutes < 2880 ? `${Math.floor(minutes / 60)} h ${minutes % 60} min` : `${Math.floor(minutes / 1440)} days`;
};

const told = (words) => `<aside aria-label="No signal"><p class="handed-over" role="status">${words}</p></aside>`;

/** A kept page with how old it is; its clocks go on from where they stood. */
const aged = async (kept) => {
  const since = Number(kept.headers.get("fairline-kept"));
  const ago = Math.max(0, Date.now() - since);
  const words = `No signal. This page is ${span(Math.round(ago / 60_000))} old. What you record waits here and goes out once.`;
  const text = (await kept.text())
    .replace(/data-now="([^"]+)"/, (_, now) => `data-now="${new Date(Date.parse(now) + ago).toISOString()}"`)
    .replace(/(<body[^>]*>)/, `$1${told(words)}`);
  return new Response(text, { headers: { "content-type": "text/html; charset=utf-8", ...policy(kept) } });
};

const policy = (kept) => {
  const said = kept.headers.get("content-security-policy");
  return said ? { "content-security-policy": said } : {};
};

const nothing = () => {
  const words = "No signal, and this page was not open before. Go back to one that was.";
  const style = `<link rel="stylesheet" href="/static/style.css?${VERSION}">`;
  const html = `<!doctype html><html lang="en"><head><meta charset="utf-8"><title>No signal</title>
<meta name="viewport" content="width=device-width,initial-scale=1">${style}</head><body>${told(words)}<main id="work"
class="single"><h1>No signal</h1><p><a class="button" href="/">All jobs</a></p></main></body></html>`;
  return new Response(html, { status: 503, headers: { "content-type": "text/html; charset=utf-8" } });
};
